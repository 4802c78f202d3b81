"""Shots: how they follow who speaks, those that somebody chose, and where the picture comes closer."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, TypeVar

from jaskel.core.marks.anchor import Beginning, End, Stretch
from jaskel.core.marks.mark import Mark, Marks, StretchMark, mark
from jaskel.core.picture.framing import SINGLE, FramingName
from jaskel.core.picture.rules import ShotRules
from jaskel.core.timebase import Ticks

AS_RECORDED = ShotRules()


@mark
@dataclass(frozen=True)
class ShotRulesMark(Mark):
    """How the shots of the edition follow who speaks."""

    kind: ClassVar[str] = "shot rules"
    rules: ShotRules


@mark
@dataclass(frozen=True)
class ShotHere(StretchMark):
    """A shot that somebody chose; without ``voices`` it shows the first camera."""

    kind: ClassVar[str] = "shot"
    framing: FramingName = SINGLE
    voices: tuple[str, ...] = ()


@mark
@dataclass(frozen=True)
class PunchIn(StretchMark):
    """The picture is ``percent`` closer; ``slowly`` where it comes closer all the while."""

    kind: ClassVar[str] = "punch-in"
    percent: int = 15
    slowly: bool = False


def shot_rules(marks: Marks) -> ShotRules:
    """The rules of an edition's shots."""
    known = next(iter(marks.all(ShotRulesMark)), None)
    return known.rules if known else AS_RECORDED


def set_shot_rules(marks: Marks, rules: ShotRules) -> dict[str, Mark | None]:
    """The changes that give an edition rules for its shots."""
    if rules == shot_rules(marks):
        return {}
    known = next(iter(marks.all(ShotRulesMark)), None)
    id = known.id if known else marks.free_id("shots")
    return {id: ShotRulesMark(id, (Beginning(), End()), rules)}


Places = Sequence[tuple[str, Ticks, Ticks]]
"""Stretches: recording or session, start and end."""

K = TypeVar("K", bound=StretchMark)


def set_shot(marks: Marks, places: Places, framing: FramingName, voices: tuple[str, ...]) -> dict[str, Mark | None]:
    """The changes that show stretches so."""
    return laid_over(marks, places, lambda id, at: ShotHere(id, (at,), framing, voices), ShotHere)


def clear_shots(marks: Marks, places: Places) -> dict[str, Mark | None]:
    """The changes after which nobody has chosen what is seen of stretches."""
    return laid_over(marks, places, None, ShotHere)


def set_punch_in(marks: Marks, places: Places, percent: int, *, slowly: bool = False) -> dict[str, Mark | None]:
    """The changes that bring the picture of stretches closer by so many per cent; 0 takes that off."""
    make = (lambda id, at: PunchIn(id, (at,), percent, slowly)) if percent else None
    return laid_over(marks, places, make, PunchIn)


def laid_over(
    marks: Marks,
    places: Places,
    make: Callable[[str, Stretch], StretchMark] | None,
    kind: type[K],
    meant: Callable[[K], bool] = lambda _: True,
) -> dict[str, Mark | None]:
    """Marks of a kind laid over stretches, or taken off them; what lies beside them, or is not ``meant``, stays."""
    changes: dict[str, Mark | None] = {}
    for recording, start, end in places:
        here: dict[str, Mark | None] = {}
        for known in marks.within(kind, recording, start, end):
            if known.end <= start or known.start >= end or not meant(known):
                continue
            here[known.id] = None
            for a, b in ((known.start, start), (end, known.end)):
                if a < b:
                    id = marks.free_id(f"{kind.kind}.{recording}.{a}")
                    here[id] = replace(known, id=id, anchors=(Stretch(recording, a, b),))
        if make:
            id = marks.free_id(f"{kind.kind}.{recording}.{start}")
            here[id] = make(id, Stretch(recording, start, end))
        marks = marks.changed(here)
        changes |= here
    return changes
