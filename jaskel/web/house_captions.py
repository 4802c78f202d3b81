"""How a show has its captions: rules, looks saved by name, and fonts of its own."""

from __future__ import annotations

import hashlib
import json
import re
from dataclasses import replace
from io import BytesIO

from flask import Response, request
from PIL import Image
from pydantic import ValidationError
from sqlalchemy.orm import Session

from jaskel.core.captions.cues import Cue, Part
from jaskel.core.captions.look import LOOKS, Look
from jaskel.core.captions.screens import Screen, screens
from jaskel.core.problem import Missing, Problem
from jaskel.core.timebase import RATE
from jaskel.media.captions.drawn import Renderer
from jaskel.media.probe import room_for
from jaskel.media.typefaces import FAMILIES, MOST_BYTES, OWN, name_of
from jaskel.store.house_captions import NAME_PARTS, ShowCaptions, captions_of, keep_captions
from jaskel.store.models import Show
from jaskel.store.notices import post
from jaskel.web.context import context
from jaskel.web.resource import binary, kept, resource
from jaskel.web.schemas.captions import (
    FontOut,
    FontPath,
    FontQuery,
    LookField,
    LookPath,
    SampleQuery,
    ShowCaptionsIn,
    ShowCaptionsOut,
    look_field,
    rules_field,
)
from jaskel.web.schemas.common import ShowPath
from jaskel.web.serializers import reply
from jaskel.web.shows import find_show

api = resource("house_captions", __name__)


@api.get("/shows/<show_id>/captions", responses={200: ShowCaptionsOut})
def get_captions(path: ShowPath):  # type: ignore[no-untyped-def]
    """What a show keeps of its captions, with the looks and fonts that come with Jaskel."""
    with context().workshop.home.database.read() as session:
        return reply(_out(captions_of(find_show(session, path.show_id))))


def _out(captions: ShowCaptions) -> ShowCaptionsOut:
    fonts = [FontOut(key=key, name=name, own=False) for key, name in FAMILIES.items()]
    fonts += [FontOut(key=OWN + digest, name=name, own=True) for digest, name in captions.fonts.items()]
    return ShowCaptionsOut(
        rules=rules_field(captions.house.rules),
        look=look_field(captions.house.look),
        shipped=[look_field(look) for look in LOOKS],
        looks=[look_field(look) for look in captions.looks],
        fonts=fonts,
        names=captions.names,
        language=captions.language,
    )


def _pattern(names: str) -> str:
    unknown = set(re.findall(r"\{([^{}]*)\}", names)) - set(NAME_PARTS)
    if unknown:
        known = ", ".join(f"{{{name}}}" for name in NAME_PARTS)
        raise Problem("no-pattern", f"“{{{min(unknown)}}}” is nothing a name can have. What there is: {known}.")
    return names


@api.put("/shows/<show_id>/captions", responses={200: ShowCaptionsOut})
def set_house(path: ShowPath, body: ShowCaptionsIn):  # type: ignore[no-untyped-def]
    """Let the editions of a show that have no rules or look of their own have these."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        known = captions_of(show)
        house = known.house
        house = replace(house, rules=body.rules.rules) if body.rules else house
        house = replace(house, look=body.look.look) if body.look else house
        if body.names is not None:
            known = replace(known, names=_pattern(body.names))
        if body.language is not None:
            known = replace(known, language=body.language)
        return _keep(session, show, replace(known, house=house))


@api.post("/shows/<show_id>/looks", responses={200: ShowCaptionsOut})
def save_look(path: ShowPath, body: LookField):  # type: ignore[no-untyped-def]
    """Save a look by its name; one of that name is replaced. Captions that have it already stay as they are."""
    if any(look.name == body.name for look in LOOKS):
        raise Problem("look-taken", f"A look that comes with Jaskel is called “{body.name}”. Give yours another name.")
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        known = captions_of(show)
        looks = [look for look in known.looks if look.name != body.name]
        return _keep(session, show, replace(known, looks=(*looks, body.look)))


@api.delete("/shows/<show_id>/looks/<name>", responses={200: ShowCaptionsOut})
def delete_look(path: LookPath):  # type: ignore[no-untyped-def]
    """Delete a look that was saved. Captions that have it stay as they are."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        known = captions_of(show)
        if all(look.name != path.name for look in known.looks):
            raise Missing("no-look", f"There is no look called “{path.name}” in this show any more.")
        return _keep(session, show, replace(known, looks=tuple(look for look in known.looks if look.name != path.name)))


