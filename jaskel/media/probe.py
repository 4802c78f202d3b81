"""What a file from outside holds, or why it cannot be used."""

from __future__ import annotations

import shutil
import struct
import warnings
from contextlib import suppress
from dataclasses import asdict, dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import av.error
from PIL import Image

from jaskel.core.problem import Problem
from jaskel.core.timebase import Ticks
from jaskel.media.container import STILLS, open_media
from jaskel.media.source_time import source_time

CUT_OFF_SECONDS = 0.5
"""A file that ends this much before it says it does was cut off."""


@dataclass(frozen=True)
class PictureInfo:
    """The picture of a recording; ``width`` and ``height`` as shown, that is upright and with square pixels."""

    codec: str
    width: int
    height: int
    rate: str

    @property
    def frame_rate(self) -> Fraction:
        return Fraction(self.rate)


@dataclass(frozen=True)
class MediaInfo:
    """What a file says of itself. ``seconds`` is None where it does not say, or can only guess.

    Without sound, ``sound_codec`` is empty; a ``still`` is a single picture. ``loops`` is whether its end joins its beginning,
    where whoever made it said so. ``begins``, ``tracks`` and ``cues`` are what its recorder wrote, see
    :mod:`jaskel.media.source_time`.
    """

    container: str
    seconds: float | None
    sound_codec: str
    channels: int
    sample_rate: int
    picture: PictureInfo | None
    still: bool = False
    loops: bool = False
    begins: Ticks | None = None
    tracks: tuple[str, ...] = ()
    cues: tuple[tuple[Ticks, str], ...] = ()

    @property
    def has_sound(self) -> bool:
        return bool(self.sound_codec)

    @property
    def kind(self) -> str:
        """What a file is for, as far as it tells: ``speech``, ``video`` without sound, or ``still``."""
        return "still" if self.still else "speech" if self.has_sound else "video"

    def to_json(self) -> dict[str, Any]:
        return asdict(self)

    @classmethod
    def from_json(cls, values: dict[str, Any]) -> MediaInfo:
        picture = values["picture"]
        told = {
            "picture": PictureInfo(**picture) if picture else None,
            "tracks": tuple(values.get("tracks", ())),
            "cues": tuple((at, text) for at, text in values.get("cues", ())),
        }
        return cls(**{**values, **told})


MOST_PIXELS, MOST_PIXELS_OF_A_STILL = 40_000_000, 100_000_000
"""Larger than the largest pictures of cameras (8K video has 35 million pixels): decoding them would need the whole memory."""


def probe(path: Path, name: str) -> MediaInfo:
    """Look into the file at ``path``, which the person knows as ``name``.

    Raises
    ------
    Problem
        ``empty``, ``cut-off-before-index``, ``not-media``, ``no-codec`` or ``too-large-a-picture``.
    """
    if path.stat().st_size == 0:
        raise Problem("empty", f"“{name}” is empty: it has no bytes at all. Copy it again from where it came from.")
    if still := _still(path, name):
        return still
    try:
        with open_media(path) as container:
            return _read(container, path, name)
    except (av.error.FFmpegError, UnicodeDecodeError, ValueError) as error:
        raise _unreadable(path, name) from error


def require_sound(info: MediaInfo, name: str) -> MediaInfo:
    """The same ``info``, if there is sound in it.

    Raises
    ------
    Problem
        ``no-sound``.
    """
    if not info.has_sound:
        raise Problem("no-sound", f"“{name}” has no sound, so there are no words in it. Choose a file with speech.")
    return info


