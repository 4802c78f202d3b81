"""What is drawn over the picture of an edition."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from io import BytesIO

from flask import Response
from PIL import Image

from jaskel.core.edition import Edition
from jaskel.core.marks.graphic import LowerThird, TitleHere, cards_of, dressing_of
from jaskel.core.picture.graphic import Bar, Graphic
from jaskel.core.places import Places
from jaskel.core.plan import Plan
from jaskel.core.plan.picture import Carded, Shown
from jaskel.core.problem import Missing
from jaskel.core.source import Card, Drawn
from jaskel.media.captions.drawn import Drawing
from jaskel.web.context import context
from jaskel.web.resource import binary, kept, resource
from jaskel.web.schemas.graphics import CardLookField, CardOut, DressingOut, GraphicOut, GraphicPath, OverlayOut

api = resource("graphics", __name__)


@api.get("/editions/<edition_id>/graphics/<key>", responses=binary("image/png"))
def drawn(path: GraphicPath):  # type: ignore[no-untyped-def]
    """What is drawn over the picture, by the key that the plan told: the same pixels that films have."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plans = [context().plan(session, opened, mode) for mode in ("edited", "recorded")]
    found = ((plan, each.graphic) for plan in plans for each in plan.overlays)
    drawing = next((_drawing(plan, graphic) for plan, graphic in found if _key(plan, graphic) == path.key), None)
    if drawing is None:
        raise Missing("no-graphic", "This has changed since. Ask for the plan again.")
    out = BytesIO()
    Image.fromarray(drawing.pixels, "RGBA").save(out, "PNG", compress_level=1)
    return kept(Response(out.getvalue(), mimetype="image/png"))


def overlays_out(plan: Plan) -> Iterator[OverlayOut]:
    """What is drawn over the picture of a plan, and where."""
    width, height = plan.frame.width, plan.frame.height
    for each in plan.overlays:
        drawing = _drawing(plan, each.graphic)
        if drawing is None:
            continue
        wide, high = drawing.size
        yield OverlayOut(
            begin=each.begin,
            until=each.until,
            key=_key(plan, each.graphic),
            mark=each.mark,
            box=[drawing.x / width, drawing.y / height, wide / width, high / height],
            enter="grow" if isinstance(each.graphic, Bar) else each.enter,
            moves=each.moves,
        )


def _key(plan: Plan, graphic: Graphic) -> str:
    told = graphic, plan.material.style, plan.material.titles, plan.frame.width, plan.frame.height
    return hashlib.sha256(repr(told).encode()).hexdigest()[:24]


def _drawing(plan: Plan, graphic: Graphic) -> Drawing | None:
    def draw() -> Drawing | None:
        artist = context().workshop.artist(plan.material.titles, plan.material.style)
        return artist.graphic(graphic, plan.frame.width, plan.frame.height)

    return context().drawn.get(_key(plan, graphic), draw)


def graphics_out(edition: Edition, plan: Plan) -> list[GraphicOut]:
    """The lower thirds and titles of an edition, by their words."""
    found = (*edition.marks.all(LowerThird), *edition.marks.all(TitleHere))
    if not found:
        return []
    places, people = Places(edition), plan.material.people
    out = []
    for each in found:
        laid = places.of(each.stretch)
        if not laid:
            continue
        begin, end = laid[0][0], laid[-1][1]
        if isinstance(each, LowerThird):
            name, role = people.get(each.voice, ("", ""))
            text = ", ".join(part for part in (each.name or name, each.role or role) if part)
            out.append(
                GraphicOut(
                    id=each.id, kind="lower third", begin=begin, end=end, text=text,
                    voice=each.voice, name=each.name, role=each.role,
                )
            )  # fmt: skip
        elif isinstance(each, TitleHere):
            out.append(GraphicOut(id=each.id, kind="title", begin=begin, end=end, text=each.text, down=each.down))
    return sorted(out, key=lambda each: each.begin)


def card_key(plan: Plan, shown: Shown) -> str | None:
    """The name of a drawn card that is seen; None where it is no card."""
    if not isinstance(shown, Card | Drawn | Carded):
        return None
    told = shown, plan.material.style, plan.material.titles, plan.frame.width, plan.frame.height
    return hashlib.sha256(repr(told).encode()).hexdigest()[:24]


@api.get("/editions/<edition_id>/cards/<key>", responses=binary("image/png"))
def get_card(path: GraphicPath):  # type: ignore[no-untyped-def]
    """A card of an edition as PNG, as films show it."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plans = [context().plan(session, opened, mode) for mode in ("edited", "recorded")]
    for plan in plans:
        for layer in plan.layers:
            if card_key(plan, layer.shown) == path.key:
                assert isinstance(layer.shown, Card | Drawn | Carded)
                artist = context().workshop.artist(plan.material.titles, plan.material.style)
                file = BytesIO()
                artist.card(layer.shown, plan.frame.width, plan.frame.height).save(file, "PNG")
                return kept(Response(file.getvalue(), mimetype="image/png"))
    raise Missing("no-card", "This card has changed since. Ask for the plan again.")


def cards_out(edition: Edition) -> list[CardOut]:
    """The cards of an edition that look otherwise than the house style has them."""
    looks, fields = cards_of(edition.marks), CardLookField.model_fields
    return [CardOut(which=which, **{name: getattr(look, name) for name in fields}) for which, look in looks.items()]


def dressing_out(plan: Plan) -> DressingOut:
    """Whether logo and bar are seen in an edition."""
    style, own = plan.material.style, dressing_of(plan.edition.marks)
    logo = bool(style.logo) and (style.watermark if own.logo is None else own.logo)
    return DressingOut(logo=logo, bar=style.bar != "none" if own.bar is None else own.bar, own_logo=own.logo, own_bar=own.bar)
