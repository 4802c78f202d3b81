"""Edges of words drawn in to what sounds, on made-up voices whose edges are known; and what nobody said at an end."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import butter, sosfilt

from jaskel.speech.align import TimedWord
from jaskel.speech.edges import drawn_in
from jaskel.speech.recognise import RATE_16K, HeardWord, without_made_up_end


def sound(*loud: tuple[float, float], seconds: float = 4.0, room: float = 1e-3) -> np.ndarray:
    """Noise of the room, and a hundred times as loud a voice between the given seconds."""
    chance = np.random.default_rng(1)
    track = room * chance.normal(0, 1, round(seconds * RATE_16K))
    for begin, end in loud:
        part = slice(round(begin * RATE_16K), round(end * RATE_16K))
        track[part] += 0.1 * chance.normal(0, 1, part.stop - part.start)
    return track.astype(np.float32)


def edges(track: np.ndarray, *words: tuple[float, float]) -> list[tuple[float, float]]:
    return [(word.start, word.end) for word in drawn_in(track, [TimedWord("word", a, b, 1.0) for a, b in words])]


class TestEdges:
    def test_a_word_that_was_given_the_rest_after_it_ends_where_it_is_last_heard(self):
        (first, second) = edges(sound((1.0, 1.3), (1.5, 1.9)), (1.0, 1.5), (1.5, 1.9))
        assert first == pytest.approx((1.0, 1.3), abs=0.015)
        assert second == pytest.approx((1.5, 1.9), abs=0.015)

    def test_the_silence_of_a_stop_between_two_words_stays_where_it_was(self):
        (first, _) = edges(sound((1.0, 1.3), (1.34, 1.6)), (1.0, 1.34), (1.34, 1.6))
        assert first == pytest.approx((1.0, 1.34), abs=0.001)

    def test_a_word_begins_where_it_is_first_heard(self):
        assert edges(sound((1.1, 1.5)), (1.0, 1.5))[0] == pytest.approx((1.1, 1.5), abs=0.015)

    @pytest.mark.parametrize("border", [1.36, 1.45, 1.25])
    def test_after_a_sentence_the_pause_is_none_of_the_words_beside_it(self, border):
        track = sound((1.0, 1.3), (1.4, 1.9), room=0.01)  # too loud to tell without the mark
        for mark, probability, parted in ((".", 0.9, True), (",", 0.9, True), ("", 0.9, False), (".", 0.1, False)):
            words = [TimedWord(f"word{mark}", 1.0, border, probability), TimedWord("word", border, 1.9, 0.9)]
            first, second = drawn_in(track, words)
            assert ((first.end, second.start) == pytest.approx((1.3, 1.4), abs=0.02)) == parted
            assert (first.start, second.end) == pytest.approx((1.0, 1.9), abs=0.015)

    def test_a_t_that_bursts_after_its_silence_is_part_of_the_word_it_ends(self):
        track = sound((1.0, 1.3), (1.36, 1.38), (1.46, 1.9), room=0.01)
        first, second = drawn_in(track, [TimedWord("first,", 1.0, 1.36, 0.9), TimedWord("word", 1.36, 1.9, 0.9)])
        assert (first.end, second.start) == pytest.approx((1.38, 1.46), abs=0.025)

    def test_an_s_before_the_pause_is_part_of_its_word(self):
        track = sound((1.0, 1.2), (1.4, 1.9), room=0.003)
        hiss = sosfilt(butter(4, 5000, "high", fs=RATE_16K, output="sos"), np.random.default_rng(2).normal(0, 0.02, len(track)))
        part = slice(round(1.2 * RATE_16K), round(1.3 * RATE_16K))
        track[part] += hiss[part].astype(np.float32)
        first, _ = drawn_in(track, [TimedWord("words.", 1.0, 1.37, 0.9), TimedWord("word", 1.37, 1.9, 0.9)])
        assert first.end == pytest.approx(1.3, abs=0.02)

    def test_a_long_silence_before_or_after_its_sound_is_none_of_a_word(self):
        assert edges(sound((1.6, 1.9), (2.5, 3.0)), (1.0, 1.9))[0] == pytest.approx((1.6, 1.9), abs=0.015)
        (first, _) = edges(sound((1.0, 1.15), (1.9, 2.2)), (1.0, 1.9), (1.9, 2.2))
        assert first == pytest.approx((1.0, 1.15), abs=0.015)

    def test_a_soft_sound_in_the_middle_of_a_word_is_kept(self):
        assert edges(sound((1.0, 1.1), (1.2, 1.4)), (1.0, 1.4))[0] == pytest.approx((1.0, 1.4), abs=0.015)

    def test_a_word_that_makes_no_sound_where_it_was_laid_is_lost(self):
        track = sound((1.0, 1.5), (2.5, 3.0))
        (said, silent, late) = drawn_in(track, [TimedWord("word", *at, 1.0) for at in ((1.0, 1.5), (1.9, 2.0), (2.5, 3.0))])
        assert (said.lost, silent.lost, late.lost) == (False, True, False)
        assert (silent.start, silent.end) == (1.9, 2.0)

    def test_a_short_word_right_beside_its_sound_is_not_given_up(self):
        for begin in (0.0, 1.0):
            (word,) = drawn_in(sound((begin + 0.05, begin + 0.5)), [TimedWord("word", begin, begin + 0.04, 1.0)])
            assert not word.lost

    def test_the_end_of_a_hesitation_is_no_part_of_the_word_after_it(self):
        assert edges(sound((0.6, 1.05), (1.3, 1.6)), (1.0, 1.6))[0] == pytest.approx((1.3, 1.6), abs=0.015)

    def test_in_a_loud_room_edges_are_left_alone(self):
        assert edges(sound((1.1, 1.3), room=0.03), (1.0, 1.5))[0] == (1.0, 1.5)

    def test_words_that_were_only_spread_out_are_left_alone(self):
        word = TimedWord("word", 1.0, 1.5, 1.0, fitted=False)
        assert drawn_in(sound((1.1, 1.3)), [word]) == [word]

    @given(st.lists(st.floats(0.1, 3.9), min_size=4, max_size=12, unique=True))
    def test_edges_move_inwards_only_and_no_word_is_lost(self, places):
        places = sorted(places)
        words = [(a, b) for a, b in zip(places[::2], places[1::2], strict=False) if b - a > 0.05]
        track = sound((0.5, 1.2), (1.3, 2.0), (2.5, 3.1))
        for (begin, end), (start, until) in zip(words, edges(track, *words), strict=True):
            assert begin <= start < until <= end


def heard(*words: tuple[str, float]) -> tuple[HeardWord, ...]:
    return tuple(HeardWord(text, place, place + 0.3, sure) for place, (text, sure) in enumerate(words))


class TestMadeUpEnds:
    def test_thanks_that_nobody_said_are_left_out(self):
        words = heard(("The", 0.9), ("end.", 0.9), ("Thank", 0.01), ("you.", 0.98))
        assert without_made_up_end(words, [(0.0, 2.1)], 4.0) == words[:2]

    def test_thanks_that_were_said_stay(self):
        words = heard(("The", 0.9), ("end.", 0.9), ("Thank", 0.9), ("you.", 0.98))
        assert without_made_up_end(words, [(0.0, 2.1)], 4.0) == words

    def test_a_doubtful_sentence_with_voice_stays(self):
        words = heard(("The", 0.9), ("end.", 0.9), ("Um,", 0.01), ("yes.", 0.98))
        assert without_made_up_end(words, [(0.0, 3.9)], 4.0) == words

    def test_where_all_of_it_is_made_up_nothing_is_left(self):
        assert without_made_up_end(heard(("Okay.", 0.01)), [], 1.0) == ()
        assert without_made_up_end((), [], 1.0) == ()
