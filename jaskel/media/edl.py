"""A timeline as edit decision lists of CMX 3600: text that nearly every editing program reads, one list for each track.

A list has one track of one kind, names of eight letters, and timecode without a date. What it is of stands in its comments.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING
from zipfile import ZIP_DEFLATED, ZipFile

if TYPE_CHECKING:
    import opentimelineio as otio

DROP_FRAME = (29.97, 59.94)
"""At these rates numbers of frames are left out, so that timecode keeps up with the clock (SMPTE ST 12-1)."""

LEFT_OUT = ("where files lie", "names longer than eight letters", "markers")
"""What a list of cuts does not say besides what no timeline does."""

REEL = 8
"""Letters of the name of a source."""


def write_edls(path: Path, timeline: otio.schema.Timeline) -> None:
    """A zip with a list for each track, numbered in their order."""
    with ZipFile(path, "w", ZIP_DEFLATED) as out:
        for number, track in enumerate(timeline.tracks, 1):
            name = "".join(letter for letter in track.name if letter.isalnum() or letter in " -_.").strip() or "track"
            out.writestr(f"{number:02} {name}.edl", edl_of(track, timeline.name))


def edl_of(track: otio.schema.Track, title: str, kind: str = "") -> str:
    """The list of one track; reels are named after files, and no two files alike.

    ``kind`` is ``V``, ``A`` or ``B`` for both, where picture and sound are cut alike.
    """
    rate = track.duration().rate
    reels = _reels([clip.name for clip in track.find_clips()])
    kind = kind or ("V" if track.kind == "Video" else "A")
    lines = [f"TITLE: {title[:70]}", f"FCM: {'DROP FRAME' if _drops(rate) else 'NON-DROP FRAME'}", ""]
    for number, clip in enumerate(track.find_clips(), 1):
        source, record = clip.source_range, clip.range_in_parent()
        times = (source.start_time, source.end_time_exclusive(), record.start_time, record.end_time_exclusive())
        told = " ".join(_timecode(at) for at in times)
        lines.append(f"{number:03}  {reels[clip.name]:<{REEL}} {kind:<5} C        {told}")
        lines.append(f"* FROM CLIP NAME: {clip.name}")
    return "\n".join(lines) + "\n"


def _drops(rate: float) -> bool:
    return any(abs(rate - each) < 0.01 for each in DROP_FRAME)


def _timecode(at: otio.opentime.RationalTime) -> str:
    import opentimelineio as otio

    return str(otio.opentime.to_timecode(at, at.rate, _drops(at.rate)))


def _reels(files: list[str]) -> dict[str, str]:
    found: dict[str, str] = {}
    for file in dict.fromkeys(files):
        plain = "".join(letter for letter in Path(file).stem.upper() if letter.isascii() and letter.isalnum()) or "REEL"
        found[file] = next(name for name in _names(plain) if name not in found.values())
    return found


def _names(plain: str) -> Iterator[str]:
    yield plain[:REEL]
    for number in range(2, 10_000):
        yield f"{plain[: REEL - len(str(number))]}{number}"
