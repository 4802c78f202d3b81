"""Exports against a bare decode and encode of the same length and settings."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av

from bench.figure import Figure, timed
from jaskel.core.edition import Edition, Piece
from jaskel.core.operations import Strike, apply
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE
from jaskel.demo.prepare import MEDIA
from jaskel.media.conform import conform
from jaskel.media.graphics import Artist
from jaskel.media.probe import probe
from jaskel.media.render import H264, SOUND_BITS, Tags, write_film, write_mp3
from jaskel.media.sound import Shelf

TAGS = Tags("Bench", "Bench", "Bench")


def figures(folder: Path) -> Iterator[Figure]:
    """MP3 and MP4 of the demo interview with fifty cuts."""
    path = MEDIA / "interview.mp4"
    info = probe(path, "interview")
    done = conform(path, info, folder / "e.flac", folder / "e.peaks")
    shelf = Shelf(lambda _: folder / "e.flac")
    edition = Edition.of([Piece(Recorded("a"), 0, done.length)])
    cut = apply(edition, Strike(tuple((s * RATE, s * RATE + RATE // 2) for s in range(5, 300, 6))))[0]
    picture = Picture(info.picture.width, info.picture.height, Fraction(25))
    plan = compile_plan(cut, Material({"a": Session((Track("a", done.length, picture=picture),))}))
    seconds = plan.length / RATE

    def bare(target: Path, with_picture: bool) -> None:
        with av.open(str(path)) as old, av.open(str(target), "w") as new:
            sound = new.add_stream("aac" if with_picture else "libmp3lame", rate=RATE, layout="stereo")
            sound.bit_rate = SOUND_BITS
            video = new.add_stream("libx264", rate=25, options=H264["good"]) if with_picture else None
            if video:
                video.width, video.height, video.pix_fmt = info.picture.width, info.picture.height, "yuv420p"
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

    mp3 = timed(lambda: write_mp3(folder / "a.mp3", plan, shelf.read, lambda _: None, TAGS), 2)
    bare_mp3 = timed(lambda: bare(folder / "b.mp3", False), 2)
    yield Figure(f"MP3 with {len(plan.spans) - 1} splices to bare", f"{mp3 / bare_mp3:.2f}", "≤ 1.5", mp3 / bare_mp3 <= 1.5)
    film = timed(
        lambda: write_film(folder / "a.mp4", plan, shelf.read, lambda _: path, Artist("Bench", "Bench"), lambda _: None, TAGS),
        2,
    )
    bare_film = timed(lambda: bare(folder / "b.mp4", True), 2)
    ratio = film / bare_film
    yield Figure(f"MP4 with {len(plan.spans) - 1} splices to bare", f"{ratio:.2f}", "≤ 1.15", ratio <= 1.15)
