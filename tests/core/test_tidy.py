"""Findings: what is proposed, and what is left alone."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.tidy.cut import RING, ranges_of
from jaskel.core.tidy.fillers import doubled, fillers, unspoken
from jaskel.core.tidy.finding import Finding
from jaskel.core.tidy.rests import long_rests
from jaskel.core.tidy.retakes import retakes
from jaskel.core.transcript import Word

S = 48_000


def spoken(text: str, voice: str = "a") -> list[Word]:
    """Words of a third of a second; "…" is a rest of 0.6 s."""
    words, at = [], 0
    for each in text.split():
        if each == "…":
            at += S * 6 // 10
            continue
        words.append(Word(each, at, at + S // 3, 1.0, voice))
        at += S // 3 + S // 50
    return words


def given_up(text: str) -> list[str]:
    return [finding.text for finding in retakes(spoken(text))]


class TestRetakes:
    @pytest.mark.parametrize(
        ("text", "attempts"),
        [
            ("The first thing you learn, … the first thing you learn about an old hull", ["The first thing you learn,"]),
            ("The tide, … the tide, … the tide comes in at four", ["The tide,", "the tide,"]),
            ("We sail on Friday, sorry, again. We sail on Sunday morning", ["We sail on Friday, sorry, again."]),
            ("He left the, oh, where was I. He left the boat ashore", ["He left the, oh, where was I."]),
            ("Cut the patch two fingers wide, cut the patch three fingers wide", ["Cut the patch two fingers wide,"]),
            ("Thank you for, um, thank you for coming", ["Thank you for, um,"]),
            ("I have been take two I have been here before", ["I have been take two"]),
            ("a knot is a, a knot makes a hole", ["a knot is a,"]),
            ("Every plank that we put into her was, … every plank that we put in had a story",
             ["Every plank that we put into her was,"]),
        ],
    )  # fmt: skip
    def test_attempts_that_were_given_up_are_found(self, text, attempts):
        assert given_up(text) == attempts

    @pytest.mark.parametrize(
        "text",
        [
            "It gets better and better every year",
            "little by little the water rose",
            "round and round and round she went",
            "Six years. Six years is a long time to wait",
            "We need a needle, we need a palm, we need some thread",
            "Down through one, up through two. Down through one, up through two.",
            "She lifted. … She lifted like a sleeper waking up",
            "no no no that is wrong",
            "the boat that sank was the boat that we built",
            "if you can plan it you can build it and if you can build it you can sail it",
        ],
    )
    def test_what_is_meant_stays(self, text):
        assert given_up(text) == []

    def test_another_voice_that_says_the_same_is_no_retake(self):
        words = spoken("He sweeps the floor, … ") + [
            Word(w.text, w.start + 3 * S, w.end + 3 * S, 1.0, "b") for w in spoken("he sweeps the floor better")
        ]
        assert list(retakes(words)) == []

    @given(st.lists(st.sampled_from(["the", "tide", "comes,", "in.", "and", "um", "sorry", "again"]), max_size=40))
    def test_findings_are_in_order_and_apart(self, texts):
        words = spoken(" ".join(texts))
        found = list(retakes(words))
        assert all(a.end <= b.start for a, b in pairwise(found))
        starts = {word.start for word in words}
        assert all(finding.start in starts and finding.end in starts for finding in found)


class TestFillers:
    def test_hesitations_whatever_their_letters_and_commas(self):
        assert [f.text for f in fillers(spoken("Um, so uh the hull er was, hmm, dry umbrella"))] == ["Um,", "uh", "er", "hmm,"]

    def test_only_those_that_are_wanted(self):
        assert [f.text for f in fillers(spoken("Um, so uh"), {"uh"})] == ["uh"]

    def test_small_words_said_twice_but_not_those_that_are_meant(self):
        assert [f.text for f in doubled(spoken("the the hull was very very dry in. In winter"))] == ["the"]

    def test_voice_without_words_between_them(self):
        words = [Word("so", S, S + S // 2), Word("yes", 3 * S, 4 * S)]
        voice = [(S, S + S // 2), (2 * S, 2 * S + S // 3), (3 * S, 4 * S), (5 * S, 8 * S)]
        (found,) = unspoken(words, voice)
        assert (found.start, found.end) == (2 * S, 2 * S + S // 3)


class TestRests:
    def test_only_longer_ones_and_their_middle(self):
        words = [Word("a", 0, S), Word("b", 3 * S, 4 * S), Word("c", 4 * S + S // 2, 5 * S)]
        (found,) = long_rests(words, S, S // 2)
        assert (found.start, found.end, found.action) == (S + S // 4, 3 * S - S // 4, "shorten")

    def test_what_goes_with_a_hesitation_is_the_shorter_rest(self):
        words = [Word("so", 0, S), Word("um", S + S // 5, 2 * S), Word("we", 3 * S, 4 * S)]
        (um,) = fillers(words)
        assert ranges_of([um], words) == ((S + RING, 2 * S),)

    def test_what_lies_side_by_side_goes_as_one(self):
        found = [Finding("retake", 0, S, ""), Finding("long rest", S, 2 * S, "", 100)]
        assert ranges_of(found, []) == ((0, 2 * S),)
