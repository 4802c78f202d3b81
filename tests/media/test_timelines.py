"""Timelines for finishing elsewhere, read back by the library of their form."""

from __future__ import annotations

import re
from dataclasses import replace
from fractions import Fraction
from zipfile import ZipFile

import opentimelineio as otio
import pytest

from jaskel.core.chapters import ProgrammeChapter
from jaskel.core.edition import Edition, Piece
from jaskel.core.markers import Marker, markers_of
from jaskel.core.marks.anchor import Beginning, End, Place, Stretch
from jaskel.core.marks.bed import Bed
from jaskel.core.marks.cutaway import Cutaway
from jaskel.core.marks.mark import Marks
from jaskel.core.marks.note import Note
from jaskel.core.marks.select import Select
from jaskel.core.plan import Material, compile_plan
from jaskel.core.plan.material import Footage
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE
from jaskel.media.aaf import write_aaf
from jaskel.media.edl import edl_of, write_edls
from jaskel.media.timeline import Filed, timeline_of, write_otio, write_otioz

NAMES = {"mic": "Orla.wav", "cam": "Camera.mp4", "pic": "Harbour.jpg", "m": "Theme.opus"}
FILES = {recording: Filed(name) for recording, name in NAMES.items()}
NTSC = [Fraction(each * 1000, 1001) for each in (24, 30, 60)]
RATES = [NTSC[0], Fraction(24), Fraction(25), NTSC[1], Fraction(30), Fraction(50), NTSC[2]]
CUTS = ((2, 7), (11, 19), (20, 31))


def plan_at(rate):
    """Three stretches of a session of a microphone and a camera that begins a second later; a cutaway and music."""
    picture = Picture(1920, 1080, rate)
    session = Session((Track("mic", 60 * RATE), Track("cam", 60 * RATE, RATE, sounds=False, picture=picture)))
    cutaway = Cutaway("c", (Place("s", 12 * RATE), Place("s", 14 * RATE)), "pic")
    marks = Marks({"c": cutaway, "b": Bed("b", (Beginning(), End()), "m")})
    pieces = tuple(Piece(Recorded("s"), round(begin * RATE), round(end * RATE)) for begin, end in CUTS)
    material = Material({"s": session}, lengths={"m": 90 * RATE}, footage={"pic": Footage(picture, 0, False)})
    return compile_plan(Edition(pieces, crossfade=0, marks=marks), material)


def clips(track):
    """Of each clip its name, where it lies in the programme, and where in its file it begins and how long it is, in seconds."""
    for clip in track.find_clips():
        at = clip.range_in_parent().start_time.to_seconds()
        source = clip.source_range
        yield clip.name, at, source.start_time.to_seconds(), source.duration.to_seconds()


@pytest.mark.parametrize("rate", RATES, ids=lambda rate: f"{float(rate):.2f}")
def test_every_cut_is_within_a_frame_at_every_rate(rate, tmp_path):
    write_otio(tmp_path / "a.otio", timeline_of(plan_at(rate), "The dry hull", FILES))
    read = otio.adapters.read_from_file(str(tmp_path / "a.otio"))
    (picture,), (voice, music) = read.video_tracks(), read.audio_tracks()
    frame = float(1 / rate)
    at, wanted = 0.0, []
    for begin, end in CUTS:
        wanted.append(("Orla.wav", at, begin, end - begin))
        at += end - begin
    for found, known in zip(clips(voice), wanted, strict=True):
        assert found[0] == known[0] and found[1:] == pytest.approx(known[1:], abs=frame * 1.01)
    # The camera began a second later; under the cutaway it is not seen.
    cameras = [each for each in clips(picture) if each[0] == "Camera.mp4"]
    assert [each[2] for each in cameras] == pytest.approx([1, 10, 13, 19], abs=frame * 1.01)
    (cutaway,) = [each for each in clips(picture) if each[0] == "Harbour.jpg"]
    assert (cutaway[1], cutaway[3]) == pytest.approx((6, 2), abs=frame * 1.01)
    assert [each[:2] for each in clips(music)] == [("Theme.opus", 0)]
    assert picture.duration().to_seconds() == pytest.approx(24, abs=frame * 1.01)
    # What was struck is there as handles.
    assert all(clip.media_reference.available_range.duration.to_seconds() > 50 for clip in voice.find_clips())


