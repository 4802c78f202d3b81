"""Being as at another time, or as another edition is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.edition import Edition
from jaskel.core.operations.base import Meanwhile, Operation, Telling, operation


@operation
@dataclass(frozen=True)
class Become(Operation):
    """Be exactly as ``edition`` is, in everything it has; ``what`` says in words what that was."""

    kind: ClassVar[str] = "become"
    version: ClassVar[int] = 2
    edition: Edition
    what: str = ""

    def apply(self, edition: Edition) -> tuple[Edition, Become]:
        return self.edition, Become(edition)

    def carried(self, since: Meanwhile) -> Become:
        since.check_nothing()
        return self

    def summary(self, _telling: Telling) -> str:
        return f"went back to {self.what}" if self.what else "went back"
