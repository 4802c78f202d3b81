"""Timelines that come back from elsewhere as editions of the same media."""

from __future__ import annotations

import io

import opentimelineio as otio
import pytest
from conftest import RATE, tone, write_media
from test_retyping import operate


@pytest.fixture
def talk(jaskel, tmp_path):
    episode = jaskel.episode()
    episode["recording"] = jaskel.upload(episode["id"], write_media(tmp_path / "talk.mp4", tone(20), pictures=500))["id"]
    jaskel.work()
    episode["edition"] = episode["editions"][0]["id"]
    return episode


def bring(jaskel, talk, content, status=201, name=""):
    url = f"/api/episodes/{talk['id']}/timelines?name={name}"
    return jaskel._checked(jaskel.client.post(url, data=content), status)


def timeline(*clips, rate=25.0, kind="Audio", begins=0):
    """A timeline of stretches of files, in seconds; media have timecode from ``begins`` on."""
    made = otio.schema.Timeline("From elsewhere")
    track = otio.schema.Track("Sound", kind=kind)
    for file, start, length in clips:
        at = otio.opentime.RationalTime((start + begins) * rate, rate)
        reference = otio.schema.ExternalReference(f"file:///elsewhere/{file}")
        reference.available_range = otio.opentime.TimeRange(
            otio.opentime.RationalTime(begins * rate, rate), otio.opentime.RationalTime(20 * rate, rate)
        )
        track.append(
            otio.schema.Clip(file, reference, otio.opentime.TimeRange(at, otio.opentime.RationalTime(length * rate, rate)))
        )
    made.tracks.append(track)
    return made.to_json_string().encode()


def kept(jaskel, edition):
    plan = jaskel.get(f"/api/editions/{edition}/plan?mode=edited&without=")
    return [(span["start"], span["end"]) for span in plan["spans"]]


def test_what_goes_out_comes_back_within_a_picture(jaskel, talk):
    operate(jaskel, talk["edition"], kind="strike", ranges=[{"begin": 3 * RATE + 777, "end": 9 * RATE}], why="by hand")
    job = jaskel.post(f"/api/editions/{talk['edition']}/exports", {"form": "otio"}, 202)
    jaskel.work("export")
    made = bring(jaskel, talk, jaskel.client.get(f"/api/exports/{job['id']}/file").data, name="Back")
    assert made["cuts"] == 2 and "Picture" in made["left_out"][0]
    head, before = jaskel.get(f"/api/editions/{made['edition']}"), jaskel.get(f"/api/editions/{talk['edition']}")
    assert head["name"] == "Back" and head["running_time"] == pytest.approx(before["running_time"], abs=2 * RATE / 25)


def test_order_repeats_and_timecode_of_media_are_kept(jaskel, talk):
    made = bring(jaskel, talk, timeline(("talk.mp4", 10, 2), ("TALK.mp4", 1, 3), ("talk.mp4", 10, 1), begins=3600))
    head = jaskel.get(f"/api/editions/{made['edition']}")
    assert head["name"] == "From elsewhere" and head["recorded_time"] == 6 * RATE


def test_other_media_are_told_and_nothing_is_made(jaskel, talk):
    told = bring(jaskel, talk, timeline(("gulls.wav", 0, 2)), 422)
    assert "“gulls.wav”" in told["detail"]
    mixed = bring(jaskel, talk, timeline(("gulls.wav", 0, 2), ("talk.mp4", 0, 2)))
    assert mixed["cuts"] == 1 and mixed["left_out"] == ["1 clip of other media"]
    assert len(jaskel.get(f"/api/episodes/{talk['id']}")["editions"]) == 2


def test_beyond_the_end_of_a_recording_nothing_is_taken(jaskel, talk):
    made = bring(jaskel, talk, timeline(("talk.mp4", 18, 60)))
    assert jaskel.get(f"/api/editions/{made['edition']}")["recorded_time"] <= 2.2 * RATE
    assert "other takes" in bring(jaskel, talk, timeline(("talk.mp4", 500, 2)), 422)["detail"]


@pytest.mark.parametrize(
    "content",
    [b"", b"{}", b"[1]", b"\xff\xfe", b'{"OTIO_SCHEMA": "Clip.1"}', b'{"OTIO_SCHEMA": "Timeline.1", "tracks": 5}', b"<xml/>"],
    ids=repr,
)
def test_what_is_no_timeline_is_told(jaskel, talk, content):
    assert "no timeline" in bring(jaskel, talk, content, 422)["detail"]


def test_times_that_cannot_be_are_left_out(jaskel, talk):
    strange = otio.schema.Timeline("Strange")
    track = otio.schema.Track("Sound", kind="Audio")
    for rate in (0.0, -1.0, float("inf")):
        span = otio.opentime.TimeRange(otio.opentime.RationalTime(1, rate), otio.opentime.RationalTime(5, rate))
        track.append(otio.schema.Clip("talk.mp4", otio.schema.ExternalReference("talk.mp4"), span))
    strange.tracks.append(track)
    content = io.BytesIO(strange.to_json_string().encode()).getvalue()
    assert bring(jaskel, talk, content, 422)["code"] in ("not-a-timeline", "other-media", "nothing-there")


def test_what_would_end_the_reader_ends_nothing_else(jaskel, talk):
    """Nested deeply enough, a file ends whatever process reads it by the library."""
    for content in (b"[" * 200_000, b'{"OTIO_SCHEMA":"Timeline.1","tracks":' * 30_000):
        assert bring(jaskel, talk, content, 422)["code"] == "not-a-timeline"
