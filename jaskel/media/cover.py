"""The cover of an episode: its opening card as a square picture, inside files that can hold one."""

from __future__ import annotations

import struct
from base64 import b64encode
from fractions import Fraction
from io import BytesIO
from pathlib import Path
from typing import Any

import av

from jaskel.core.source import OPENING
from jaskel.media.graphics import Artist

SIDE, QUALITY = 1400, 88
"""Pixels of a side, the least that directories of podcasts take, and how finely it is stored as JPEG."""

FRONT = 3
"""The kind of a picture that is a front cover, in ID3 and FLAC alike."""


def draw_cover(artist: Artist) -> bytes:
    """The cover as JPEG, in the style of the show."""
    picture = artist.card(OPENING, SIDE, SIDE).convert("RGB")
    out = BytesIO()
    picture.save(out, "JPEG", quality=QUALITY)
    return out.getvalue()


class Cover:
    """The stream of a cover in a file that is written; it is added before anything is muxed."""

    def __init__(self, out: av.container.OutputContainer, cover: bytes) -> None:
        self._out, self._cover = out, cover
        self._stream: Any = None
        if cover:
            self._stream = out.add_stream("mjpeg", rate=25)
            self._stream.width = self._stream.height = SIDE
            self._stream.pix_fmt = "yuvj420p"
            self._stream.disposition = av.stream.Disposition.attached_pic

    def write(self) -> None:
        """Put it in, once all streams are there."""
        if self._stream is None:
            return
        packet = av.Packet(self._cover)
        packet.stream, packet.pts, packet.dts, packet.time_base = self._stream, 0, 0, Fraction(1, 25)
        packet.is_keyframe = True
        self._out.start_encoding()
        self._out.mux(packet)


def as_comment(cover: bytes) -> str:
    """A cover as a comment of Ogg: a picture block of FLAC (RFC 9639, 8.8) in base 64."""
    mime = b"image/jpeg"
    sizes = struct.pack(">IIIII", SIDE, SIDE, 24, 0, len(cover))
    return b64encode(struct.pack(">II", FRONT, len(mime)) + mime + struct.pack(">I", 0) + sizes + cover).decode()


def put_into_flac(path: Path, cover: bytes) -> None:
    """Put a cover into a FLAC file that is whole; its sound is copied, not encoded again."""
    new = path.with_suffix(".covered")
    with av.open(str(path)) as old, av.open(str(new), "w", format="flac") as out:
        (sound,) = old.streams.audio
        copied = out.add_stream_from_template(sound)
        out.metadata.update(old.metadata)
        picture = Cover(out, cover)
        picture.write()
        for packet in old.demux(sound):
            if packet.dts is not None:
                packet.stream = copied
                out.mux(packet)
    new.replace(path)
