"""The pictures of a film as they are stored: encoded in parts, or copied from an original where nothing touches them.

Each part begins with an encoder and a studio of its own, and with a key picture. So it does not matter who makes it: parts that
other workers made are the same to the bit as those that are made here in a row, with one exception that is the encoder's: x264,
which takes its number of threads from the number of processors, stores one of the same pictures otherwise by a byte or two now
and then, where its threads wait for much other work. It looks the same.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import closing
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from io import BytesIO
from itertools import pairwise
from pathlib import Path
from typing import Any

import av

from jaskel.core.plan import Frame, Plan
from jaskel.core.timebase import RATE, Ticks, frame_count, frame_start
from jaskel.media.captions.drawn import Overlay
from jaskel.media.container import open_media
from jaskel.media.graphics import Artist, Graphics
from jaskel.media.picture import first_picture_stream, stamped
from jaskel.media.scene import Studio
from jaskel.media.untouched import NOTHING_COPIED, SEQUENCE_SET, START, Copies, number_of, profile_of, unit_type

PART: Ticks = 60 * RATE
"""A part is long enough that its key picture and its studio cost nothing, and short enough to be given back."""

WARMING: Ticks = RATE // 5
"""So much before a part is looked at, too: what turns eyes goes by what it saw before, and nothing is to jump."""

GLOBAL_HEADER = 1 << 22
"""FFmpeg's flag for parameter sets beside the stream instead of in it."""

MOST_SETS = 32
"""So many sequence sets a stream of H.264 has at most."""

COLOURS = ("color_primaries", "color_trc", "colorspace", "color_range")

CARRIER = "nut"
"""The container of parts that wait to be put together: it stores packets as encoders give them, with exact times."""


class ProgrammePictures:
    """The pictures of a programme with what is drawn over them, which are asked for in order. Close it after use."""

    def __init__(self, plan: Plan, originals: Callable[[str], Path], artist: Artist) -> None:
        self._plan, frame = plan, plan.frame
        self._graphics = Graphics(plan.overlays, artist, frame.width, frame.height)
        self._studio = Studio(frame, originals, artist)

    def close(self) -> None:
        self._studio.close()

    @property
    def count(self) -> int:
        """How many there are."""
        return frame_count(self._plan.length, self._plan.frame.rate)

    def picture(self, number: int) -> av.VideoFrame:
        """What is seen in the frame with a number."""
        at = min(frame_start(number, self._plan.frame.rate), self._plan.length - 1)
        layer = self._plan.layer_at(at)
        assert layer is not None
        return self._graphics.over(self._studio.picture(layer.shown, at - layer.begin), at)


@dataclass(frozen=True)
class PictureEncoder:
    """An encoder by its name, for pictures of a ``frame``, with its options and the colours it is told of."""

    name: str
    frame: Frame
    options: Mapping[str, str]
    colours: Mapping[str, Any] = field(default_factory=dict)

    def begun(self) -> Any:
        """A new one."""
        encoder: Any = av.CodecContext.create(self.name, "w")
        encoder.width, encoder.height, encoder.pix_fmt = self.frame.width, self.frame.height, "yuv420p"
        encoder.framerate, encoder.time_base = self.frame.rate, 1 / self.frame.rate
        encoder.thread_type, encoder.options = "AUTO", dict(self.options)
        encoder.flags |= GLOBAL_HEADER
        for name, value in self.colours.items():
            setattr(encoder, name, value)
        encoder.open()
        return encoder

    def sample(self) -> BytesIO:
        """A film of one picture, after which streams can be made that take its packets without an encoder of their own."""
        out = BytesIO()
        with av.open(out, "w", format=CARRIER) as file:
            stream: Any = file.add_stream(self.name, rate=self.frame.rate, options=dict(self.options))
            stream.width, stream.height, stream.pix_fmt = self.frame.width, self.frame.height, "yuv420p"
            stream.thread_type = "AUTO"
            stream.codec_context.flags |= GLOBAL_HEADER
            for name, value in self.colours.items():
                setattr(stream.codec_context, name, value)
            black = av.VideoFrame(self.frame.width, self.frame.height, "yuv420p")
            file.mux([*stream.encode(stamped(black, 0, self.frame.rate)), *stream.encode()])
        out.seek(0)
        return out

    def stream_in(self, out: av.container.OutputContainer) -> Any:
        """A stream of a file for its packets."""
        with av.open(self.sample(), "r") as like:
            stream: Any = out.add_stream_from_template(first_picture_stream(like), opaque=True)
        stream.time_base = 1 / self.frame.rate
        return stream


def beside(copies: Copies, options: Mapping[str, str], frame: Frame) -> PictureEncoder:
    """An encoder for what is not copied.

    It has the profile and the colours of the originals, and parameter sets of another number, which stand beside theirs: so one
    decoder reads all of it from beginning to end.
    """
    taken = {number_of(each) for each in copies.sets}
    free = next(number for number in range(MOST_SETS) if number not in taken)
    footage = copies.copies[0].footage
    with open_media(footage.path) as like:
        context = first_picture_stream(like).codec_context
        colours = {name: getattr(context, name) for name in COLOURS}
    own = {"x264-params": f"sps-id={free}", "profile": profile_of(footage.sets)}
    return PictureEncoder("libx264", frame, {**options, **own}, colours)


