"""Requests for operations of the core that are asked for just as they are, made from the fields of each."""

from __future__ import annotations

from dataclasses import MISSING, fields
from typing import Annotated, Any, Literal, get_type_hints

from pydantic import Field, StringConstraints, create_model

from jaskel.core.operations import OPERATIONS, Operation
from jaskel.core.timebase import Ticks
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.schemas.common import OneLine, RangeField, Ranges, Shift, TicksField

RANGES = tuple[tuple[Ticks, Ticks], ...]
PLACES = ("at", "to")
TEXT = Annotated[str, StringConstraints(max_length=80), OneLine]


def _field(name: str, hint: Any) -> Any:
    """The type of a field on the wire: laid time is bounded, shifts go both ways, texts are one line."""
    if hint == RANGES:
        return Ranges
    if hint is int:
        return TicksField if name in PLACES else Shift
    return TEXT if hint is str else hint


def _plain(value: Any) -> Any:
    if isinstance(value, list) and all(isinstance(each, RangeField) for each in value):
        return tuple((each.begin, each.end) for each in value)
    return value


def request_for(kind: type[Operation]) -> type[Asked]:
    """The request for an operation, with its fields and its docstring."""
    hints = get_type_hints(kind)
    known: dict[str, Any] = {"kind": (Literal[kind.kind], ...)}
    for each in fields(kind):  # type: ignore[arg-type]
        default = ... if each.default is MISSING else each.default
        known[each.name] = (_field(each.name, hints[each.name]), Field(default))

    def operation(self: Asked, _floor: Floor) -> Operation:
        return kind(**{name: _plain(getattr(self, name)) for name in known if name != "kind"})

    body = {"operation": operation, "places": tuple(name for name in PLACES if name in known), "__module__": __name__}
    base = type(f"{kind.__name__}Base", (Asked,), body)
    return create_model(f"{kind.__name__}In", __base__=base, __doc__=(kind.__doc__ or "").strip().split("\n\n")[0], **known)


for plain in OPERATIONS.values():
    if plain.asked:
        asked(request_for(plain))
