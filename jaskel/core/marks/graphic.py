"""What is drawn over the picture: lower thirds and titles at words, and what an edition has otherwise than its show."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.marks.anchor import Beginning, End
from jaskel.core.marks.mark import Mark, Marks, StretchMark, mark
from jaskel.core.picture.card import AS_IN_STYLE, CardLook, WhichCard
from jaskel.core.picture.graphic import TitlePlace

LONGEST = 200
"""Characters of a title."""


@mark
@dataclass(frozen=True)
class LowerThird(StretchMark):
    """Who speaks: a ``voice`` under its own name and role, unless others are written here."""

    kind: ClassVar[str] = "lower third"
    voice: str = ""
    name: str = ""
    role: str = ""


@mark
@dataclass(frozen=True)
class TitleHere(StretchMark):
    """Words over the picture."""

    kind: ClassVar[str] = "title"
    text: str
    down: TitlePlace = "middle"


@mark
@dataclass(frozen=True)
class Dressing(Mark):
    """Whether the logo and the bar are seen in an edition; None where it is as in its show."""

    kind: ClassVar[str] = "dressing"
    logo: bool | None = None
    bar: bool | None = None


AS_IN_SHOW = Dressing("", (Beginning(), End()))


def dressing_of(marks: Marks) -> Dressing:
    """What an edition has otherwise than its show."""
    return next(iter(marks.all(Dressing)), AS_IN_SHOW)


@mark
@dataclass(frozen=True)
class CardLookOf(Mark):
    """How one of an edition's cards looks."""

    kind: ClassVar[str] = "card look"
    which: WhichCard
    look: CardLook


def cards_of(marks: Marks) -> dict[WhichCard, CardLook]:
    """The cards of an edition that look otherwise than the house style has them."""
    return {each.which: each.look for each in marks.all(CardLookOf)}


def set_card(marks: Marks, which: WhichCard, look: CardLook) -> dict[str, Mark | None]:
    """The changes after which a card looks so."""
    known = next((each for each in marks.all(CardLookOf) if each.which == which), None)
    if look == (known.look if known else AS_IN_STYLE):
        return {}
    id = known.id if known else marks.free_id(f"card look.{which}")
    return {id: None if look == AS_IN_STYLE else CardLookOf(id, (Beginning(), End()), which, look)}


def set_dressing(marks: Marks, logo: bool | None, bar: bool | None) -> dict[str, Mark | None]:
    """The changes after which an edition has logo and bar so."""
    known = dressing_of(marks)
    if (known.logo, known.bar) == (logo, bar):
        return {}
    id = known.id or marks.free_id("dressing")
    return {id: None if logo is None and bar is None else Dressing(id, (Beginning(), End()), logo, bar)}
