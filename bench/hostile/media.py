"""Hostile sound, video and pictures, made from a seed: damaged at random places, and each known way of being wrong."""

from __future__ import annotations

import random
import struct
import zlib
from collections.abc import Callable, Iterator
from fractions import Fraction
from itertools import count
from pathlib import Path

import av
import numpy as np
import soundfile
from PIL import Image

RATE = 48_000


def sound(seconds: float, seed: int = 0) -> np.ndarray:
    t = np.arange(round(seconds * RATE)) / RATE
    return (0.3 * np.sin(2 * np.pi * (200 + 40 * seed) * t)).astype(np.float32)


def write(path: Path, seconds: float = 1.0, pictures: bool = False, codec: str = "", shift: Callable[[int], int] = lambda n: 0,
          aspect: Fraction | None = None, size: tuple[int, int] = (64, 48), rate: int = RATE) -> Path:  # fmt: skip
    """A small file whose suffix says its form; ``shift`` gives the ticks by which packet ``n`` of the sound comes late."""
    codecs = {
        ".mp3": "libmp3lame",
        ".flac": "flac",
        ".ogg": "libopus",
        ".wav": "pcm_s16le",
        ".avi": "libmp3lame",
        ".webm": "libopus",
    }
    with av.open(str(path), "w") as out:
        audio = out.add_stream(codec or codecs.get(path.suffix, "aac"), rate=rate, layout="mono")
        video = None
        if pictures:
            video = out.add_stream("libvpx" if path.suffix == ".webm" else "libx264", rate=10)
            video.width, video.height, video.pix_fmt = *size, "yuv420p"
            if aspect:
                video.codec_context.sample_aspect_ratio = aspect
            for number in range(round(seconds * 10)):
                frame = av.VideoFrame.from_ndarray(np.full((size[1], size[0], 3), number * 20 % 256, np.uint8), "rgb24")
                frame.pts, frame.time_base = number, Fraction(1, 10)
                out.mux(video.encode(frame))
            out.mux(video.encode())
        whole = sound(seconds)[None]
        numbers = count()

        def muxed(packets) -> None:
            for packet in packets:
                if packet.pts is not None and (late := shift(next(numbers))):
                    ticks = round(late * Fraction(1, RATE) / packet.time_base)
                    packet.pts += ticks
                    packet.dts += ticks
                out.mux(packet)

        for start in range(0, whole.shape[1], 960):
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(whole[:, start : start + 960]), "fltp", "mono")
            frame.sample_rate, frame.pts, frame.time_base = rate, start, Fraction(1, rate)
            muxed(audio.encode(frame))
        muxed(audio.encode())
    return path


