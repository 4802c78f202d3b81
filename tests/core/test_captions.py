"""Captions: broken where speech and grammar break, by rules that none of them breaks."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.captions.check import checked
from jaskel.core.captions.cues import cues
from jaskel.core.captions.rules import USUAL, Rules
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


def test_a_caption_waits_a_little_for_the_one_before_to_be_read():
    quick, slow = "Incomprehensibly quick stevedores", "We wait."
    words = [
        ProgrammeWord(Word(quick, 0, RATE, 1.0), 0, RATE),
        ProgrammeWord(Word("We", RATE, RATE * 3 // 2, 1.0), RATE, RATE * 3 // 2),
    ]
    words += [ProgrammeWord(Word("wait.", RATE * 2, RATE * 3, 1.0), RATE * 2, RATE * 3)]
    kept = replace(words[1], before="cue")
    first, second = cues([words[0], kept, words[2]], 6 * RATE, Rules(late=RATE * 3 // 10))
    none, apart = cues([words[0], kept, words[2]], 6 * RATE, Rules(late=0))
    assert (apart.start, second.start) == (RATE, RATE + RATE * 3 // 10)
    assert first.end == none.end + RATE * 3 // 10 and second.start - first.end == Rules().gap
    assert second.text == slow


rules = st.builds(
    Rules,
    st.integers(12, 50),
    st.integers(1, 3),
    hold=st.booleans(),
    gap=st.sampled_from([0, RATE // 12, RATE // 4]),
)


@given(st.lists(st.sampled_from([*LONG.split(), "|", "Yes.", "incomprehensibilities"]), min_size=1, max_size=80), rules)
def test_no_hard_rule_is_broken_and_no_word_lost(parts, rules):
    words = spoken(" ".join(parts))
    if not words:
        return
    length = words[-1].end + RATE
    made = cues(words, length, rules)
    said = "".join(item.word.text for item in words)
    assert "".join(cue.text for cue in made).replace(" ", "").replace("-", "") == said
    for cue in made:
        assert len(cue.lines) <= rules.lines and all(len(line) <= rules.characters for line in cue.lines)
        assert 0 <= cue.start - cue.words[0].start <= rules.late or cue.words[0].word.text not in cue.text
        assert 0 <= cue.start < cue.end <= length
        assert cue.end - cue.start <= rules.longest or rules.hold or len(cue.words) == 1
    assert all(after.start - before.end >= min(rules.gap, after.start - before.start - 1) for before, after in pairwise(made))
    hard = {"too wide", "too many lines", "overlapping"}
    assert not [each for each in checked(made, rules) if each.fault in hard]


def test_a_sentence_breaks_where_grammar_does():
    made = shown(spoken("We put the plank in the steamer, and we go home for the night because nobody can wait any longer."))
    assert made[0].endswith((",", "night")) and not any(text.split()[-1] in ("the", "in", "and") for text in made)


def test_a_name_and_a_number_stay_together():
    for text in ("He came over to Tarn Hythe", "It was just about 40 metres"):
        for characters in range(14, 30):
            for cue in cues(spoken(text), 10 * RATE, Rules(characters=characters)):
                for line in cue.lines:
                    assert not line.endswith(("Tarn", "40"))


def test_voices_are_named_as_the_rules_have_it():
    words = [
        *spoken("I asked him for a week."),
        *(replace_voice(item, "b", 4 * RATE) for item in spoken("He gave me until Friday.")),
        *(replace_voice(item, "b", 8 * RATE) for item in spoken("And so we dug.")),
    ]
    names = {"a": "Orla", "b": "Teo"}
    texts = lambda rules: [cue.text for cue in cues(words, 20 * RATE, rules, names)]  # noqa: E731
    assert texts(USUAL) == ["I asked him for a week.", "He gave me until Friday.", "And so we dug."]
    assert texts(Rules(names="when it changes"))[1:] == ["TEO: He gave me until Friday.", "And so we dug."]
    assert texts(Rules(names="always", named="dash"))[2] == "– And so we dug."


def replace_voice(item: ProgrammeWord, voice: str, later: int) -> ProgrammeWord:
    word = replace(item.word, voice=voice)
    return ProgrammeWord(word, item.start + later, item.end + later)


def test_hesitations_are_not_written_and_held_cues_stay_until_the_next():
    words = spoken("So, uh, we lift her | and then um we wait.")
    made = cues(words, words[-1].end + RATE, Rules(hold=True, gap=RATE // 10))
    assert "uh" not in made[0].text and made[0].end == made[1].start - RATE // 10
    assert cues(words, words[-1].end + RATE)[0].end < made[0].end


def marked(words: list[ProgrammeWord], text: str, before: str) -> list[ProgrammeWord]:
    """The same words, with something wanted before the first that reads so."""
    at = next(number for number, item in enumerate(words) if item.word.text == text)
    return [replace(item, before=before) if number == at else item for number, item in enumerate(words)]


SENTENCE = "We put the plank in the steamer, and we go home for the night because nobody can wait any longer."


def test_a_caption_or_a_line_begins_where_somebody_wants_it():
    words = spoken(SENTENCE)
    assert any(text.startswith("plank in") for text in shown(marked(words, "plank", "cue")))
    cue = next(cue for cue in cues(marked(words, "plank", "line"), 20 * RATE) if "plank" in cue.text)
    assert any(line.startswith("plank") for line in cue.lines)


def test_what_is_to_stay_together_does_where_a_line_holds_it():
    rules = Rules(characters=18, lines=1)
    words = spoken(SENTENCE)
    assert any(cue.text.endswith("night") for cue in cues(words, 20 * RATE, rules))
    kept = cues(marked(words, "because", "together"), 20 * RATE, rules)
    assert any("night because" in cue.text for cue in kept) and all(len(cue.lines[0]) <= 18 for cue in kept)


def test_a_pause_is_bridged_where_somebody_joins_across_it():
    words = spoken("Yes. | The tide comes in.")
    assert shown(words)[0] == "Yes."
    assert shown(marked(words, "The", "together"))[0] == "Yes. The tide comes in."
