"""Exports against a bare decode and encode of the same length and settings."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av

from bench.figure import Figure, timed
from jaskel.core.edition import Edition, Piece
from jaskel.core.operations import Strike, apply
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE, frame_count
from jaskel.demo.shipped import MEDIA
from jaskel.media.conform import conform
from jaskel.media.graphics import Artist
from jaskel.media.probe import probe
from jaskel.media.render import H264, SOUND_BITS, Tags, film_pictures, write_film, write_mp3
from jaskel.media.sound import Shelf
from jaskel.media.untouched import copies_in

TAGS = Tags("Bench", "Bench", "Bench")


SIZE = 1280, 720
AS_CAMERAS_DO = {"crf": "23", "preset": "veryfast", "g": "25"}
"""A key picture each second."""


def figures(folder: Path) -> Iterator[Figure]:
    """MP3 and MP4 of the demo interview with fifty cuts, and MP4 of a film as cameras write it, with joins alone."""
    talk = _Talk(MEDIA / "interview.mp4", folder)
    mp3 = timed(lambda: write_mp3(folder / "a.mp3", talk.plan, talk.read, lambda _: None, TAGS), 2)
    bare_mp3 = timed(lambda: _bare(talk, folder / "b.mp3", with_picture=False), 2)
    splices = len(talk.plan.spans) - 1
    yield Figure(f"MP3 with {splices} splices to bare", f"{mp3 / bare_mp3:.2f}", "≤ 1.5", mp3 / bare_mp3 <= 1.5)
    ratio = _film(talk, folder)
    yield Figure(f"MP4 with {splices} splices to bare", f"{ratio:.2f}", "≤ 1.15", ratio <= 1.15)

    camera = _Talk(_as_filmed(MEDIA / "interview.mp4", folder / "camera.mp4"), folder)
    copied = len(copies_in(camera.plan, lambda _: camera.path, "good").numbers)
    count = frame_count(camera.plan.length, Fraction(25))
    ratio = _film(camera, folder)
    name = f"MP4 with {len(camera.plan.spans) - 1} splices, {copied / count:.0%} of it copied, to bare"
    yield Figure(name, f"{ratio:.2f}", "≤ 0.35", ratio <= 0.35)
    off = _differing(camera, folder)
    yield Figure("pictures copied that differ from the original's", str(off), "0", off == 0)


class _Talk:
    """A film with a cut of half a second in every six, in :data:`folder`."""

    def __init__(self, path: Path, folder: Path) -> None:
        self.path, self.info = path, probe(path, path.name)
        sound = folder / f"{path.stem}.flac"
        length = conform(path, self.info, sound, folder / "e.peaks").length
        self.read = Shelf(lambda _: sound).read
        assert self.info.picture
        picture = Picture(self.info.picture.width, self.info.picture.height, Fraction(25))
        edition = Edition.of([Piece(Recorded("a"), 0, length)])
        cuts = tuple((s * RATE, s * RATE + RATE // 2) for s in range(5, length // RATE, 6))
        cut = apply(edition, Strike(cuts))[0]
        self.plan = compile_plan(cut, Material({"a": Session((Track("a", length, picture=picture),))}))


def _as_filmed(path: Path, target: Path) -> Path:
    """The same film at :data:`SIZE`, compressed :data:`AS_CAMERAS_DO`."""
    with av.open(str(path)) as old, av.open(str(target), "w") as new:
        video: Any = new.add_stream("libx264", rate=25, options=AS_CAMERAS_DO)
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p"
        sound = new.add_stream_from_template(old.streams.audio[0])
        for packet in old.demux(old.streams.video[0], old.streams.audio[0]):
            if packet.stream.type == "audio":
                if packet.size:
                    packet.stream = sound
                    new.mux(packet)
                continue
            for frame in packet.decode():
                assert isinstance(frame, av.VideoFrame)
                larger = frame.reformat(*SIZE)
                larger.pict_type = av.video.frame.PictureType.NONE
                new.mux(video.encode(larger))
        new.mux(video.encode())
    return target


def _film(talk: _Talk, folder: Path) -> float:
    """How long a film takes beside decoding and encoding as much."""
    artist = Artist("Bench", "Bench")
    film = timed(
        lambda: write_film(
            folder / "a.mp4", film_pictures(talk.plan, lambda _: talk.path, artist), talk.read, lambda _: None, TAGS
        ),
        2,
    )
    return film / timed(lambda: _bare(talk, folder / "b.mp4", with_picture=True), 2)


def _bare(talk: _Talk, target: Path, *, with_picture: bool) -> None:
    """Decode and encode as much as the talk's programme has."""
    seconds, picture = talk.plan.length / RATE, talk.plan.frame
    with av.open(str(talk.path)) as old, av.open(str(target), "w") as new:
        sound: Any = new.add_stream("aac" if with_picture else "libmp3lame", rate=RATE, layout="stereo")
        sound.bit_rate = SOUND_BITS
        video: Any = new.add_stream("libx264", rate=25, options=H264["good"]) if with_picture else None
        if video:
            video.width, video.height, video.pix_fmt = picture.width, picture.height, "yuv420p"
            video.thread_type = old.streams.video[0].thread_type = "AUTO"
        resampler = av.AudioResampler("fltp", "stereo", RATE)
        for frame in old.decode(*([old.streams.video[0]] if video else []), old.streams.audio[0]):
            if float(frame.pts * frame.time_base) > seconds:
                break
            if isinstance(frame, av.VideoFrame):
                frame.pict_type = av.video.frame.PictureType.NONE
                new.mux(video.encode(frame))
            else:
                for part in resampler.resample(frame):
                    new.mux(sound.encode(part))
        for stream in (video, sound):
            if stream:
                new.mux(stream.encode())


def _differing(talk: _Talk, folder: Path) -> int:
    """How many pictures of the film that are copied are not those of the original to the bit."""
    wanted = {
        copy.begin + number: copy.first + number
        for copy in copies_in(talk.plan, lambda _: talk.path, "good").copies
        for number in range(copy.count)
    }
    made = _digests(folder / "a.mp4")
    filmed = _digests(talk.path)
    return sum(made[number] != filmed[shown] for number, shown in wanted.items())


def _digests(path: Path) -> list[bytes]:
    with av.open(str(path)) as film:
        return [hashlib.sha256(frame.to_ndarray().tobytes()).digest() for frame in film.decode(video=0)]
