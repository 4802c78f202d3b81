"""Letting the splices that an operation makes find their best place."""

from __future__ import annotations

from itertools import pairwise

from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.splice import SpliceMark, set_splices
from jaskel.core.operations import Lift, Operation, SetMarks, Strike, Together, apply
from jaskel.jobs.settle import settled, unsettled
from jaskel.web.asked.asked import Floor

MOST_SETTLED = 16
"""With more splices at once, settling them would keep the person waiting: a job does it then."""


def settling(floor: Floor, operation: Operation) -> Operation:
    """The same with the splices that come about made where they are heard least, unless they are too many to wait for."""
    if _taken_out(operation) > MOST_SETTLED:
        return operation
    edition = floor.opened.edition
    after = apply(edition, operation)[0]
    known = {Meeting(a.source, a.end, b.source, b.start) for a, b in pairwise(edition.kept_runs)}
    new = [each for each in unsettled(after) if each[0] not in known]
    if not new or len(new) > MOST_SETTLED:
        return operation
    made = [(meeting, settled(floor.context.workshop, after, a, b)) for meeting, a, b in new]
    parts = operation.operations if isinstance(operation, Together) else (operation,)
    return Together((*parts, SetMarks.of(set_splices(after.marks, made))))


def _taken_out(operation: Operation) -> int:
    return sum(len(part.ranges) for part in operation.parts if isinstance(part, Strike | Lift))


def leaves_joins(operation: Operation) -> bool:
    """Whether an operation that was to settle its splices left that to a job: there were too many of them."""
    settles = any(isinstance(m, SpliceMark) for part in operation.parts if isinstance(part, SetMarks) for m in part.marks)
    return _taken_out(operation) > MOST_SETTLED and not settles
