"""Where a splice is heard least: within what was taken out, and faded as the sounds on its two sides ask for."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import RATE
from hypothesis import given, settings
from hypothesis import strategies as st

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.splice import CROSSFADE, Splice, set_splices
from jaskel.core.operations import SetMarks, Strike, apply
from jaskel.core.plan import compile_plan
from jaskel.core.source import Recorded
from jaskel.media.joins import LONGEST_FADE, SLACK, STILL_FADE, Join, best_join
from jaskel.media.sound import mix

SECOND = RATE


def voice(seconds: float, level: float = 0.2, seed: int = 0) -> np.ndarray:
    """Something with the pulse of a voice, a second is a second at 48 kHz, mono."""
    t = np.arange(round(seconds * RATE)) / RATE
    pulses = sum(np.sin(2 * np.pi * 140 * k * t + k) / k for k in range(1, 25))
    return (level * pulses / np.abs(pulses).max()).astype(np.float32)


def rest(seconds: float, seed: int = 1) -> np.ndarray:
    return np.random.default_rng(seed).normal(0, 3e-4, round(seconds * RATE)).astype(np.float32)


def laid(*parts: np.ndarray) -> np.ndarray:
    """Parts one after the other, as stereo."""
    sound = np.concatenate(parts)
    return np.stack([sound, sound], axis=1)


def reading(sound: np.ndarray):
    """Reads the sound; silence before its beginning and after its end."""

    def read(_: str, start: int, end: int, _levels: object = None) -> np.ndarray:
        out = np.zeros((end - start, 2), np.float32)
        a, b = max(0, start), min(len(sound), end)
        out[a - start : b - start] = sound[a:b]
        return out

    return read


def join(sound: np.ndarray, end: float, start: float, crossfade: int = CROSSFADE) -> Join:
    a, b = round(end * RATE), round(start * RATE)
    return best_join(reading(sound), "a", a, "a", b, crossfade, b - a)


def levels(sound: np.ndarray, join: Join, end: float, start: float) -> np.ndarray:
    """Decibels of each 10 ms of the result, from 0.2 s before the join on."""
    a, b = round(end * RATE), round(start * RATE)
    edition = apply(Edition.of([Piece(Recorded("a"), 0, len(sound))]), Strike(((a, b),), "test"))[0]
    splice = Splice(join.crossfade, before=join.before, after=join.after, settled=True)
    edition = apply(edition, SetMarks.of(set_splices(edition.marks, [(Meeting(Recorded("a"), a, Recorded("a"), b), splice)])))[
        0
    ]
    heard = mix(compile_plan(edition), a - RATE // 5, a + RATE // 3, reading(sound)).mean(axis=1)
    hops = heard[: len(heard) // 480 * 480].reshape(-1, 480)
    return 10 * np.log10((hops**2).mean(axis=1) + 1e-12)


class TestFades:
    def test_two_voices_meet_in_a_short_crossfade(self):
        sound = laid(voice(4))
        assert join(sound, 1.0, 2.0).crossfade == CROSSFADE

    def test_a_voice_cut_off_into_a_rest_dies_away(self):
        # Struck is the rest of the voice; what follows begins with a rest.
        sound = laid(voice(2), rest(0.5), voice(1))
        found = join(sound, 1.0, 2.1)
        assert 3 * CROSSFADE < found.crossfade <= LONGEST_FADE
        falls = -np.diff(levels(sound, found, 1.0, 2.1))
        abrupt = -np.diff(levels(sound, Join(0, 0, CROSSFADE), 1.0, 2.1))
        assert falls.max() < abrupt.max() - 6

    def test_in_a_hall_it_dies_away_as_slowly_as_there(self):
        def ending(seconds: float) -> np.ndarray:
            """A voice of a second, and how it dies away."""
            fall = np.linspace(0, 1, round(seconds * RATE), dtype=np.float32)
            return np.concatenate([voice(1), voice(seconds) * 10 ** (-40 * fall / 20), rest(0.5)])

        fades = []
        for seconds in (0.02, 0.3):
            sound = laid(ending(seconds), ending(seconds), ending(seconds), voice(1), rest(0.5), voice(1))
            begun = 3 * (1.5 + seconds)
            fades.append(join(sound, begun + 0.5, begun + 1.2).crossfade)
        assert 2 * fades[0] < fades[1]

    def test_between_two_rests_it_goes_over_slowly(self):
        sound = laid(voice(1), rest(0.4), voice(1), rest(0.4) * 2.2, voice(1))
        assert join(sound, 1.2, 2.6).crossfade == STILL_FADE

    def test_a_voice_that_ended_by_itself_is_not_faded_again(self):
        sound = laid(voice(1), rest(0.3), voice(0.5), rest(0.3), voice(1))
        assert join(sound, 1.1, 1.9).crossfade == CROSSFADE

    def test_a_voice_that_sets_in_by_itself_keeps_its_onset(self):
        sound = laid(voice(1), rest(0.5), voice(0.5), rest(0.4), voice(1))
        assert join(sound, 1.2, 2.4).crossfade == CROSSFADE

    def test_who_wants_no_crossfade_gets_none(self):
        assert join(laid(voice(2), rest(0.5), voice(1)), 1.0, 2.1, crossfade=0).crossfade == 0

    def test_one_that_is_longer_already_stays(self):
        long = LONGEST_FADE * 2
        assert join(laid(voice(2), rest(0.5), voice(1)), 1.0, 2.1, crossfade=long).crossfade == long


class TestPlaces:
    def test_the_join_is_laid_into_the_quiet_beside_what_was_struck(self):
        # After the kept word 30 ms of silence were struck along; there the join is heard least.
        sound = laid(voice(1), rest(0.03), voice(0.5), rest(0.3), voice(1))
        found = join(sound, 1.0, 1.6)
        assert 0 < found.before <= round(0.03 * RATE)

    @settings(max_examples=40)
    @given(st.integers(0, SECOND // 4), st.integers(0, 2 * CROSSFADE), st.integers(0, 9))
    def test_what_plays_on_was_taken_out(self, taken_out, crossfade, seed):
        chance = np.random.default_rng(seed)
        shape = np.repeat(chance.uniform(0.001, 1, 80), RATE // 40)[:, None]
        sound = (shape * chance.normal(0, 0.1, (2 * RATE, 2))).astype(np.float32)
        end = RATE // 2
        found = best_join(reading(sound), "a", end, "a", end + taken_out, crossfade, taken_out)
        assert 0 <= found.before <= SLACK and 0 <= found.after <= SLACK
        if crossfade <= taken_out:
            assert found.before + found.after + found.crossfade <= taken_out

    @pytest.mark.parametrize("gain", [0.05, 1.0])
    def test_the_place_does_not_depend_on_how_loud_it_was_recorded(self, gain):
        sound = laid(voice(1), rest(0.05), voice(0.5), rest(0.3), voice(1))
        found, loud = join(sound * gain, 1.0, 1.7), join(sound, 1.0, 1.7)
        assert abs(found.before - loud.before) <= RATE // 100
