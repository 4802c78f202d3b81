"""The pictures of a film as they are stored: encoded, or copied from an original where nothing touches them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, Protocol

import av

from jaskel.core.plan import Frame
from jaskel.media.container import open_media
from jaskel.media.picture import first_picture_stream
from jaskel.media.untouched import SEQUENCE_SET, START, Copies, number_of, profile_of, unit_type

GLOBAL_HEADER = 1 << 22
"""FFmpeg's flag for parameter sets beside the stream instead of in it."""

MOST_SETS = 32
"""So many sequence sets a stream of H.264 has at most."""


class PictureTrack(Protocol):
    """A track that takes the pictures of a film in order, and gives what is to be written of it."""

    def encode(self, picture: av.VideoFrame) -> list[av.Packet]:
        """The next picture."""

    def copy(self, number: int) -> list[av.Packet]:
        """Picture ``number`` of the film, which is copied."""

    def end(self) -> list[av.Packet]:
        """What is left."""


class EncodedPictures:
    """A track of which every picture is encoded."""

    def __init__(self, out: av.container.OutputContainer, encoder: str, frame: Frame, options: Mapping[str, str]) -> None:
        stream: Any = out.add_stream(encoder, rate=frame.rate, options=dict(options))
        stream.width, stream.height, stream.pix_fmt = frame.width, frame.height, "yuv420p"
        stream.thread_type = "AUTO"
        self._stream = stream

    def encode(self, picture: av.VideoFrame) -> list[av.Packet]:
        return list(self._stream.encode(picture))

    def copy(self, number: int) -> list[av.Packet]:
        raise AssertionError("nothing is copied into this track")

    def end(self) -> list[av.Packet]:
        return list(self._stream.encode())


class SplicedPictures:
    """A track of H.264 of which some pictures are copied.

    What is encoded has the profile and the colours of the originals, and parameter sets of another number, which stand beside
    theirs: so one decoder reads all of it from beginning to end. Every stretch begins with a key picture.
    """

    def __init__(self, out: av.container.OutputContainer, copies: Copies, frame: Frame, options: Mapping[str, str]) -> None:
        self._copies, self._frame = copies, frame
        taken = {number_of(each) for each in copies.sets}
        free = next(number for number in range(MOST_SETS) if number not in taken)
        self._options = dict(options) | {"x264-params": f"sps-id={free}"}
        self._options["profile"] = profile_of(copies.copies[0].footage.sets)
        with open_media(copies.copies[0].footage.path) as like:
            template = first_picture_stream(like)
            self._colours = {name: getattr(template.codec_context, name) for name in COLOURS}
            self._stream: Any = out.add_stream_from_template(template)
        self._encoder: Any = None
        first = self._begun()
        own = [unit for unit in (first.extradata or b"").split(START[1:]) if unit.strip(b"\0")]
        self._late = max(copies.late, first.reorder_depth)
        self._stream.codec_context.extradata = b"".join(START + each for each in _in_order([*copies.sets, *own]))
        self._stream.time_base = 1 / frame.rate
        self._copied: Iterator[av.Packet] = iter(())
        self._written = 0

    def _begun(self) -> Any:
        """A new encoder."""
        encoder: Any = av.CodecContext.create("libx264", "w")
        encoder.width, encoder.height, encoder.pix_fmt = self._frame.width, self._frame.height, "yuv420p"
        encoder.framerate, encoder.time_base = self._frame.rate, 1 / self._frame.rate
        encoder.thread_type, encoder.options = "AUTO", self._options
        encoder.flags |= GLOBAL_HEADER
        for name, value in self._colours.items():
            setattr(encoder, name, value)
        encoder.open()
        return encoder

    def encode(self, picture: av.VideoFrame) -> list[av.Packet]:
        self._encoder = self._encoder or self._begun()
        return [self._placed(each) for each in self._encoder.encode(picture)]

    def copy(self, number: int) -> list[av.Packet]:
        before = self.end()
        if copy := self._copies.begins(number):
            self._copied = copy.packets()
        return [*before, self._placed(next(self._copied))]

    def end(self) -> list[av.Packet]:
        left = [self._placed(each) for each in self._encoder.encode()] if self._encoder else []
        self._encoder = None
        return left

    def _placed(self, packet: av.Packet) -> av.Packet:
        """A packet in its place: they are stored one after the other, none later than it is shown."""
        packet.stream, packet.time_base = self._stream, 1 / self._frame.rate
        packet.dts, packet.duration = self._written - self._late, 1
        self._written += 1
        return packet


COLOURS = ("color_primaries", "color_trc", "colorspace", "color_range")


def _in_order(sets: list[bytes]) -> list[bytes]:
    """Sequence sets before picture sets, the one of the highest level first: a player goes by that one."""
    return sorted(sets, key=lambda each: (0, -each[3]) if unit_type(each) == SEQUENCE_SET else (1, 0))
