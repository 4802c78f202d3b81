"""Syncing by sound, and telling voices from bleed, on the demo's files and on made-up conversations."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import DEMO, truth
from scipy.signal import resample_poly

from bench.sync import heard, pair, speech_of
from jaskel.speech.crosstalk import levels, own_speech
from jaskel.speech.sync import Sync, listen, sync


@pytest.fixture(scope="module")
def voices(tmp_path_factory) -> list[np.ndarray]:
    """One voice as it is and one lower, from different sentences."""
    sound = speech_of(DEMO / "mending-a-sail.mp4", tmp_path_factory.mktemp("voices"))
    first, second = np.array_split(sound, 2)
    return [first, resample_poly(second, 6, 5).astype(np.float32)]


@pytest.fixture(scope="module")
def interview(tmp_path_factory) -> dict[str, np.ndarray]:
    folder = tmp_path_factory.mktemp("interview")
    return {name: speech_of(DEMO / f"interview-{name}", folder) for name in ("orla.ogg", "teo.ogg", "camera-teo.mp4")}


class TestSync:
    def test_microphones_with_faint_bleed(self, voices):
        for seed in range(3):
            first, second, offset = pair(voices, 150, 30, 0, seed)
            found = sync(first, second)
            assert found.known
            assert abs(found.offset - offset) < 0.01

    def test_a_clock_that_drifts_is_measured_to_the_end(self, voices):
        first, second, offset = pair(voices, 900, 24, 100e-6, 7)
        found = sync(first, second)
        assert found.drift == pytest.approx(100e-6, abs=8e-6)
        assert abs(found.offset + found.drift * second.length - offset - 100e-6 * second.length) < 0.01

    def test_a_camera_that_began_later(self, interview):
        found = sync(heard(interview["orla.ogg"]), heard(interview["camera-teo.mp4"]))
        assert found.offset == pytest.approx(-truth("interview")["camera_offsets"]["teo"], abs=0.01)
        assert found.sure > 0.8

    def test_other_conversations_are_not_taken_for_the_same(self, voices):
        halves = [half for voice in voices for half in np.array_split(voice, 2)]
        first, _, _ = pair([halves[0], halves[2]], 150, 26, 0, 1)
        _, second, _ = pair([halves[1], halves[3]], 150, 26, 0, 2)
        assert not sync(first, second).known

    def test_silence_and_nothing_tell_nothing(self, voices):
        sounding = heard(voices[0])
        assert not sync(sounding, heard(np.zeros(16_000 * 60, np.float32))).known
        assert not sync(sounding, listen(lambda a, b: np.zeros(0, np.float32), 0.0)).known

    def test_seen_from_the_other_it_is_the_same_place(self):
        found = Sync(12.5, 80e-6, 1.0, 9)
        at = 1000.0
        there = found.offset + at * (1 + found.drift)
        turned = found.turned()
        assert turned.offset + there * (1 + turned.drift) == pytest.approx(at, abs=1e-9)


def test_each_voice_belongs_to_its_own_microphone(interview):
    own = dict(zip(("orla", "teo"), own_speech([levels(interview[f"{name}.ogg"]) for name in ("orla", "teo")]), strict=True))
    words = [word for word in truth("interview")["words"] if word["kind"] == "speech"]
    kept = [own[w["voice"]][round(w["start"] * 100) : round(w["end"] * 100)].mean() > 0.5 for w in words]
    assert np.mean(kept) > 0.99
    other = {"orla": "teo", "teo": "orla"}
    leaked = [own[other[w["voice"]]][round(w["start"] * 100) : round(w["end"] * 100)].mean() > 0.5 for w in words]
    assert np.mean(leaked) < 0.03  # crosstalk is among them