def _still(path: Path, name: str) -> MediaInfo | None:
    """A file that is a single picture; None for all others."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of large and damaged pictures, which are told of in words
            with Image.open(path, formats=STILLS) as picture:
                picture.verify()
            with Image.open(path, formats=STILLS) as picture:
                if getattr(picture, "n_frames", 1) > 1:
                    return None
                width, height = picture.size
                # Cameras store how they were held instead of turning the picture.
                if picture.getexif().get(ORIENTATION, 1) >= 5:
                    width, height = height, width
                form = (picture.format or "picture").lower()
    except Image.DecompressionBombError as error:
        raise _too_large(name, MOST_PIXELS_OF_A_STILL) from error
    except (OSError, SyntaxError, ValueError, EOFError, struct.error):
        return None
    if width * height > MOST_PIXELS_OF_A_STILL:
        raise _too_large(name, MOST_PIXELS_OF_A_STILL)
    return MediaInfo(form, None, "", 0, 0, PictureInfo(form, width, height, "25"), still=True)


def _too_large(name: str, most: int) -> Problem:
    return Problem(
        "too-large-a-picture",
        f"The picture of “{name}” has more than {most // 1_000_000} million pixels, too many to work with. "
        "Save it smaller and add that.",
    )


ORIENTATION = 0x0112
"""The tag of Exif that says how a camera was held."""


def _unreadable(path: Path, name: str) -> Problem:
    with path.open("rb") as file:
        head = file.read(12)
    if head[4:8] in (b"ftyp", b"moov", b"mdat", b"wide", b"free"):
        return Problem(
            "cut-off-before-index",
            f"“{name}” was cut off before its index was written, so nothing in it can be read. "
            "Copy it again, or let the recorder repair it.",
        )
    return Problem("not-media", f"“{name}” is not a sound or video file, whatever its name says. Choose another file.")


def _read(container: av.container.InputContainer, path: Path, name: str) -> MediaInfo:
    if not container.streams.audio:
        if picture := _picture(container, name):
            seconds, told = _declared_seconds(container, path), source_time(path, container)
            return MediaInfo(container.format.name.split(",")[0], seconds, "", 0, 0, picture, begins=told.begins)
        raise Problem("not-media", f"“{name}” has neither sound nor picture in it. Choose another file.")
    sound = container.streams.audio[0]
    if _lacks_decoder(sound) or not sound.channels or not LEAST_RATE <= sound.rate <= MOST_RATE:
        raise Problem(
            "no-codec",
            f"The sound of “{name}” is stored in a way ({_codec(sound)}) that is not known here. "
            "Save it as WAV, FLAC, MP3 or AAC and add that.",
        )
    told = source_time(path, container)
    return MediaInfo(
        container=container.format.name.split(",")[0],
        seconds=_declared_seconds(container, path),
        sound_codec=_codec(sound),
        channels=sound.channels,
        sample_rate=sound.rate,
        picture=_picture(container, name),
        begins=told.begins,
        tracks=told.tracks,
        cues=told.cues,
    )


LEAST_RATE, MOST_RATE = 2_000, 768_000
"""Samples a second; no recorder writes fewer or more, so other numbers are damage."""


def _lacks_decoder(stream: av.stream.Stream) -> bool:
    try:
        return stream.codec_context is None or not stream.codec_context.codec.is_decoder
    except (ValueError, AttributeError):
        return True


def _codec(stream: av.stream.Stream) -> str:
    try:
        return stream.codec_context.name if stream.codec_context else "unknown"
    except (ValueError, AttributeError):
        return "unknown"


WIDEST = 10
"""The most by which a pixel may be wider than high or higher than wide; what says more is damaged, and taken as square."""


def _picture(container: av.container.InputContainer, name: str) -> PictureInfo | None:
    for stream in container.streams.video:
        if stream.disposition & av.stream.Disposition.attached_pic or _lacks_decoder(stream):
            continue
        width, height = stream.width, stream.height
        if width < 2 or height < 2:
            continue
        width = max(2, round(width * pixel_shape(stream)))
        if max(width, stream.width) * height > MOST_PIXELS:
            raise _too_large(name, MOST_PIXELS)
        if rotation(container, stream) % 180:
            width, height = height, width
        rate = stream.average_rate or stream.guessed_rate or Fraction(25)
        rate = min(rate, Fraction(120)) if rate >= SLOWEST else SLOWEST
        return PictureInfo(_codec(stream), width // 2 * 2, height // 2 * 2, str(rate))
    return None


def pixel_shape(stream: av.video.stream.VideoStream) -> Fraction:
    """How wide the pixels of a stream are to their height."""
    shape = stream.sample_aspect_ratio
    return Fraction(shape) if shape and Fraction(1, WIDEST) <= shape <= WIDEST else Fraction(1)


SLOWEST = Fraction(1)
"""Pictures a second: what shows fewer is shown at this rate, as it is with single pictures as covers."""


def rotation(container: av.container.InputContainer, stream: av.video.stream.VideoStream) -> int:
    """Degrees by which the pictures of ``stream`` must be turned anticlockwise to stand upright."""
    try:
        frame = next(container.decode(stream))
    except (av.error.FFmpegError, StopIteration, ValueError):
        return 0
    finally:
        with suppress(av.error.FFmpegError):
            container.seek(container.start_time or 0)
    return int(getattr(frame, "rotation", 0)) % 360


def _declared_seconds(container: av.container.InputContainer, path: Path) -> float | None:
    """The length the file was meant to have; None for formats that only let one estimate it."""
    if container.duration is None:
        return None
    if container.format.name == "mp3":
        with path.open("rb") as file:
            head = file.read(1 << 18)
        if b"Xing" not in head and b"Info" not in head:
            return None
    if container.format.name == "wav" and (promised := _promised_by_wav(path)):
        return promised
    seconds = float(container.duration / av.time_base)
    return seconds if 0 < seconds <= LONGEST_SECONDS else None


LONGEST_SECONDS = 30 * 24 * 3_600.0
"""A file that promises more than a month has a damaged header."""


def _promised_by_wav(path: Path) -> float | None:
    """The length that the header of a WAV file promises, whatever follows it; None for one that was streamed."""
    with path.open("rb") as file:
        head = file.read(1 << 16)
    rate, sound = head.find(b"fmt "), head.find(b"data")
    if rate < 0 or sound < 0:
        return None
    bytes_a_second = int.from_bytes(head[rate + 16 : rate + 20], "little")
    size = int.from_bytes(head[sound + 4 : sound + 8], "little")
    seconds = size / bytes_a_second if bytes_a_second and 0 < size < 0xFFFFFF00 else 0.0
    return seconds if 0 < seconds <= LONGEST_SECONDS else None


KEPT_FREE = 200_000_000
"""So many bytes of the disk are left free by what is large; what is small may still be written when there are fewer."""

SMALL = 2_000_000


def room_for(folder: Path, size: int, name: str) -> None:
    """Refuse what will not fit on the disk of ``folder``.

    Raises
    ------
    Problem
        ``disk-full``.
    """
    free = shutil.disk_usage(folder).free
    if size + (KEPT_FREE if size > SMALL else SMALL) > free:
        kept = f", of which {KEPT_FREE // 1_000_000} MB are kept for your edits" if size > SMALL else ""
        raise Problem(
            "disk-full",
            f"There is no room for “{name}”: it needs {size / 1e6:.0f} MB, and {free / 1e6:.0f} MB are free{kept}. "
            "Make room on the disk and try again.",
        )
