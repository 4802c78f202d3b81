"""Giving the picture another shape."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.edition import Edition
from jaskel.core.operations.base import Meanwhile, Operation, Telling, operation
from jaskel.core.shape import PictureShape


@operation
@dataclass(frozen=True)
class SetShape(Operation):
    """Give the picture of the edition a shape."""

    kind: ClassVar[str] = "shape"
    asked: ClassVar[bool] = True
    shape: PictureShape

    def apply(self, edition: Edition) -> tuple[Edition, SetShape]:
        return replace(edition, shape=self.shape), SetShape(edition.shape)

    def carried(self, since: Meanwhile) -> SetShape:
        since.check_kind(SetShape)
        return self

    def summary(self, _telling: Telling) -> str:
        return f"made the picture {self.shape}" if self.shape != "as recorded" else "left the picture in its own shape"