def with_damaged_stamp(path: Path, seconds: int) -> Path:
    """An MPEG transport stream with one stamp of its sound so much later."""
    content = bytearray(path.read_bytes())
    starts = [at for at in range(0, len(content) - 20, 188) for at in [content.find(b"\0\0\1\xc0", at, at + 188)] if at >= 0]
    at = starts[len(starts) // 2] + 9
    stamp = (content[at] >> 1 & 7) << 30 | content[at + 1] << 22 | content[at + 2] >> 1 << 15 | content[at + 3] << 7
    stamp = (stamp | content[at + 4] >> 1) + seconds * 90_000
    content[at : at + 5] = bytes(
        [
            content[at] & 0xF0 | stamp >> 30 << 1 | 1,
            stamp >> 22 & 255,
            stamp >> 14 & 254 | 1,
            stamp >> 7 & 255,
            stamp << 1 & 254 | 1,
        ]
    )
    path.write_bytes(content)
    return path


def png_of(width: int, height: int) -> bytes:
    """A small PNG that unfolds to ``width`` × ``height`` white pixels."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    packer = zlib.compressobj(1)
    row = b"\0" + b"\xff" * (width * 3)
    rows = b"".join(packer.compress(row) for _ in range(height)) + packer.flush()
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def wav(path: Path, channels: int, rate: int, form: int, bits: int, data: bytes, promised: int | None = None) -> Path:
    """A WAV file whose header says whatever it is told to."""
    block = max(1, channels * bits // 8)
    head = struct.pack("<HHIIHH", form, channels, rate, (rate * block) % 2**32, block % 2**16, bits)
    size = len(data) if promised is None else promised
    body = b"WAVEfmt " + struct.pack("<I", len(head)) + head + b"data" + struct.pack("<I", size) + data
    path.write_bytes(b"RIFF" + struct.pack("<I", (len(body)) % 2**32) + body)
    return path


def known(folder: Path, only: str = "") -> Iterator[Path]:
    """Each known way of being wrong, once; or those whose names begin with ``only``."""
    for name, make in KNOWN.items():
        if name.startswith(only):
            made = make(folder / name)
            if isinstance(made, bytes):
                (folder / name).write_bytes(made)
            yield folder / name


def _floats(path: Path, values: np.ndarray) -> None:
    soundfile.write(path, values, RATE, "FLOAT")


def _no_numbers() -> np.ndarray:
    values = sound(1)
    values[100], values[200], values[300], values[400] = np.nan, np.inf, -np.inf, 1e30
    return values


def _joined(path: Path, *rates: int) -> bytes:
    """Files of other rates one after the other."""
    return b"".join(write(path.with_stem(f"part-{rate}"), rate=rate).read_bytes() for rate in rates)


def _cut_off(path: Path) -> bytes:
    image = Image.fromarray(np.random.default_rng(1).integers(0, 255, (300, 400, 3), np.uint8))
    image.save(path)
    return path.read_bytes()[: path.stat().st_size * 2 // 3]


def _playlist(path: Path, text: str) -> bytes:
    """One that names a real file beside it."""
    return text.format(write(path.with_name("named.mp3")).resolve()).encode()


LATE = 40_000 * RATE
NOISE = np.random.default_rng(3).normal(0, 3000, (4800, 64)).astype("<i2").tobytes()

KNOWN: dict[str, Callable[[Path], Path | bytes | None]] = {
    "late.mkv": lambda p: write(p, pictures=True, shift=lambda _: LATE),
    "late-alone.mkv": lambda p: write(p, shift=lambda _: LATE),
    "late.mp4": lambda p: write(p, pictures=True, shift=lambda _: LATE),
    "one-stamp.ts": lambda p: with_damaged_stamp(write(p, 4), 600),
    "rising.mkv": lambda p: write(p, shift=lambda n: n * 3_000 * RATE),
    "no-numbers.wav": lambda p: _floats(p, _no_numbers()),
    "loud.wav": lambda p: _floats(p, sound(1) * 12),
    "channels-64.wav": lambda p: wav(p, 64, RATE, 1, 16, NOISE),
    "channels-255.wav": lambda p: wav(p, 255, RATE, 1, 8, NOISE),
    "channels-0.wav": lambda p: wav(p, 0, RATE, 1, 16, NOISE[:4000]),
    "rate-0.wav": lambda p: wav(p, 1, 0, 1, 16, NOISE[:4000]),
    "rate-1.wav": lambda p: wav(p, 1, 1, 1, 16, NOISE[:400]),
    "rate-huge.wav": lambda p: wav(p, 1, 2**31 - 1, 1, 16, NOISE[:4000]),
    "promised.wav": lambda p: wav(p, 1, RATE, 1, 16, NOISE[:4000], 2**32 - 300),
    "bits-0.wav": lambda p: wav(p, 1, RATE, 1, 0, NOISE[:4000]),
    "changes.aac": lambda p: _joined(p, RATE, 22_050, RATE),
    "changes.mp3": lambda p: _joined(p, RATE, 22_050),
    "aspect-flat.mp4": lambda p: write(p, pictures=True, aspect=Fraction(1, 30_000)),
    "aspect-wide.mp4": lambda p: write(p, pictures=True, aspect=Fraction(30_000)),
    "aspect-true.mp4": lambda p: write(p, pictures=True, aspect=Fraction(16, 15)),
    "tiny.mp4": lambda p: write(p, pictures=True, size=(2, 2)),
    "bomb.png": lambda _: png_of(13_000, 13_000),
    "wide.png": lambda _: png_of(60_000, 4),
    **{f"cut-off.{form}": _cut_off for form in ("jpg", "png", "webp", "gif", "tiff", "bmp")},
    "list.m3u8": lambda p: _playlist(p, "#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\n{}\n#EXT-X-ENDLIST\n"),
    "list.txt": lambda p: _playlist(p, "ffconcat version 1.0\nfile '{}'\n"),
    "list.mpd": lambda p: _playlist(p, "<?xml version='1.0'?><MPD><Period><BaseURL>file://{}</BaseURL></Period></MPD>"),
    "list.sdp": lambda _: b"v=0\nm=audio 49170 RTP/AVP 0\nc=IN IP4 127.0.0.1\n",
    "picture.eps": lambda _: b"%!PS EPSF-3.0\n%%BoundingBox: 0 0 10 10\nshowpage\n",
    "picture.svg": lambda _: b"<svg xmlns='http://www.w3.org/2000/svg'><image href='file:///etc/passwd'/></svg>",
    "words.srt": lambda _: b"1\n00:00:01,000 --> 00:00:02,000\nHello\n",
    "empty.wav": lambda _: b"",
    "newlines.wav": lambda _: b"\n" * 5000,
}
"""What is made under a name: the maker writes the file, or gives what is to be in it."""


def bases(folder: Path) -> list[Path]:
    """Sound files, films and pictures with nothing wrong."""
    folder.mkdir()
    found = [write(folder / f"whole{form}") for form in (".wav", ".mp3", ".flac", ".ogg", ".m4a", ".aac", ".mka")]
    found += [write(folder / f"film{form}", pictures=True) for form in (".mp4", ".mkv", ".mov", ".avi", ".ts", ".webm", ".flv")]
    image = Image.fromarray(np.random.default_rng(2).integers(0, 255, (60, 80, 3), np.uint8))
    for form in ("png", "jpg", "webp", "gif", "tiff", "bmp"):
        image.save(folder / f"still.{form}")
        found.append(folder / f"still.{form}")
    return found


def damaged(content: bytes, chance: random.Random) -> bytes:
    """The same bytes with something wrong."""
    out = bytearray(content)
    for _ in range(chance.randint(1, 3)):
        at = chance.randrange(max(1, len(out))) if chance.random() < 0.5 else chance.randrange(min(400, max(1, len(out))))
        match chance.randrange(7):
            case 0:
                del out[at:]
            case 1:
                del out[at : at + chance.randint(1, 600)]
            case 2:
                out[at : at + chance.randint(1, 400)] = bytes(chance.randint(1, 400))
            case 3:
                for _ in range(chance.randint(1, 40)):
                    if out:
                        out[chance.randrange(len(out))] ^= 1 << chance.randrange(8)
            case 4:
                out[at:at] = chance.randbytes(chance.randint(1, 500))
            case 5:
                out[at : at + 4] = chance.choice([b"\xff\xff\xff\xff", b"\x7f\xff\xff\xff", b"\0\0\0\0", b"\x80\0\0\0"])
            case 6:
                other = chance.randrange(max(1, len(out)))
                out[at : at + 300] = out[other : other + 300]
    return bytes(out)


def files(folder: Path, many: int, seed: int = 1) -> Iterator[Path]:
    """At least ``many`` hostile files: the known ones, and damaged ones."""
    chance = random.Random(seed)
    number = 0
    (folder / "known").mkdir(parents=True)
    for path in known(folder / "known"):
        number += 1
        yield path
    whole = bases(folder / "whole")
    while number < many:
        source = chance.choice(whole)
        path = folder / f"{number:04}-{source.name}"
        path.write_bytes(damaged(source.read_bytes(), chance))
        number += 1
        yield path
