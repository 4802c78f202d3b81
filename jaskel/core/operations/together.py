"""Several operations as one step."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.edition import Edition
from jaskel.core.operations.base import Meanwhile, Operation, Telling, operation
from jaskel.core.operations.marks import SetMarks
from jaskel.core.operations.strike import TIDIED, Lift, Strike, told_as_tidied
from jaskel.core.retype import Change


@operation
@dataclass(frozen=True)
class Together(Operation):
    """Several operations, each on what the ones before left. It is called what the first is called."""

    kind: ClassVar[str] = "together"
    operations: tuple[Operation, ...]

    @property
    def parts(self) -> Sequence[Operation]:
        return [part for each in self.operations for part in each.parts]

    @property
    def corrections(self) -> Sequence[Change]:
        return [change for each in self.operations for change in each.corrections]

    def apply(self, edition: Edition) -> tuple[Edition, Together]:
        """Some of them may change nothing after others: what is struck within something larger is gone already."""
        inverses: list[Operation] = []
        for each in self.operations:
            result, inverse = each.apply(edition)
            if result != edition or each.corrections:
                inverses.append(inverse)
            edition = result
        return edition, Together(tuple(reversed(inverses)))

    def carried(self, since: Meanwhile) -> Together:
        carried: list[Operation] = []
        for each in self.operations:
            carried.append(each.carried(since))
            since = since.after(each)
        return Together(tuple(carried))

    def resolved(self, edition: Edition) -> Together:
        out: list[Operation] = []
        for each in self.operations:
            out.append(each.resolved(edition))
            edition, _ = out[-1].apply(edition)
        return Together(tuple(out)) if any(a is not b for a, b in zip(out, self.operations, strict=True)) else self

    def summary(self, telling: Telling) -> str:
        tidied = [each for each in self.operations if isinstance(each, Strike | Lift) and each.why in TIDIED]
        softer = next((each for each in self.operations if isinstance(each, SetMarks) and each.told), None)
        told = told_as_tidied(tidied) if tidied else self.operations[0].summary(telling)
        return f"{told}; {softer.told}" if tidied and softer else told