@dataclass(frozen=True)
class FilmPictures:
    """What the pictures of a film are made of."""

    plan: Plan
    originals: Callable[[str], Path]
    artist: Artist
    encoder: PictureEncoder
    overlay: Overlay | None = None
    copies: Copies = NOTHING_COPIED
    effort: float = 1.0
    """The work of a picture that is encoded (:mod:`jaskel.media.effort`)."""

    @property
    def count(self) -> int:
        return frame_count(self.plan.length, self.plan.frame.rate)

    @cached_property
    def parts(self) -> tuple[range, ...]:
        """The numbers of the pictures of each part."""
        borders = [*range(0, self.count, frame_count(PART, self.plan.frame.rate)), self.count]
        return tuple(range(one, other) for one, other in pairwise(borders))

    def encodes(self, part: range) -> bool:
        """Whether anything of a part is encoded, and not all of it copied."""
        return any(number not in self.copies.numbers for number in part)

    @cached_property
    def seen(self) -> tuple[object, ...]:
        """All that tells what is seen and how it is encoded."""
        plan, copied = self.plan, [(each.begin, each.end) for each in self.copies.copies]
        drawn = self.overlay.moments if self.overlay else ()
        return plan.frame, plan.layers, plan.overlays, drawn, plan.material.style, plan.material.titles, self.encoder, copied

    def encoded(self, part: range) -> Iterator[list[av.Packet]]:
        """For each picture of a part what its encoder then gives, nothing for one that is copied."""
        rate = self.plan.frame.rate
        overlay = self.overlay.anew() if self.overlay else None
        encoder: Any = None
        with closing(ProgrammePictures(self.plan, self.originals, self.artist)) as seen:
            for number in range(max(0, part.start - frame_count(WARMING, rate)), part.stop):
                if number in self.copies.numbers:
                    if number >= part.start:
                        yield []
                    continue
                shown = seen.picture(number)
                if number < part.start:
                    continue
                if overlay:
                    shown = overlay.over(shown, frame_start(number, rate))
                encoder = encoder or self.encoder.begun()
                packets = encoder.encode(stamped(shown, number, rate))
                if number + 1 == part.stop or number + 1 in self.copies.numbers:
                    packets, encoder = [*packets, *encoder.encode()], None
                yield packets

    def write_part(self, part: range, path: Path, progress: Callable[[Ticks], None]) -> None:
        """The packets of a part as a file, for :func:`packets_of`."""
        with av.open(str(path), "w", format=CARRIER, options={"avoid_negative_ts": "disabled"}) as out:
            stream = self.encoder.stream_in(out)
            late = self.encoder.begun().reorder_depth
            stored = 0
            for number, packets in zip(part, self.encoded(part), strict=True):
                for packet in packets:
                    packet.stream, packet.time_base, packet.dts = stream, 1 / self.encoder.frame.rate, stored - late
                    packet.pts = (packet.pts or 0) - part.start
                    stored += 1
                    out.mux(packet)
                progress(frame_start(number, self.encoder.frame.rate))


def packets_of(path: Path, part: range, rate: Fraction) -> Iterator[av.Packet]:
    """What :meth:`FilmPictures.write_part` wrote, each with the number of its picture in the film as ``pts``."""
    with av.open(str(path), "r", format=CARRIER) as file:
        for packet in file.demux(first_picture_stream(file)):
            if packet.size:
                packet.pts = part.start + round((packet.pts or 0) * packet.time_base * rate)
                yield packet


class PictureTrack:
    """The stream of a film that takes its pictures in order."""

    def __init__(self, out: av.container.OutputContainer, film: FilmPictures) -> None:
        self._copies, self._tick = film.copies, 1 / film.plan.frame.rate
        first = film.encoder.begun()
        self._late = max(film.copies.late, first.reorder_depth)
        if film.copies:
            with open_media(film.copies.copies[0].footage.path) as like:
                self._stream: Any = out.add_stream_from_template(first_picture_stream(like))
            own = [unit for unit in (first.extradata or b"").split(START[1:]) if unit.strip(b"\0")]
            sets = _in_order([*film.copies.sets, *own])
            self._stream.codec_context.extradata = b"".join(START + each for each in sets)
            self._stream.time_base = self._tick
        else:
            self._stream = film.encoder.stream_in(out)
        self._copied: Iterator[av.Packet] = iter(())
        self._written = 0

    def placed(self, packet: av.Packet) -> av.Packet:
        """A packet in its place: they are stored one after the other, none later than it is shown."""
        packet.stream, packet.time_base = self._stream, self._tick
        packet.dts, packet.duration = self._written - self._late, 1
        self._written += 1
        return packet

    def copied(self, number: int) -> av.Packet:
        """Picture ``number`` of the film, which is copied, in its place."""
        if copy := self._copies.begins(number):
            self._copied = copy.packets()
        return self.placed(next(self._copied))


def _in_order(sets: list[bytes]) -> list[bytes]:
    """Sequence sets before picture sets, the one of the highest level first: a player goes by that one."""
    return sorted(sets, key=lambda each: (0, -each[3]) if unit_type(each) == SEQUENCE_SET else (1, 0))
