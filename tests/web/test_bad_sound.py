"""What cannot sound good is said plainly: silence, a telephone, six channels, cut-off peaks, music only, nonsense."""

from __future__ import annotations

import numpy as np
import pytest
import soundfile
import soxr
from conftest import RATE, write_media
from test_marks_follow import chain
from test_retyping import operate
from test_sessions import speech


def suggested(jaskel, path):
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], path)["id"]
    jaskel.work("prepare")
    edition = made["editions"][0]["id"]
    return edition, recording, jaskel.get(f"/api/editions/{edition}/suggestion?track={recording}")


def kinds(found):
    return [each["kind"] for each in found["chain"]]


def test_silence_is_told_and_nothing_is_proposed(jaskel, tmp_path):
    _, _, found = suggested(jaskel, write_media(tmp_path / "s.flac", np.zeros(4 * RATE, np.float32)))
    assert found["found"] == ["nothing is heard in it"] and found["chain"] == []


def test_a_telephone_is_told(jaskel, tmp_path, talk):
    path = tmp_path / "phone.wav"
    voice, _ = soundfile.read(talk, frames=20 * RATE, dtype="float32")
    soundfile.write(path, soxr.resample(voice, RATE, 8000), 8000)
    _, _, found = suggested(jaskel, path)
    assert any("telephone" in each for each in found["found"])


def test_six_channels_are_heard_as_two(jaskel, tmp_path):
    path = tmp_path / "six.wav"
    voice = speech(8, 20) * 0.3
    soundfile.write(path, np.stack([voice * 0.1] * 2 + [voice] + [voice * 0.1] * 3, axis=1), RATE)
    edition, recording, found = suggested(jaskel, path)
    assert kinds(found)
    operate(jaskel, edition, kind="processors", track=recording, chain=chain("low cut", "compressor"))
    jaskel.work("process")
    assert jaskel.get(f"/api/editions/{edition}")["tracks"][0]["processed"]


def test_peaks_cut_off_throughout_are_told(jaskel, tmp_path):
    _, _, found = suggested(jaskel, write_media(tmp_path / "c.flac", np.clip(speech(8, 20) * 20, -0.5, 0.5)))
    assert any("cut off" in each for each in found["found"]) and "clipped" in kinds(found)


def test_music_only_is_told(jaskel, tmp_path):
    at = np.arange(8 * RATE) / RATE
    tune = 0.2 * sum(np.sin(2 * np.pi * hertz * at) for hertz in (220, 277, 330)) * (0.6 + 0.4 * np.sin(2 * np.pi * 0.5 * at))
    edition, recording, _ = suggested(jaskel, write_media(tmp_path / "m.flac", tune.astype(np.float32)))
    jaskel.words(recording, [])
    found = jaskel.get(f"/api/editions/{edition}/suggestion?track={recording}")
    assert found["found"][0] == "no words are heard in it" and found["chain"] == []
    assert jaskel.get(f"/api/editions/{edition}/match?track={recording}", 422)["code"] == "no-speech"


@pytest.mark.parametrize(
    "nonsense",
    [
        [{"kind": "reverb", "settings": {}}],
        [{"kind": "hum", "settings": {"nonsense": 1}}],
        [{"kind": "low cut", "settings": {"hertz": 99_999}}],
        [{"kind": "noise", "amount": 400, "settings": {}}],
        [{"kind": "gain", "settings": {"decibels": "loud"}}],
    ],
)
def test_a_chain_with_nonsense_is_refused_with_what_is_wrong(jaskel, tmp_path, nonsense):
    edition, recording, _ = suggested(jaskel, write_media(tmp_path / "v.flac", speech(4, 20)))
    revision = jaskel.get(f"/api/editions/{edition}")["revision"]
    body = {"revision": revision, "operation": {"kind": "processors", "track": recording, "chain": nonsense}}
    refused = jaskel.post(f"/api/editions/{edition}/operations", body, 422)
    assert jaskel.get(f"/api/editions/{edition}")["revision"] == revision and len(refused["detail"]) < 300
