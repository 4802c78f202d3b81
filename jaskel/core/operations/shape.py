"""Giving the picture another shape."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, ClassVar

from jaskel.core.edition import Edition
from jaskel.core.operations.base import Operation, Words, operation
from jaskel.core.shape import PictureShape

if TYPE_CHECKING:
    from jaskel.core.rebase import Since


@operation
@dataclass(frozen=True)
class SetShape(Operation):
    """Give the picture of the edition a shape."""

    kind: ClassVar[str] = "shape"
    asked: ClassVar[bool] = True
    shape: PictureShape

    def apply(self, edition: Edition) -> tuple[Edition, SetShape]:
        return replace(edition, shape=self.shape), SetShape(edition.shape)

    def carried(self, since: Since) -> SetShape:
        since.check_kind(SetShape)
        return self

    def summary(self, _words: Words) -> str:
        return f"made the picture {self.shape}" if self.shape != "as recorded" else "left the picture in its own shape"
