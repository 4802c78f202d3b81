"""What is set for cameras in the programme: where they look, and what of their pictures is covered."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from jaskel.core.edition import Edition
from jaskel.core.marks.camera import Aim, CoverHere
from jaskel.core.marks.mark import Marks
from jaskel.core.picture.cover import Cover, Way
from jaskel.core.places import Places
from jaskel.core.plan.shots import Heard, heard_of
from jaskel.core.session import Track
from jaskel.core.timebase import Ticks


class Aimed(NamedTuple):
    """From ``begin`` to ``until`` of the programme a camera looks somewhere."""

    begin: Ticks
    until: Ticks
    aim: Aim


def aims_in(edition: Edition, heard: Heard) -> tuple[Aimed, ...]:
    """Where somebody set where a camera looks, in order."""
    marks = edition.marks.all(Aim)
    if not marks:
        return ()
    places = Places(edition)
    found = [Aimed(*place, mark) for mark in marks for place in heard_of(places, mark, heard)]
    return tuple(sorted(found, key=lambda each: (each.begin, each.aim.id)))


def aim_at(aims: Sequence[Aimed], camera: str, at: Ticks) -> Aim | None:
    """Where a camera looks at a place of the programme, if somebody set that."""
    number = bisect_right(aims, at, key=lambda each: each.begin)
    return next((each.aim for each in reversed(aims[:number]) if each.aim.camera == camera and at < each.until), None)


def covers_of(marks: Marks, home: str, track: Track, first: Ticks, last: Ticks, speed: float) -> Iterator[Cover]:
    """What is covered of a camera's picture between two of its ticks, with ways that are counted in those of a layer.

    ``home`` is the id of the session or recording whose clock the marks go by.
    """
    begin, end = track.to_session(first), track.to_session(last)
    for mark in marks.within(CoverHere, home, begin, max(begin + 1, end)):
        if mark.camera == track.recording:
            places = ((track.to_recording(mark.start + at), box) for at, box in mark.way)
            way: Way = tuple((round((place - first) / speed) if speed else 0, box) for place, box in places)
            yield Cover(mark.form, way if speed else _standing(way, mark, begin))


def _standing(way: Way, mark: CoverHere, at: Ticks) -> Way:
    """Where a picture stands still, what is covered stays as long as it does."""
    counted = tuple((place, box) for place, (_, box) in zip((p for p, _ in mark.way), way, strict=True))
    box = Cover(mark.form, counted).at(max(counted[0][0], min(counted[-1][0], at - mark.start))) if counted else None
    return ((0, box), (FOREVER, box)) if box else ()


FOREVER: Ticks = 2**40
