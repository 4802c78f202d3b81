"""A timeline that was made elsewhere (OpenTimelineIO), read as cuts of files."""

from __future__ import annotations

import resource
from collections.abc import Collection
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import PurePosixPath
from typing import TYPE_CHECKING
from urllib.parse import unquote, urlsplit

from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE, Ticks

if TYPE_CHECKING:
    import opentimelineio as otio

LONGEST = 20_000_000
"""Bytes."""

MOST = 20_000
"""Cuts."""

SECONDS, MOST_MEMORY = 30.0, 2_000_000_000
"""So long, and with so many bytes of memory, a timeline is read at most."""


NOT_ONE = (ValueError, AttributeError, TypeError, RuntimeError, OverflowError)
"""What happens where a file is something else, or where its times are no numbers."""


@dataclass(frozen=True)
class Cut:
    """``start`` to ``end`` of a file, in ticks of it."""

    file: str
    start: Ticks
    end: Ticks


@dataclass(frozen=True)
class CutsRead:
    """The cuts of one track in order, and what of the timeline is not among them, in sentences."""

    title: str
    cuts: tuple[Cut, ...]
    left_out: tuple[str, ...]


def read_timeline(content: bytes, known: Collection[str]) -> CutsRead:
    """The cuts of the first track of sound whose files are ``known`` by their names, or else of the first of picture.

    It is read in a process of its own, with a second or so to begin: the library reads in C++, and what is nested deeply enough
    ends the process it is read in.

    Raises
    ------
    Problem
        ``not-a-timeline``, ``too-large`` or ``other-media``.
    """
    if len(content) > LONGEST:
        raise Problem("too-large", "This timeline has more than 20 MB, which is more than is read.")
    pool = ProcessPoolExecutor(1, mp_context=get_context("spawn"), initializer=_bound)
    try:
        read = pool.submit(_read_here, content, frozenset(known)).result(SECONDS)
    except (BrokenProcessPool, MemoryError) as error:
        raise _no_timeline() from error
    except TimeoutError as error:
        raise Problem("too-large", "This timeline takes longer to read than is waited for. Export a shorter one.") from error
    finally:
        # One that is still at it is waited for by nobody; the executor itself would wait.
        for process in list((pool._processes or {}).values()):
            process.kill()
        pool.shutdown(wait=False, cancel_futures=True)
    if isinstance(read, CutsRead):
        return read
    raise Problem(*read)


def _bound() -> None:
    """Let this process have so much memory and no more."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))


def _read_here(content: bytes, known: Collection[str]) -> CutsRead | tuple[str, str]:
    """The same in this process; a problem comes as its code and sentence, since it has to go through a pipe."""
    try:
        return _read(content, known)
    except Problem as problem:
        return problem.code, problem.sentence


def _no_timeline() -> Problem:
    return Problem("not-a-timeline", "This is no timeline of OpenTimelineIO (.otio).")


def _read(content: bytes, known: Collection[str]) -> CutsRead:
    import opentimelineio as otio

    try:
        # Nothing is opened for it: neither its media, nor what hooks of an installation would add.
        read = otio.core.deserialize_json_from_string(content.decode("utf-8"))
        tracks = [*read.audio_tracks(), *read.video_tracks()]
        found = [(track, [_cut(clip) for clip in track.find_clips()]) for track in tracks]
    except (*NOT_ONE, otio.exceptions.OTIOError) as error:
        raise _no_timeline() from error
    there = {name.casefold() for name in known}
    for track, cuts in found:
        mine = tuple(cut for cut in cuts if cut and cut.file.casefold() in there)
        if mine:
            return CutsRead(str(read.name or "Timeline"), mine[:MOST], tuple(_left_out(found, track, len(cuts) - len(mine))))
    names = sorted({cut.file for _, cuts in found for cut in cuts if cut})
    wanted = ", ".join(f"“{name}”" for name in names[:5]) or "no files at all"
    raise Problem("other-media", f"This timeline is of other media: {wanted}. Add them first, under these names.")


def _cut(clip: otio.schema.Clip) -> Cut | None:
    used = clip.trimmed_range()
    reference = clip.media_reference
    whole = reference.available_range if reference else None
    address = getattr(reference, "target_url", "") or ""
    file = PurePosixPath(unquote(urlsplit(address).path)).name or str(clip.name)
    start = used.start_time.to_seconds() - (whole.start_time.to_seconds() if whole else 0.0)
    begin, end = round(start * RATE), round((start + used.duration.to_seconds()) * RATE)
    return Cut(file, begin, end) if 0 <= begin < end else None


def _left_out(found: list[tuple[otio.schema.Track, list[Cut | None]]], taken: otio.schema.Track, others: int) -> list[str]:
    told = []
    if others:
        told.append(f"{others} {'clip' if others == 1 else 'clips'} of other media")
    rest = [track.name or track.kind for track, cuts in found if track is not taken and cuts]
    if rest:
        told.append(f"the cuts of {', '.join(f'“{name}”' for name in rest)}, for all tracks of a session are cut together")
    if any(_bends(child) for track, _ in found for child in track):
        told.append("effects, changes of speed and transitions")
    return told


def _bends(child: otio.core.Item) -> bool:
    return type(child).__name__ == "Transition" or bool(getattr(child, "effects", None))
