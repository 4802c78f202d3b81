"""Pictures of a recording by time, and the light working copy of them for the page."""

from __future__ import annotations

import struct
from bisect import bisect_right
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import BinaryIO

import av
import av.error
import numpy as np
from PIL import Image, ImageOps

from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE, Ticks, frame_count, frame_start
from jaskel.media.container import STILLS, open_media
from jaskel.media.light import is_high, lowered
from jaskel.media.probe import PictureInfo, pixel_shape

SEEK_AHEAD_SECONDS = 4.0
"""Further ahead than this, seeking to a key picture is cheaper than decoding up to it."""

SKIPPED_SECONDS = Fraction(1, 2)
"""The same where it is known that so much need not be decoded, for a key picture comes after it."""

KEY_PICTURES = {"crf": "18", "preset": "ultrafast", "g": "1"}
"""How short films for the monitor are encoded: every picture can be jumped to."""

WORKING_WIDTH = 640
WORKING_RATE = Fraction(30)


class PictureSource:
    """The pictures of a file in order of time, jumping where asked to. Close it after use.

    ``pixel`` is how wide a pixel is to its height, before the picture is turned upright; ``rate`` tells how many pictures there
    are in a second, about.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self._open()
        self._zero = Fraction(self._container.start_time or 0, av.time_base)
        first = next(self._frames, None)
        # Before its first picture there is nothing to jump to.
        self._first = first[0] if first else None
        self._next = first
        self._ended = first is None

    def _open(self) -> None:
        self._container = open_media(self._path)
        self._stream = first_picture_stream(self._container)
        self._stream.thread_type = "AUTO"
        self.pixel = pixel_shape(self._stream)
        self.rate = Fraction(self._stream.average_rate or WORKING_RATE)
        self._frames = self._decode()
        # With their times beside them: those that pictures tell themselves are changed by encoders.
        self._shown: tuple[Fraction, av.VideoFrame] | None = None
        self._keys: list[Fraction] | None = None

    def close(self) -> None:
        self._container.close()

    def at(self, seconds: Fraction) -> av.VideoFrame | None:
        """The picture on screen at ``seconds`` after the file begins; the nearest one before its first and after its last."""
        if self._first is None:
            return None
        wanted = max(self._first, self._zero + seconds)
        time = self._next[0] if self._next else None
        if (self._shown and wanted < self._shown[0]) or (
            time is not None and (wanted > time + Fraction(SEEK_AHEAD_SECONDS) or self._skips(time, wanted))
        ):
            self._jump(wanted)
        while not self._ended:
            if self._next is None:
                self._next = next(self._frames, None)
                if self._next is None:
                    self._ended = True
                    break
            if self._shown and self._next[0] > wanted:
                break
            self._shown, self._next = self._next, None
        return self._shown[1] if self._shown else None

    def _skips(self, time: Fraction, wanted: Fraction) -> bool:
        """Whether a jump from ``time`` on skips enough."""
        if wanted < time + SKIPPED_SECONDS:
            return False
        if self._keys is None:
            base = Fraction(self._stream.time_base or 0)
            self._keys = [each.timestamp * base for each in self._stream.index_entries if each.is_keyframe]
        # The index knows when they are decoded, which is a little before they are shown.
        before = bisect_right(self._keys, wanted - SKIPPED_SECONDS / 2)
        return before > 0 and self._keys[before - 1] > time + SKIPPED_SECONDS

    def _jump(self, wanted: Fraction) -> None:
        self._container.seek(max(0, int(wanted * av.time_base)), backward=True)
        self._frames, self._shown, self._ended = self._decode(), None, False
        self._next = next(self._frames, None)
        if self._next is None or self._next[0] > wanted + 1:
            # Not every file can be jumped in: it is read again from its beginning then.
            self._container.close()
            self._open()
            self._next = next(self._frames, None)
        self._ended = self._next is None

    def _decode(self) -> Iterator[tuple[Fraction, av.VideoFrame]]:
        packets = self._container.demux(self._stream)
        while True:
            try:
                packet = next(packets)
            except (StopIteration, av.error.FFmpegError):
                return
            try:
                yield from (
                    (frame.pts * frame.time_base, frame)
                    for frame in packet.decode()
                    if frame.pts is not None and frame.time_base
                )
            except av.error.FFmpegError:
                continue


def first_picture_stream(container: av.container.InputContainer) -> av.VideoStream:
    """The film of a file; a cover that is attached to it is none."""
    attached = av.stream.Disposition.attached_pic
    return next(each for each in container.streams.video if not each.disposition & attached)


class StillSource:
    """A single picture, upright; what shows through it is ``ground``."""

    def __init__(self, path: Path, ground: str) -> None:
        try:
            with Image.open(path, formats=STILLS) as opened:
                picture = ImageOps.exif_transpose(opened)
                picture.thumbnail((LARGEST_STILL, LARGEST_STILL))
                picture = picture.convert("RGBA")
        except (OSError, SyntaxError, ValueError, EOFError, struct.error) as error:
            raise Problem("cut-off", "This picture breaks off: its end is missing or damaged. Copy it again.") from error
        solid = Image.new("RGBA", picture.size, ground)
        solid.alpha_composite(picture)
        self._shown = av.VideoFrame.from_ndarray(np.asarray(solid.convert("RGB")), "rgb24").reformat(format="yuv420p")

    def at(self, _seconds: Fraction) -> av.VideoFrame:
        """The picture, whenever it is asked for."""
        return self._shown

    def close(self) -> None:
        """Nothing is held open."""


LARGEST_STILL = 4096
"""The longer side of a still picture in films, in pixels: an outer edge of 4K."""


def upright(frame: av.VideoFrame) -> av.VideoFrame:
    """``frame`` turned as its camera says, and in the range of light that ordinary screens have."""
    turn = int(getattr(frame, "rotation", 0)) % 360
    if is_high(frame):
        frame = lowered(frame)
    if not turn:
        return frame
    return av.VideoFrame.from_ndarray(np.rot90(frame.to_ndarray(format="rgb24"), turn // 90).copy(), "rgb24")


def fitted(frame: av.VideoFrame, width: int, height: int, *, pixel: Fraction = Fraction(1)) -> av.VideoFrame:
    """``frame`` upright and as yuv420p of the given size; where shapes differ with black bars.

    ``pixel`` is how wide its pixels are to their height, as they are stored.
    """
    if int(getattr(frame, "rotation", 0)) % 180:
        pixel = 1 / pixel
    frame = upright(frame)
    if (frame.width, frame.height, frame.format.name) == (width, height, "yuv420p"):
        return frame
    wide = frame.width * pixel
    scale = min(width / wide, Fraction(height, frame.height))
    inner = max(2, round(wide * scale) // 2 * 2), max(2, round(frame.height * scale) // 2 * 2)
    if inner[0] >= width - 2 and inner[1] >= height - 2:
        return frame.reformat(width, height, "yuv420p")
    canvas = np.zeros((height, width, 3), np.uint8)
    x, y = (width - inner[0]) // 2, (height - inner[1]) // 2
    canvas[y : y + inner[1], x : x + inner[0]] = frame.reformat(*inner, "rgb24").to_ndarray()
    return av.VideoFrame.from_ndarray(canvas, "rgb24").reformat(format="yuv420p")


MOST_KEYS = 60
"""So many pictures stand for a whole film until its working copy is made."""


def make_key_copy(original: Path, picture: PictureInfo, seconds: float, copy: Path) -> int:
    """Write a working copy of a film of so many ``seconds`` with :data:`MOST_KEYS` pictures at most, each shown until the next.

    Key pictures are decoded without any other, so this takes some seconds however long the film is. Gives their number.

    Raises
    ------
    Problem
        ``nothing-readable`` when there is no key picture.
    """
    (width, height), rate = _working_size(picture), min(picture.frame_rate, WORKING_RATE)
    last: tuple[int, av.VideoFrame] | None = None
    count = 0
    with open_media(original) as container, av.open(str(copy), "w", format="mp4", options={"movflags": "+faststart"}) as out:
        source = first_picture_stream(container)
        pixel = pixel_shape(source)
        stream = out.add_stream("libx264", rate=rate, options={"crf": "27", "preset": "superfast", "g": "1", "bf": "0"})
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
        for at, frame in _key_pictures(container, source, seconds):
            number = max(last[0] + 1, round(at * rate)) if last else 0
            small = fitted(frame, width, height, pixel=pixel)
            out.mux(stream.encode(stamped(small, number, rate)))
            last, count = (number, small), count + 1
        if last is None:
            raise Problem("nothing-readable", "No picture could be read from this file: it is damaged. Copy it again.")
        if (end := frame_count(round(seconds * RATE), rate) - 1) > last[0]:
            out.mux(stream.encode(stamped(last[1], end, rate)))
        out.mux(stream.encode())
    return count


def _key_pictures(
    container: av.container.InputContainer, source: av.VideoStream, seconds: float
) -> Iterator[tuple[Fraction, av.VideoFrame]]:
    """Key pictures all through a film, with the seconds each is at."""
    zero, decoder = Fraction(container.start_time or 0, av.time_base), source.codec_context
    latest: int | None = None
    for number in range(MOST_KEYS):
        try:
            if number:
                container.seek(int((zero + Fraction(seconds) * number / MOST_KEYS) * av.time_base), backward=True)
                decoder.flush_buffers()
            packet = next((each for each in container.demux(source) if each.is_keyframe), None)
            if packet is None or packet.pts is None or (latest is not None and packet.pts <= latest):
                continue
            frames = [*decoder.decode(packet), *decoder.decode(None)]
            decoder.flush_buffers()
        except (av.error.FFmpegError, OSError):
            continue
        if frames:
            latest = packet.pts
            yield packet.pts * Fraction(source.time_base or 0) - zero, frames[0]


def _working_size(picture: PictureInfo) -> tuple[int, int]:
    width = min(WORKING_WIDTH, picture.width)
    return max(2, width // 2 * 2), max(2, round(picture.height * width / picture.width) // 2 * 2)


def make_working_copy(
    original: Path, picture: PictureInfo, length: Ticks, copy: Path, progress: Callable[[Ticks], None] = lambda _: None
) -> None:
    """Write a small silent MP4 of ``original`` that a browser can jump in: a key picture every half second.

    Raises
    ------
    Problem
        ``nothing-readable`` when not a single picture could be decoded.
    """
    (width, height), rate = _working_size(picture), min(picture.frame_rate, WORKING_RATE)
    source = PictureSource(original)
    try:
        if source.at(Fraction(0)) is None:
            raise Problem("nothing-readable", "No picture could be read from this file: it is damaged. Copy it again.")
        with av.open(str(copy), "w", format="mp4", options={"movflags": "+faststart"}) as out:
            options = {"crf": "27", "preset": "superfast", "g": str(max(1, round(rate / 2)))}
            stream = out.add_stream("libx264", rate=rate, options=options)
            stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
            for number in range(frame_count(length, rate)):
                at = frame_start(number, rate)
                frame = source.at(Fraction(at, RATE))
                if frame is None:
                    break
                out.mux(stream.encode(stamped(fitted(frame, width, height, pixel=source.pixel), number, rate)))
                progress(at)
            out.mux(stream.encode())
    finally:
        source.close()


def stamped(frame: av.VideoFrame, number: int, rate: Fraction) -> av.VideoFrame:
    """``frame`` as picture ``number`` of a stream at ``rate``, leaving the encoder to choose its type."""
    frame.pts, frame.time_base = number, 1 / rate
    frame.pict_type = av.video.frame.PictureType.NONE
    return frame


POSTER = 320, 180


def make_poster(light: Path, out: Path | BinaryIO, at: Fraction | None) -> None:
    """Write a small JPEG of a light copy, filling 16:9: of a film what is seen after ``at`` seconds, else of a still picture.

    Raises
    ------
    Problem
        ``cut-off`` when nothing of it can be read.
    """
    try:
        if at is None:
            with Image.open(light, formats=STILLS) as picture:
                shown = picture.convert("RGB")
        else:
            film = PictureSource(light)
            frame = film.at(at)
            film.close()
            if frame is None:
                raise ValueError("no picture")
            shown = frame.to_image()
        ImageOps.fit(shown, POSTER).save(out, "JPEG", quality=82)
    except (OSError, ValueError) as error:
        raise Problem("cut-off", "This picture breaks off: its end is missing or damaged. Copy it again.") from error


THUMBNAIL = 1280
"""The longer side of the copy of a still picture that the page shows, in pixels."""


def make_thumbnail(original: Path, out: Path) -> None:
    """Write a light copy of a still picture, upright, as PNG.

    Raises
    ------
    Problem
        ``cut-off`` when its pixels cannot be read.
    """
    try:
        with Image.open(original, formats=STILLS) as picture:
            picture.draft("RGB", (THUMBNAIL, THUMBNAIL))  # JPEG is decoded no larger than needed
            picture.thumbnail((THUMBNAIL, THUMBNAIL))
            ImageOps.exif_transpose(picture).convert("RGBA").save(out, "PNG")
    except (OSError, SyntaxError, ValueError, EOFError, struct.error) as error:
        raise Problem("cut-off", "This picture breaks off: its end is missing or damaged. Copy it again.") from error