@api.post("/shows/<show_id>/fonts", responses={200: ShowCaptionsOut})
def add_font(path: ShowPath, query: FontQuery):  # type: ignore[no-untyped-def]
    """Add a font to a show: its file is the body of the request, ``name`` that of the file."""
    data = request.get_data()
    if not 0 < len(data) <= MOST_BYTES:
        raise Problem("no-font", f"“{query.name}” is empty, or larger than any font is (20 MB).")
    home = context().workshop.home
    digest = hashlib.sha256(data).hexdigest()
    file = home.settings.fonts / digest
    file.parent.mkdir(exist_ok=True)
    room_for(file.parent, len(data), query.name)
    new = file.with_suffix(".new")
    new.write_bytes(data)
    try:
        home.scanner.look(new)
        name = name_of(new)
        new.replace(file)
    finally:
        new.unlink(missing_ok=True)
    with home.database.write() as session:
        show = find_show(session, path.show_id)
        known = captions_of(show)
        return _keep(session, show, replace(known, fonts={**known.fonts, digest: name}))


@api.delete("/shows/<show_id>/fonts/<digest>", responses={200: ShowCaptionsOut})
def delete_font(path: FontPath):  # type: ignore[no-untyped-def]
    """Take a font off the list of a show. Its file stays: captions that are set in it stay as they are."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        known = captions_of(show)
        return _keep(
            session, show, replace(known, fonts={key: name for key, name in known.fonts.items() if key != path.digest})
        )


def _keep(session: Session, show: Show, captions: ShowCaptions) -> Response:
    keep_captions(show, captions)
    for episode in show.episodes:
        post(session, "captions", episode.id)
    return reply(_out(captions))


SAMPLE = ("Words", "as", "they", "are", "said")


@api.get("/looks/sample", responses=binary("image/png"))
def sample(query: SampleQuery):  # type: ignore[no-untyped-def]
    """A few words in a look, on a picture of a size: what it is chosen by."""
    try:
        look = LookField.model_validate(json.loads(query.look)).look
    except (ValueError, ValidationError) as error:
        raise Problem("no-look", "This is no look: some of it is missing or beyond what there is.") from error
    drawing = Renderer(query.width, query.height, context().workshop.faces).draw(_middle(look))
    image = Image.new("RGB", (query.width, query.height), "#8b979c")
    out = BytesIO()
    (drawing.over(image) if drawing else image).save(out, "PNG")
    return kept(Response(out.getvalue(), mimetype="image/png"))


def _middle(look: Look) -> Screen:
    """The screen of a caption when half of it is said, large enough to be read in a small picture."""
    words = SAMPLE[:3] if look.lines == 1 else SAMPLE
    halves = [words] if look.lines == 1 else [words[:3], words[3:]]
    times = iter(range(0, RATE * len(words), RATE))
    parts = tuple(tuple(Part(text, at := next(times), at + RATE, n > 0) for n, text in enumerate(line)) for line in halves)
    large = replace(look, size=look.size * 2.4, down="middle", x=0, y=0)
    cue = Cue(0, RATE * len(words), tuple(" ".join(line) for line in halves), said=parts, look=large)
    shown = [screen for at, screen in screens([cue]) if screen and at < 2.5 * RATE]
    return shown[-1]
