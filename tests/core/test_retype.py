"""Mending text: what stays keeps its times, and every correction can be taken back."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.codec import from_json, to_json
from jaskel.core.edition import Edition, Piece
from jaskel.core.operations import Retype, Telling, apply
from jaskel.core.problem import Problem
from jaskel.core.retype import changed_words, put_in, retype
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Transcript, Word

LENGTH = 20 * RATE


def transcript(text: str, step: float = 0.5) -> Transcript:
    """A word of 0.4 s every half second."""
    words = [Word(t, round(i * step * RATE), round((i * step + 0.4) * RATE), 0.4, "teo") for i, t in enumerate(text.split())]
    return Transcript(LENGTH, tuple(words))


def mended(known: Transcript, begin: float, end: float, text: str) -> Transcript:
    return put_in(known, retype("a", known, round(begin * RATE), round(end * RATE), text))


def text(known: Transcript) -> str:
    return " ".join(word.text for word in known.words)


class TestRetype:
    def test_one_for_one_keeps_its_time_and_is_sure(self):
        word = mended(transcript("an old hole is leaking"), 1, 1.5, "hull").words[2]
        assert (word.text, word.start, word.end) == ("hull", RATE, round(1.4 * RATE))
        assert word.confidence == 1.0 and not word.loose

    def test_capitals_and_commas_move_nothing(self):
        known = transcript("so we flood her")
        after = mended(known, 0, 2, "So, we flood her.")
        assert [(w.start, w.end) for w in after.words] == [(w.start, w.end) for w in known.words]
        assert not any(w.loose for w in after.words)

    def test_words_around_new_ones_stay(self):
        known = transcript("in tarn hythe harbour now")
        after = mended(known, 0.5, 1.5, "Tarnhythe")
        assert text(after) == "in Tarnhythe harbour now"
        assert after.words[1].loose and after.words[1].start == RATE // 2
        assert after.words[2:] == known.words[3:]

    def test_one_becomes_two_within_its_own_sound(self):
        after = mended(transcript("the boatyard opens"), 0.5, 1.0, "boat yard")
        assert [w.text for w in after.words] == ["the", "boat", "yard", "opens"]
        assert after.words[1].end == after.words[2].start
        assert after.words[2].end == round(0.9 * RATE)

    def test_words_put_into_a_rest(self):
        known = Transcript(LENGTH, (Word("before", 0, RATE), Word("after", 4 * RATE, 5 * RATE)))
        after = mended(known, 2, 3, "um well")
        assert text(after) == "before um well after"
        assert after.words[1].start == 2 * RATE and after.words[2].end == 3 * RATE

    def test_taking_the_text_off_leaves_the_others(self):
        assert text(mended(transcript("one two three"), 0.5, 1, "")) == "one three"

    def test_what_changes_nothing_is_refused(self):
        with pytest.raises(Problem, match="already read so"):
            mended(transcript("one two"), 0, 1, "one two")

    def test_no_room_is_said(self):
        known = Transcript(LENGTH, (Word("a", 0, 5), Word("b", 5, 10)))
        with pytest.raises(Problem, match="no room"):
            retype("a", known, 0, 5, " ".join("x" * 12))

    @given(
        st.lists(st.sampled_from(["so", "the", "hull", "dry", "a"]), min_size=1, max_size=12),
        st.integers(0, 12),
        st.integers(0, 12),
        st.lists(st.sampled_from(["so", "The", "dry,", "boat", "harbour"]), max_size=8),
    )
    def test_any_retyping_keeps_order_and_can_be_taken_back(self, words, a, b, new):
        known = transcript(" ".join(words))
        begin, end = sorted((a * RATE // 2, b * RATE // 2))
        try:
            change = retype("a", known, begin, end, " ".join(new))
        except Problem:
            return
        after = put_in(known, change)  # Transcript itself refuses words that overlap
        assert put_in(after, change.turned).words == known.words


class TestInTheHistory:
    def test_an_edition_stays_as_it_is_and_the_inverse_turns_it_back(self):
        change = retype("a", transcript("an old hole"), RATE, 2 * RATE, "hull")
        edition = Edition((Piece(Recorded("a"), 0, LENGTH),))
        same, inverse = apply(edition, Retype((change,)))
        assert same == edition
        assert inverse == Retype((change.turned,))

    def test_it_goes_through_json_unchanged(self):
        change = retype("a", transcript("an old hole"), RATE, 2 * RATE, "great hull")
        assert from_json(to_json(Retype((change,)))) == Retype((change,))

    def test_it_reads_in_words(self):
        known = transcript("an old hole")
        change = retype("a", known, RATE, 2 * RATE, "hull")
        assert Retype((change,)).summary(Telling(lambda _: "")) == "retyped “hole” as “hull”"
        given = changed_words("a", known, 0, RATE, lambda word: replace(word, voice="orla"))
        assert Retype((given,)).summary(Telling(lambda _: "")) == "gave “an old” to another voice"

    def test_words_changed_elsewhere_are_not_turned_back(self):
        known = transcript("an old hole")
        change = retype("a", known, RATE, 2 * RATE, "hull")
        later = mended(put_in(known, change), 1, 2, "boat")
        with pytest.raises(Problem, match="changed elsewhere"):
            put_in(later, change.turned)


class TestPassages:
    def test_a_person_decides_where_one_begins(self):
        known = transcript("one two three four")
        split = put_in(known, changed_words("a", known, RATE, 3 * RATE // 2, lambda w: replace(w, begins=True)))
        assert [passage.text for passage in split.passages()] == ["one two", "three four"]
        merged = put_in(split, changed_words("a", split, RATE, 3 * RATE // 2, lambda w: replace(w, begins=False)))
        assert [passage.text for passage in merged.passages()] == ["one two three four"]