def test_chapters_are_markers_and_media_come_along(tmp_path):
    plan = plan_at(Fraction(25))
    originals = {}
    for recording in NAMES:
        originals[recording] = tmp_path / recording
        originals[recording].write_bytes(recording.encode())
    markers = [Marker("chapter", "Dry planks", 0, 0), Marker("select", "Good", 5 * RATE, 7 * RATE, "moss")]
    timeline = timeline_of(plan, "The dry hull", FILES, markers)
    write_otioz(tmp_path / "a.otioz", timeline, FILES, originals.__getitem__, lambda: None)
    read = otio.adapters.read_from_file(str(tmp_path / "a.otioz"))
    first, second = read.tracks.markers
    assert (first.name, first.color, first.marked_range.start_time.to_seconds()) == ("Dry planks", "BLUE", 0)
    assert (second.name, second.color, second.metadata["jaskel"]["kind"]) == ("Good", "GREEN", "select")
    assert [each.to_seconds() for each in (second.marked_range.start_time, second.marked_range.duration)] == [5, 2]
    with ZipFile(tmp_path / "a.otioz") as bundle:
        assert {f"media/{name}" for name in NAMES.values()} <= {*bundle.namelist()}
        assert bundle.read("media/Camera.mp4") == b"cam"
    assert all(clip.media_reference.target_url.startswith("media/") for clip in read.find_clips())


@pytest.mark.parametrize("rate", RATES, ids=lambda rate: f"{float(rate):.2f}")
def test_aaf_has_every_cut_within_a_frame_and_links_its_media(rate, tmp_path):
    wanted = timeline_of(plan_at(rate), "The dry hull", FILES, place=lambda file: f"file:///media/{file}")
    write_aaf(tmp_path / "a.aaf", wanted)
    read = otio.adapters.read_from_file(str(tmp_path / "a.aaf"), adapter_name="AAF")
    frame = float(1 / rate) * 1.01
    for kind in ("video_tracks", "audio_tracks"):
        for before, after in zip(getattr(wanted, kind)(), getattr(read, kind)(), strict=True):
            for one, other in zip(clips(before), clips(after), strict=True):
                assert other[0] == one[0] and other[1:] == pytest.approx(one[1:], abs=frame)
    links = {clip.media_reference.target_url for clip in read.find_clips()}
    assert links == {f"file:///media/{NAMES[each]}" for each in NAMES}


def test_markers_are_where_what_was_marked_is_heard():
    plan = plan_at(Fraction(25))
    stretch = Select("s", (Stretch("s", 4 * RATE, 12 * RATE),), "moss", note="Good")
    gone = Select("g", (Stretch("s", 8 * RATE, 10 * RATE),), "rose")
    note = Note("n", (Place("s", 21 * RATE),), "louder?")
    found = markers_of(plan, Marks({"s": stretch, "g": gone, "n": note}), [ProgrammeChapter(0, 24 * RATE, "All of it")])
    told = [(each.kind, each.name, each.begin / RATE, each.end / RATE) for each in found]
    good = [("select", "Good", 2, 6)]
    assert told == [("chapter", "All of it", 0, 0), *good, ("note", "louder?", 14, 14)]


def test_sound_alone_has_no_track_of_picture():
    plan = compile_plan(Edition((Piece(Recorded("a"), 0, 5 * RATE),)), replace(Material()))
    timeline = timeline_of(plan, "Talk", {"a": Filed("talk.wav")})
    assert not timeline.video_tracks() and len(timeline.audio_tracks()) == 1


EVENT = re.compile(r"(\d{3})  (\S{1,8}) +(V|A) +C +" + " ".join([r"(\d\d:\d\d:\d\d[:;]\d\d)"] * 4))


