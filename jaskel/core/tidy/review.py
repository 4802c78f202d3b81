"""How findings stand in an edition, and the operation that accepts them."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jaskel.core.edition import Edition
from jaskel.core.marks.level import Level, Setting, set_levels, told_levels
from jaskel.core.operations import Lift, Operation, Range, SetMarks, Strike, Together, joined
from jaskel.core.places import Places
from jaskel.core.problem import Problem
from jaskel.core.tidy.cut import REACH, stretches_of
from jaskel.core.tidy.find import outermost
from jaskel.core.tidy.finding import KINDS, Finding
from jaskel.core.tidy.heard import NOTHING, SOFTER, Heard
from jaskel.core.tidy.settings import SHORT_REST, TidySettings
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Word

State = Literal["open", "accepted", "refused"]


@dataclass(frozen=True)
class Placed:
    """A finding of a recording or session called ``name``, with where it lies in an edition, in laid time."""

    id: str
    name: str
    finding: Finding
    begin: Ticks
    end: Ticks
    state: State
    pick: int
    """Which take stays: the one that was picked where it is accepted, else the proposed one."""

    @property
    def large(self) -> bool:
        """Whether it takes so much of the recording that only a person takes it out, by itself."""
        return self.finding.large

    @property
    def by_itself(self) -> bool:
        """Whether it is left out where all findings of a kind are accepted at once."""
        return self.finding.large or self.finding.twice


@dataclass(frozen=True, slots=True)
class Refused:
    """A finding that somebody judged to be none, by its kind and its place in the recording or session called ``name``."""

    kind: str
    name: str
    start: Ticks
    end: Ticks

    def is_about(self, name: str, finding: Finding) -> bool:
        """Whether a finding is the one that was refused: of the same kind, and at the same place for the most part.

        Words may have been retyped and their edges moved since, or thresholds changed.
        """
        if (self.kind, self.name) != (finding.kind, name):
            return False
        shared = min(self.end, finding.end) - max(self.start, finding.start)
        return shared * 2 > min(self.end - self.start, finding.end - finding.start)


@dataclass(frozen=True)
class Spoken:
    """What accepting findings of a recording or session needs to know of it.

    Attributes
    ----------
    words
        What was said, in order.
    heard
        What there is besides.
    tracks
        The ids of the recordings that sound in it.
    """

    words: Sequence[Word]
    heard: Heard = NOTHING
    tracks: Sequence[str] = ()


def taken_out(edition: Edition, begin: Ticks, end: Ticks) -> tuple[float, bool]:
    """How much of a laid stretch is taken out, from 0 to 1, and whether that was done by accepting findings."""
    gone = tidied = 0
    for index in range(edition.index_at(begin), len(edition.pieces)):
        piece, at = edition.pieces[index], edition.starts[index]
        if at >= end:
            break
        if not piece.kept:
            shared = min(end, at + piece.length) - max(begin, at)
            gone += shared
            tidied += shared if piece.why in KINDS else 0
    return gone / max(1, end - begin), tidied * 2 > gone


DONE = 0.8
"""A finding is accepted where four fifths of what is heard of it are out: edges may have been moved by hand since, and of the
rest after it as much stays as the speaker needs."""


def placed(edition: Edition, name: str, findings: Sequence[Finding], refused: Sequence[Refused]) -> list[Placed]:
    """Findings of one recording as they stand in an edition, from all that :func:`~jaskel.core.tidy.find.find_all` gave.

    What was cut by hand already is no finding any more. What lies within a larger one is none while that stands: it comes back
    when the larger one is refused, or is in the edition in one piece no more.
    """
    found = _placed(edition, name, findings, refused)
    by_finding = {id(each.finding): each for each in found}
    standing = outermost([each.finding for each in found], lambda finding: by_finding[id(finding)].state != "refused")
    return [by_finding[id(finding)] for finding in standing]


def _placed(edition: Edition, name: str, findings: Sequence[Finding], refused: Sequence[Refused]) -> list[Placed]:
    places = Places(edition)
    mine = sorted((each for each in refused if each.name == name), key=lambda each: each.start)
    starts = [each.start for each in mine]
    out: list[Placed] = []
    for finding in findings:
        laid = places.whole(name, finding.start, finding.end)
        standing = _standing(edition, laid[0] - finding.start, finding, name) if laid else None
        if laid is None or standing is None:
            continue
        state, pick = standing
        near = mine[: bisect_left(starts, finding.end)]
        if state == "open" and any(each.is_about(name, finding) for each in near):
            state = "refused"
        out.append(Placed(f"{finding.kind}.{name}.{finding.start}", name, finding, *laid, state, pick))
    return out


def _standing(edition: Edition, shift: Ticks, finding: Finding, name: str) -> tuple[State, int] | None:
    """How a finding stands in the edition and which take stays; None where its place was cut by hand."""
    if finding.kind == "breath" and _lowered(edition, name, finding) >= DONE:
        return "accepted", 0
    if finding.takes:
        out = [taken_out(edition, take.start + shift, take.end - take.rest + shift) for take in finding.takes]
        kept = [number for number, (share, _) in enumerate(out) if share < DONE]
        if len(kept) == 1 and any(tidied for _, tidied in out):
            return "accepted", kept[0]
        return ("open", finding.pick) if len(kept) > 1 else None
    share, tidied = taken_out(edition, finding.start + shift, finding.end - finding.rest + shift)
    if share < DONE:
        return "open", 0
    return ("accepted", 0) if tidied else None


def _lowered(edition: Edition, name: str, finding: Finding) -> float:
    """How much of a finding is lower than it was recorded, from 0 to 1."""
    lowered = {
        (max(level.start, finding.start), min(level.end, finding.end))
        for level in edition.marks.within(Level, name, finding.start, finding.end)
        if level.decibels < 0
    }
    return sum(end - start for start, end in lowered) / (finding.end - finding.start)


def accepting(
    edition: Edition, chosen: Sequence[tuple[Placed, int]], material: Mapping[str, Spoken], settings: TidySettings
) -> Operation:
    """One operation that accepts findings, each with the take that is to stay.

    Raises
    ------
    Problem
        ``nothing-changed`` when there is nothing to take out.
    """
    places = Places(edition)
    operations: list[Operation] = []
    for kind in KINDS:
        mine = [(each, pick) for each, pick in chosen if each.finding.kind == kind]
        ranges: list[Range] = []
        for name in dict.fromkeys(each.name for each, _ in mine):
            parts = [(p.finding, part) for p, pick in mine if p.name == name for part in p.finding.gone(pick)]
            least = SHORT_REST if settings.action(kind) == "short rest" else 0
            gone = stretches_of(parts, material[name].words, material[name].heard, least)
            ranges += [laid for part in gone if (laid := places.whole(name, *part) or places.clipped(name, *part, REACH))]
        if ranges:
            mark = Lift if settings.action(kind) == "lift" else Strike
            operations.append(mark(joined(ranges), kind))
    softer = tuple(
        Setting(each.name, track, each.finding.start, each.finding.end, SOFTER)
        for each, _ in chosen
        if each.finding.kind == "breath"
        for track in material[each.name].tracks
    )
    if softer:
        operations.append(SetMarks.of(set_levels(edition.marks, softer), told_levels(softer)))
    if not operations:
        raise Problem("nothing-changed", "Nothing is left of that to be taken out.")
    return operations[0] if len(operations) == 1 else Together(tuple(operations))
