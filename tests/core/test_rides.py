"""Riding by words: the leveller, the gate, bleed, and music that goes down under speech."""

from __future__ import annotations

from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.marks.anchor import Beginning, End
from jaskel.core.marks.bed import Bed
from jaskel.core.plan.beds import AHEAD, TOGETHER, ducked, spoken
from jaskel.core.session import Track
from jaskel.core.sound.processor import Bleed, Gate, Leveller
from jaskel.core.sound.ride import RAMP, STEP, between, changes_of_direction, level_at, ride_of, together
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word

TRACK = Track("a", 100 * RATE, voice="v")


def words(*places: tuple[float, float]) -> list[Word]:
    return [Word("word", round(a * RATE), round(b * RATE), voice="v") for a, b in places]


def loudness(seconds: float, *louder: tuple[float, float, float]) -> list[float]:
    """The mean square of a track at -30 dB, and at other levels in stretches."""
    out = [10**-3.0] * round(seconds * RATE / STEP)
    for start, end, decibels in louder:
        for index in range(round(start * RATE / STEP), round(end * RATE / STEP)):
            out[index] = 10 ** (decibels / 10)
    return out


class TestLeveller:
    SAID = words((1, 2), (2.1, 3), (10, 11), (11.1, 12))
    LOUD = loudness(20, (1, 3, -20), (10, 12, -32))

    def ride(self, **settings):
        return ride_of((Leveller(**settings),), self.SAID, [], TRACK, self.LOUD)

    def test_loud_words_go_down_and_soft_ones_up(self):
        ride = self.ride(strength=1)
        assert level_at(ride, round(1.5 * RATE)) < -2 and level_at(ride, round(11.5 * RATE)) > 5

    def test_no_rest_is_ever_raised(self):
        ride = self.ride(strength=1)
        for tenth in range(200):
            at = tenth * RATE // 10
            if not any(word.start - RAMP <= at <= word.end + RAMP for word in self.SAID):
                assert level_at(ride, at) <= 0

    def test_it_goes_no_further_than_it_may(self):
        assert max(level for _, level in self.ride(strength=1, most=3)) <= 3
        assert max(abs(level) for _, level in self.ride(amount=50)) * 2 <= max(abs(level) for _, level in self.ride()) + 0.01

    def test_without_a_measure_nothing_moves(self):
        assert ride_of((Leveller(),), self.SAID, [], TRACK, None) == ()


def test_a_gate_lets_its_own_words_through_and_nothing_else():
    ride = ride_of((Gate(depth=20),), words((2, 3), (8, 9)), [], TRACK, None)
    assert [level_at(ride, round(at * RATE)) for at in (0.5, 2.5, 5, 8.5, 12)] == [-20, 0, -20, 0, -20]


def test_bleed_goes_down_only_where_others_speak_and_this_voice_does_not():
    others = words((4, 6), (8.2, 8.8), (12, 14))
    ride = ride_of((Bleed(depth=15),), words((2, 3), (8, 9)), others, TRACK, None)
    assert [level_at(ride, round(at * RATE)) for at in (2.5, 5, 7, 8.5, 13, 20)] == [0, -15, 0, 0, -15, 0]


def test_several_rides_add_up():
    assert level_at(together([((0, 0.0), (10, -10.0)), ((5, -2.0),)]), 5) == -7


@given(
    st.lists(st.tuples(st.integers(0, 1000), st.floats(-40, 6)), min_size=2, max_size=12, unique_by=lambda each: each[0]),
    st.integers(0, 900),
    st.integers(1, 100),
)
def test_a_part_of_a_ride_says_the_same_as_all_of_it(points, start, length):
    ride = tuple(sorted(points))
    part = between(ride, start, start + length, -start)
    for at in (start, start + length // 2, start + length - 1):
        assert (level_at(part, at - start) if part else 0.0) == level_at(ride, at) or not part


class TestDucking:
    BED = Bed("b", (Beginning(), End()), "music", duck=10)

    @given(st.lists(st.tuples(st.integers(0, 300), st.integers(1, 20)), min_size=1, max_size=20))
    def test_it_is_down_before_every_word_and_does_not_pump(self, drawn):
        said = spoken([(start * RATE // 5, (start + length) * RATE // 5) for start, length in drawn])
        ride = ducked(said, self.BED)
        assert [at for at, _ in ride] == sorted({at for at, _ in ride})
        for start, end in said:
            for at in (start - AHEAD, start, (start + end) // 2, end):
                assert level_at(ride, at) == -10
        for (_, end), (start, _) in pairwise(said):
            if start - end < RATE:
                assert changes_of_direction(ride, end, start) == 0

    def test_words_with_short_rests_are_one_stretch(self):
        assert spoken([(0, RATE), (RATE + TOGETHER, 3 * RATE)]) == [(0, 3 * RATE)]
