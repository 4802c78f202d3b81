"""How an edition sounds through the API: loudness, even voices, comparison, suggestions, bleeps, stems, the show's way."""

from __future__ import annotations

import io
import zipfile

import numpy as np
import pyloudnorm
import pytest
import soundfile
from conftest import RATE, write_media
from test_marks_follow import chain, sound
from test_retyping import operate, turn
from test_sessions import change, noise, proposed, speech

from jaskel.core.transcript import Word


@pytest.fixture
def pair(jaskel, tmp_path):
    """Two microphones of 24 s: the second is quieter, and each has its own words."""
    first = speech(24, 20)
    second = speech(24, 60) * 0.25 + noise(24, 2) * 0.01
    first[12 * RATE :] *= 0.01
    second[: 12 * RATE] *= 0.01
    episode, session = proposed(jaskel, tmp_path, first, second)
    for index, voice in enumerate(("Orla", "Teo")):
        change(jaskel, session, index, voice=voice)
    jaskel.post(f"/api/sessions/{session['id']}/join")
    tracks = [track["recording"] for track in session["tracks"]]
    voices = [track["voice"] for track in jaskel.get(f"/api/episodes/{episode}")["sessions"][0]["tracks"]]
    for index, track in enumerate(tracks):
        said = [Word(f"{'ab'[index]}{i}.", at := (12 * index + i) * RATE, at + 40_000, voice=voices[index]) for i in range(12)]
        jaskel.words(track, said)
    edition = jaskel.get(f"/api/episodes/{episode}")["editions"][0]["id"]
    return {"id": episode, "edition": edition, "tracks": tracks}


def exported(jaskel, edition, form="wav"):
    job = jaskel.post(f"/api/editions/{edition}/exports", {"form": form}, 202)
    jaskel.work()
    return jaskel.workshop.home.vault.export(job["id"])


def loudness(path) -> float:
    heard, rate = soundfile.read(path)
    return pyloudnorm.Meter(rate).integrated_loudness(heard)


class TestLoudness:
    def test_the_export_has_it_and_the_preview_is_the_same(self, jaskel, pair):
        edition = pair["edition"]
        assert operate(jaskel, edition, kind="loudness", target=-16, peak=-1)["loudness"]["integrated"] is None
        jaskel.work()
        told = jaskel.get(f"/api/editions/{edition}")["loudness"]
        assert abs(told["integrated"] + 16) <= 0.2 and told["true_peak"] <= -0.9 and not told["edited"]
        path = exported(jaskel, edition)
        assert abs(loudness(path) + 16) <= 0.2
        written, _ = soundfile.read(path)
        assert np.abs(written - sound(jaskel, edition)).max() < 1e-4
        curve = jaskel.get(f"/api/editions/{edition}/loudness")
        assert len(curve["short_term"]) in range(22, 26) and abs(curve["integrated"] + 16) <= 0.2

    def test_mono_is_one_channel_at_its_loudness(self, jaskel, pair):
        edition = pair["edition"]
        operate(jaskel, edition, kind="pan", track=pair["tracks"][0], place=-0.5)
        operate(jaskel, edition, kind="loudness", target=-19, mono=True)
        path = exported(jaskel, edition)
        written, _ = soundfile.read(path)
        assert written.ndim == 1 and abs(loudness(path) + 19) <= 0.2
        heard = sound(jaskel, edition)
        assert np.array_equal(heard[:, 0], heard[:, 1]) and np.abs(written - heard[:, 0]).max() < 1e-4

    def test_what_was_cut_since_is_told_and_an_export_measures_again(self, jaskel, pair):
        edition = pair["edition"]
        operate(jaskel, edition, kind="loudness", target=-19)
        jaskel.work()
        head = operate(jaskel, edition, kind="strike", ranges=[{"begin": 0, "end": 14 * RATE}], why="by hand")
        assert head["loudness"]["edited"]
        assert abs(loudness(exported(jaskel, edition)) + 19) <= 0.2
        assert not jaskel.get(f"/api/editions/{edition}")["loudness"]["edited"]
        assert jaskel.post(f"/api/editions/{edition}/loudness", None, 202)["kind"] == "loudness"

    def test_it_is_undone_as_one_step_although_it_was_measured_since(self, jaskel, pair):
        edition = pair["edition"]
        before = sound(jaskel, edition)
        operate(jaskel, edition, kind="loudness", target=-14)
        jaskel.work()
        assert turn(jaskel, edition, "undo")["loudness"]["target"] is None
        assert np.array_equal(sound(jaskel, edition), before)
        assert turn(jaskel, edition, "redo")["loudness"]["target"] == -14

    def test_silence_is_told(self, jaskel, tmp_path):
        made = jaskel.episode()
        jaskel.upload(made["id"], write_media(tmp_path / "s.flac", np.zeros(3 * RATE, np.float32)))
        jaskel.work("prepare")
        operate(jaskel, made["editions"][0]["id"], kind="loudness", target=-16)
        jaskel.work("loudness")
        job = next(each for each in jaskel.get(f"/api/episodes/{made['id']}")["jobs"] if each["kind"] == "loudness")
        assert job["state"] == "failed" and "silent" in job["trouble"]