@pytest.mark.parametrize("rate", RATES, ids=lambda rate: f"{float(rate):.2f}")
def test_lists_of_cuts_have_every_cut_within_a_frame(rate, tmp_path):
    write_edls(tmp_path / "a.zip", timeline_of(plan_at(rate), "The dry hull", FILES))
    with ZipFile(tmp_path / "a.zip") as lists:
        told = {name: lists.read(name).decode() for name in lists.namelist()}
    assert [*told] == ["01 Picture.edl", "02 Orla.wav.edl", "03 Theme.opus.edl"]
    drops = rate in NTSC[1:]
    assert all(("FCM: DROP FRAME" in text) == drops for text in told.values())
    events = [match.groups() for match in map(EVENT.match, told["02 Orla.wav.edl"].splitlines()) if match]
    at = 0
    for (number, reel, kind, *times), (begin, end) in zip(events, CUTS, strict=True):
        read = [otio.opentime.from_timecode(time, float(rate)).to_seconds() for time in times]
        assert (reel, kind, int(number)) == ("ORLA", "A", CUTS.index((begin, end)) + 1)
        assert read == pytest.approx([begin, end, at, at + end - begin], abs=float(1 / rate) * 1.01)
        at += end - begin


def test_reels_of_like_names_are_told_apart():
    track = otio.schema.Track("Voices", kind="Audio")
    for number in range(3):
        span = otio.opentime.TimeRange(otio.opentime.RationalTime(0, 25), otio.opentime.RationalTime(25, 25))
        track.append(otio.schema.Clip(f"Microphone of the host {number}.wav", None, span))
    reels = [match[2] for match in map(EVENT.match, edl_of(track, "Talk").splitlines()) if match]
    assert reels == ["MICROPHO", "MICROPH2", "MICROPH3"]


TIMED = {
    "mic": Filed("Orla.wav", 10 * 3600 * RATE, ("Orla boom",), ((3 * RATE, "Slate"), (50 * RATE, "Struck"))),
    "cam": Filed("Camera.mp4", 10 * 3600 * RATE + RATE),
    "pic": FILES["pic"],
    "m": FILES["m"],
}
"""A microphone and a camera whose clocks agree; the camera was begun a second later."""


@pytest.mark.parametrize("rate", RATES, ids=lambda rate: f"{float(rate):.2f}")
def test_media_are_named_by_their_own_timecode(rate, tmp_path):
    timeline = timeline_of(plan_at(rate), "The dry hull", TIMED, hour=1, place=lambda file: f"file:///media/{file}")
    write_otio(tmp_path / "a.otio", timeline)
    write_aaf(tmp_path / "a.aaf", timeline)
    frame = float(1 / rate) * 1.01
    begins = {name: (file.begins or 0) / RATE if file.begins else 3600.0 for name, file in TIMED.items()}
    for read in (
        otio.adapters.read_from_file(str(tmp_path / "a.otio")),
        otio.adapters.read_from_file(str(tmp_path / "a.aaf"), adapter_name="AAF"),
    ):
        (picture,), (voice, music) = read.video_tracks(), read.audio_tracks()
        cut = [10 * 3600 + begin for begin, _ in CUTS]
        assert [each[2] for each in clips(voice)] == pytest.approx(cut, abs=frame)
        # What is seen and heard at the same time has the same timecode, whatever was begun when.
        cameras = [each[2] for each in clips(picture) if each[0] == "Camera.mp4"]
        assert cameras == pytest.approx([10 * 3600 + at for at in (2, 11, 14, 20)], abs=frame)
        assert [each[2] for each in clips(music)] == pytest.approx([begins["m"]], abs=frame)
    assert timeline.audio_tracks()[0].name == "Orla boom"
    assert timeline.global_start_time.to_seconds() == pytest.approx(3600, abs=frame)
    told = [(mark.name, mark.marked_range.start_time.to_seconds()) for clip in timeline.find_clips() for mark in clip.markers]
    assert told == [("Slate", pytest.approx(36_003, abs=frame))]


def test_lists_of_cuts_have_the_timecode_of_the_media():
    timeline = timeline_of(plan_at(Fraction(25)), "The dry hull", TIMED)
    text = edl_of(timeline.audio_tracks()[0], "The dry hull")
    assert "10:00:02:00 10:00:07:00 00:00:00:00 00:00:05:00" in text
