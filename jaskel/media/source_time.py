"""What a recorder wrote into a file besides sound and picture: its timecode, the names of its tracks, and cue points.

Timecode comes from the timecode track of films (``tmcd``) or from the time reference of Broadcast WAV (EBU Tech 3285), names of
tracks from iXML, cue points from the ``cue`` chunk of WAV with its labels.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from jaskel.core.timebase import RATE, Ticks

DAY = 24 * 3600 * RATE
LARGEST_CHUNK, MOST_CHUNKS = 1_000_000, 1_000
"""What a recorder writes besides sound has some thousand bytes; what is larger is no such thing, and is not read."""

MOST_CUES, LONGEST_NAME = 500, 120


@dataclass(frozen=True)
class SourceTime:
    """``begins`` is in ticks after midnight, None where nothing tells it; ``cues`` are places with their texts."""

    begins: Ticks | None = None
    tracks: tuple[str, ...] = ()
    cues: tuple[tuple[Ticks, str], ...] = ()


NOTHING = SourceTime()


def source_time(path: Path, container: Any) -> SourceTime:
    """What a recorder wrote into an open ``container`` of PyAV; whatever is damaged of it is left out."""
    begins = _reference(container)
    if begins is None:
        begins = _timecode(container)
    tracks, cues = _of_wave(path) if container.format.name == "wav" else ((), ())
    return SourceTime(begins, tracks, cues)


def _reference(container: Any) -> Ticks | None:
    """The time reference of Broadcast WAV, which counts samples since midnight."""
    told = container.metadata.get("time_reference", "")
    rate = container.streams.audio[0].rate if container.streams.audio else 0
    if not (told.isascii() and told.isdigit() and len(told) < 20 and rate) or int(told) == 0:
        return None
    begins = round(Fraction(int(told), rate) * RATE)
    return begins if begins < DAY else None


def _timecode(container: Any) -> Ticks | None:
    """The timecode of a film, at the rate of its picture."""
    import opentimelineio as otio

    pictures = container.streams.video
    rate = (pictures[0].average_rate or pictures[0].guessed_rate) if pictures else None
    told = [container.metadata.get("timecode", ""), *(each.metadata.get("timecode", "") for each in container.streams)]
    code = next((each for each in told if each), "")
    if not rate or not code:
        return None
    try:
        at = otio.opentime.from_timecode(code, float(rate))
    except ValueError:
        return None
    begins = round(Fraction(round(at.value)) / Fraction(rate) * RATE)
    return begins if 0 <= begins < DAY else None


def _of_wave(path: Path) -> tuple[tuple[str, ...], tuple[tuple[Ticks, str], ...]]:
    """Names of tracks, and cue points."""
    if not _is_modest(path):
        return (), ()
    from wavinfo import WavInfoReader

    try:
        found = WavInfoReader(str(path), info_encoding="utf-8")
        names = [] if found.ixml is None else [str(each.name or "") for each in found.ixml.track_list]
        return tuple(_line(name) for name in names if name.strip())[:64], tuple(_cues(found))
    except Exception:  # the library has no error of its own for what is damaged
        return (), ()


def _cues(found: Any) -> Iterator[tuple[Ticks, str]]:
    if found.cues is None or not found.fmt.sample_rate:
        return
    labels = {each.name: _line(each.text) for each in found.cues.labels}
    for number, cue in enumerate(sorted(found.cues.cues, key=lambda each: each.sample_offset)[:MOST_CUES], 1):
        yield round(Fraction(cue.sample_offset, found.fmt.sample_rate) * RATE), labels.get(cue.name) or f"Cue {number}"


def _line(text: str) -> str:
    return " ".join("".join(letter if letter.isprintable() else " " for letter in text).split())[:LONGEST_NAME]


def _is_modest(path: Path) -> bool:
    """Whether nothing in a WAV file but its sound is large, so that reading it takes no memory worth telling."""
    size = path.stat().st_size
    with path.open("rb") as file:
        if file.read(4) != b"RIFF":
            return False
        at = 12
        for _ in range(MOST_CHUNKS):
            if at + 8 > size:
                return True
            file.seek(at)
            kind, length = file.read(4), int.from_bytes(file.read(4), "little")
            if kind != b"data" and length > LARGEST_CHUNK:
                return False
            at += 8 + length + length % 2
    return False