class TestEvenVoices:
    def test_they_are_within_a_unit_by_one_step(self, jaskel, pair):
        edition, (first, second) = pair["edition"], pair["tracks"]
        jaskel.post(f"/api/editions/{edition}/even", {}, 202)
        jaskel.work()
        levels = {each["track"]: each["decibels"] for each in jaskel.get(f"/api/editions/{edition}")["tracks"]}
        assert levels[second] - levels[first] > 6
        heard = sound(jaskel, edition)
        meter = pyloudnorm.Meter(RATE)
        one, other = (meter.integrated_loudness(heard[begin * RATE : (begin + 12) * RATE]) for begin in (0, 12))
        assert abs(one - other) <= 1
        assert turn(jaskel, edition, "undo")["tracks"] == []

    def test_one_voice_has_nothing_to_be_even_with(self, jaskel, tmp_path):
        made = jaskel.episode()
        recording = jaskel.upload(made["id"], write_media(tmp_path / "a.flac", speech(6, 20)))["id"]
        jaskel.work("prepare")
        jaskel.words(recording, [Word("one", RATE, 2 * RATE)])
        jaskel.post(f"/api/editions/{made['editions'][0]['id']}/even", {}, 202)
        jaskel.work("even")
        job = next(each for each in jaskel.get(f"/api/episodes/{made['id']}")["jobs"] if each["kind"] == "even")
        assert job["state"] == "failed" and "two voices" in job["trouble"]


class TestStrips:
    def heard(self, jaskel, pair, part, **more):
        query = {"track": pair["tracks"][0], "begin": 2 * RATE, "end": 5 * RATE, "part": part, **more}
        wav = jaskel.get(f"/api/editions/{pair['edition']}/tried?" + "&".join(f"{k}={v}" for k, v in query.items())).data
        return soundfile.read(io.BytesIO(wav))[0]

    def test_with_and_without_are_equally_loud(self, jaskel, pair):
        wanted = chain("gain", "low cut", decibels=9)
        operate(jaskel, pair["edition"], kind="processors", track=pair["tracks"][0], chain=wanted)
        wet, dry, left = (self.heard(jaskel, pair, part) for part in ("with", "without", "left"))
        meter = pyloudnorm.Meter(RATE)
        assert len(wet) == len(dry) == 3 * RATE
        assert abs(meter.integrated_loudness(wet) - meter.integrated_loudness(dry)) < 0.5
        assert np.abs(left).max() > 0.01
        one = self.heard(jaskel, pair, "without", without=1)
        assert np.abs(one).max() > np.abs(dry).max() * 0.5
        url = f"/api/editions/{pair['edition']}/tried?track={pair['tracks'][0]}&begin=0&end=48000"
        assert jaskel.get(f"{url}&without=7", 422)["code"] == "no-processor"
        assert jaskel.get(f"/api/editions/{pair['edition']}/tried?track=x&begin=0&end=9", 404)["code"] == "no-track"

    def test_the_quiet_one_is_found_quiet_and_gets_more(self, jaskel, pair):
        told = jaskel.get(f"/api/editions/{pair['edition']}/suggestion?track={pair['tracks'][1]}")
        assert any("quieter than the other voice" in each for each in told["found"])
        assert told["chain"][0]["kind"] == "gain" and len(told["why"]) == len(told["chain"])
        assert operate(jaskel, pair["edition"], kind="processors", track=pair["tracks"][1], chain=told["chain"])["tracks"]

    def test_an_equaliser_is_matched_and_drawn(self, jaskel, pair):
        edition, (first, second) = pair["edition"], pair["tracks"]
        made = jaskel.get(f"/api/editions/{edition}/match?track={second}&to={first}")
        assert made["kind"] == "equaliser" and max(abs(made["settings"][f"{band}_gain"]) for band in BANDS) <= 9
        operate(
            jaskel,
            edition,
            kind="processors",
            track=second,
            chain=[made | {"settings": made["settings"] | {"bell_high_gain": 6}}],
        )
        drawn = jaskel.get(f"/api/editions/{edition}/spectrum?track={second}")
        assert len(drawn["hertz"]) == len(drawn["level"]) == len(drawn["curve"]) and max(drawn["curve"]) > 3


BANDS = ("shelf_low", "bell_low", "bell_high", "shelf_high")


