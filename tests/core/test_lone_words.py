"""Captions of one word: joined to their neighbours where the rules allow it."""

from __future__ import annotations

from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.captions.cues import LONGEST, cues
from jaskel.core.captions.lines import LINES, lines
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word

LONG = "The boats lie quietly beside the old stone quay while somebody paints a green hull."


def spoken(text: str, rest: float = 0.05) -> list[ProgrammeWord]:
    """Words of a quarter of a second; "|" is a rest of a second."""
    out, at = [], 0
    for each in text.split():
        if each == "|":
            at += RATE
            continue
        word = Word(each, at, at + RATE // 4, 0.9, "a")
        out.append(ProgrammeWord(word, word.start, word.end))
        at += RATE // 4 + round(rest * RATE)
    return out


def shown(words: list[ProgrammeWord]) -> list[str]:
    return [" ".join(cue.lines) for cue in cues(words, words[-1].end + RATE)]


def test_the_last_word_of_a_long_sentence_does_not_stand_alone():
    assert all(len(text.split()) > 1 for text in shown(spoken(f"{LONG} {LONG} Yes. {LONG}")))


def test_a_word_between_pauses_stays_alone():
    assert "Yes." in shown(spoken("The boats lie still. | Yes. | The tide comes in."))


@given(st.lists(st.sampled_from([*LONG.split(), "|", "Yes.", "incomprehensibilities"]), min_size=1, max_size=80))
def test_no_rule_is_broken_and_no_word_lost(parts):
    words = spoken(" ".join(parts))
    if not words:
        return
    made = cues(words, words[-1].end + RATE)
    assert " ".join(" ".join(cue.lines) for cue in made) == " ".join(item.word.text for item in words)
    for cue in made:
        assert len(cue.lines) <= LINES == len(lines(["a" * 30, "b" * 30]))
        assert cue.end - cue.start <= LONGEST + RATE
    assert all(before.end <= after.start for before, after in pairwise(made))
