"""The base of all that is asked of an edition, and their register."""

from __future__ import annotations

from abc import abstractmethod
from dataclasses import dataclass
from typing import Any, ClassVar, Self, TypeVar

from pydantic import BaseModel
from sqlalchemy.orm import Session

from jaskel.core.operations import Operation
from jaskel.core.rebase import Since
from jaskel.store.editions import Opened
from jaskel.web.context import Context
from jaskel.web.schemas.common import RangeField


@dataclass(frozen=True)
class Floor:
    """What a request is looked at with: the database, the edition as it is now, and what was compiled from it."""

    session: Session
    opened: Opened
    context: Context


class Asked(BaseModel):
    """A request; its fields and docstring are its part of the OpenAPI document.

    Attributes
    ----------
    places
        Fields that are places of laid time, besides ``ranges`` and the pair of ``begin`` and ``end``.
    settles
        Whether splices that come about find their best place, in a job where they are many.
    """

    places: ClassVar[tuple[str, ...]] = ()

    @abstractmethod
    def operation(self, floor: Floor) -> Operation:
        """The operation of the core that is asked for.

        Raises
        ------
        Problem
            When it does not apply.
        """

    @property
    def settles(self) -> bool:
        return False

    @property
    def listens(self) -> bool:
        """Whether sound is read to make its operation: that takes a while, and is not done while others wait to write."""
        return self.settles

    def carried(self, since: Since) -> Self:
        """The same with its places carried over what happened since it was made.

        Raises
        ------
        Overlap
            When what it is about was changed meanwhile.
        """
        if not since:
            return self
        known = type(self).model_fields
        changed: dict[str, Any] = {}
        if "ranges" in known:
            moved = [since.carry((each.begin, each.end)) for each in self.ranges]  # type: ignore[attr-defined]
            changed["ranges"] = [RangeField(begin=begin, end=end) for begin, end in moved]
        if "begin" in known and "end" in known and self.begin is not None:  # type: ignore[attr-defined]
            changed["begin"], changed["end"] = since.carry((self.begin, self.end))  # type: ignore[attr-defined]
        for name in self.places:
            if (at := getattr(self, name)) is not None:
                changed[name] = since.carry((at, at))[0]
        return self.model_copy(update=changed)


ASKED: list[type[Asked]] = []
"""Every request, in the order they were registered."""

A = TypeVar("A", bound=type[Asked])


def asked(kind: A) -> A:
    """Register a request."""
    ASKED.append(kind)
    return kind