class TestSomeWords:
    def test_they_have_a_chain_of_their_own(self, jaskel, pair):
        edition, track = pair["edition"], pair["tracks"][0]
        before = sound(jaskel, edition)
        wanted = {"kind": "processors here", "track": track, "begin": 4 * RATE, "end": 6 * RATE}
        head = operate(jaskel, edition, chain=chain("gain", decibels=-12), **wanted)
        assert [(each["start"], each["end"]) for each in head["chains_here"]] == [(4 * RATE, 6 * RATE)]
        jaskel.work()
        after = sound(jaskel, edition)
        inside = slice(round(4.1 * RATE), round(5.9 * RATE))
        assert np.abs(after[inside]).max() < 0.5 * np.abs(before[inside]).max()
        assert np.array_equal(after[: 3 * RATE], before[: 3 * RATE])
        assert operate(jaskel, edition, chain=None, **wanted)["chains_here"] == []

    def test_bleeped_ones_are_masked_in_captions(self, jaskel, pair):
        edition = pair["edition"]
        head = operate(jaskel, edition, kind="bleep", begin=3 * RATE, end=3 * RATE + 40_000, track=pair["tracks"][0])
        assert len(head["bleeps"]) == 1
        written = exported(jaskel, edition, "srt").read_text()
        assert "[bleep]." in written and "a3." not in written and "a4." in written
        assert operate(jaskel, edition, kind="bleep", begin=3 * RATE, end=4 * RATE, on=False)["bleeps"] == []


class TestStems:
    def test_laid_together_they_are_the_mix(self, jaskel, pair):
        edition = pair["edition"]
        operate(jaskel, edition, kind="track level", track=pair["tracks"][1], decibels=5)
        with zipfile.ZipFile(exported(jaskel, edition, "stems")) as stems:
            names = stems.namelist()
            heard = [soundfile.read(io.BytesIO(stems.read(name)))[0] for name in names]
        assert [name[3:] for name in names] == ["Orla.wav", "Teo.wav"]
        assert np.abs(sum(heard) - sound(jaskel, edition)).max() < 1e-4
        with zipfile.ZipFile(exported(jaskel, edition, "dry")) as stems:
            dry = soundfile.read(io.BytesIO(stems.read(stems.namelist()[1])))[0]
        assert np.abs(dry).max() < np.abs(heard[1]).max()


class TestTheShowsWay:
    def test_a_second_episode_takes_it_by_one_step(self, jaskel, pair):
        edition, (first, _) = pair["edition"], pair["tracks"]
        theme = jaskel.post(f"/api/episodes/{pair['id']}/sounds", {"sound": "ropewalk-theme"}, 201)["id"]
        jaskel.work("prepare")
        operate(jaskel, edition, kind="processors", track=first, chain=chain("gain", decibels=-3))
        operate(jaskel, edition, kind="bed", recording=theme, begins={"to": "beginning", "offset": -5 * RATE})
        operate(jaskel, edition, kind="loudness", target=-16)
        episode = jaskel.get(f"/api/episodes/{pair['id']}")
        kept = jaskel._checked(jaskel.client.put(f"/api/editions/{edition}/sound"), 200)
        assert (len(kept["voices"]), kept["target"], kept["beds"]) == (2, -16, 1)
        second = jaskel.post(f"/api/shows/{episode['show_id']}/episodes", {"title": "Next week"}, 201)
        reused = jaskel.post(f"/api/episodes/{second['id']}/recordings/reuse", {"recording_id": first}, 201)["id"]
        jaskel.work("prepare")
        again = second["editions"][0]["id"]
        revision = jaskel.get(f"/api/editions/{again}")["revision"]
        head = jaskel.post(f"/api/editions/{again}/sound", {"revision": revision})
        assert [each["track"] for each in head["tracks"]] == [reused] and head["loudness"]["target"] == -16
        assert [each["name"] for each in head["beds"]] == ["Ropewalk theme"]
        assert jaskel.post(f"/api/editions/{again}/sound", {"revision": head["revision"]}, 422)["code"] == "nothing-changed"
        assert turn(jaskel, again, "undo")["tracks"] == []

    def test_chains_are_kept_by_name(self, jaskel, pair):
        show = jaskel.get(f"/api/episodes/{pair['id']}")["show_id"]
        kept = jaskel.post(f"/api/shows/{show}/chains", {"name": "Kitchen", "chain": chain("low cut")})
        assert [each["name"] for each in kept["chains"]] == ["Kitchen"]
        assert jaskel.post(f"/api/shows/{show}/chains", {"name": "x", "chain": [{"kind": "magic"}]}, 422)["code"] == "no-chain"
        assert jaskel._checked(jaskel.client.delete(f"/api/shows/{show}/chains/Kitchen"), 200)["chains"] == []
        assert jaskel.client.delete(f"/api/shows/{show}/chains/Kitchen").status_code == 404
