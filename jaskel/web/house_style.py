"""How the pictures of a show look: its colours, letters and logo."""

from __future__ import annotations

import hashlib
from dataclasses import replace
from io import BytesIO

from flask import Response, request, send_file
from PIL import Image
from sqlalchemy.orm import Session

from jaskel.core.picture.style import Style
from jaskel.core.problem import Missing, Problem
from jaskel.store.house_style import keep_style, style_of
from jaskel.store.models import Show
from jaskel.store.notices import post
from jaskel.web.context import context
from jaskel.web.resource import binary, kept, resource
from jaskel.web.schemas.common import ShowPath
from jaskel.web.schemas.graphics import HousePictureOut, HousePicturePath, LogoPath, LogoQuery, StyleField, StyleOut, style_out
from jaskel.web.serializers import reply
from jaskel.web.shows import find_show

api = resource("house_style", __name__)


@api.get("/shows/<show_id>/style", responses={200: StyleOut})
def get_style(path: ShowPath):  # type: ignore[no-untyped-def]
    """The house style of a show."""
    with context().workshop.home.database.read() as session:
        show = find_show(session, path.show_id)
        return reply(style_out(style_of(show), show.id))


@api.put("/shows/<show_id>/style", responses={200: StyleOut})
def set_style(path: ShowPath, body: StyleField):  # type: ignore[no-untyped-def]
    """Let the pictures of a show look so, in all its episodes."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        return _keep(session, show, body.style(style_of(show).logo))


MOST_BYTES, HIGHEST = 20_000_000, 2160
"""A file of a logo or another picture is no larger, and it is kept no higher, in pixels."""


@api.post("/shows/<show_id>/logo", responses={200: StyleOut})
def set_logo(path: ShowPath, query: LogoQuery):  # type: ignore[no-untyped-def]
    """Give a show a logo: a picture (PNG, JPEG, WebP or GIF) as the body of the request."""
    digest = _received(query.name)
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        return _keep(session, show, replace(style_of(show), logo=digest, watermark=True))


@api.post("/shows/<show_id>/house-pictures", responses={201: HousePictureOut})
def add_picture(path: ShowPath, query: LogoQuery):  # type: ignore[no-untyped-def]
    """Take in a picture that lies behind framings, as the body of the request; framings then name it by its digest."""
    with context().workshop.home.database.read() as session:
        find_show(session, path.show_id)
    return reply(HousePictureOut(digest=_received(query.name)), 201)


@api.get("/house-pictures/<digest>", responses=binary("image/png"))
def get_picture(path: HousePicturePath):  # type: ignore[no-untyped-def]
    """A picture of the house style, as PNG."""
    return _picture(path.digest)


def _received(name: str) -> str:
    """Keep the picture that is the body of the request; gives its digest.

    Raises
    ------
    Problem
        ``no-picture``.
    """
    data = request.get_data()
    if not 0 < len(data) <= MOST_BYTES:
        raise Problem("no-picture", f"“{name}” is empty, or larger than a picture of the house style can be (20 MB).")
    png = _as_png(data, name)
    digest = hashlib.sha256(png).hexdigest()
    file = context().workshop.settings.logos / digest
    file.parent.mkdir(exist_ok=True)
    new = file.with_suffix(".new")
    new.write_bytes(png)
    new.replace(file)
    return digest


def _picture(digest: str) -> Response:
    file = context().workshop.settings.logos / digest
    if not file.exists():
        raise Missing("no-logo", "This picture is not there any more.")
    return kept(send_file(file, mimetype="image/png"))


@api.delete("/shows/<show_id>/logo", responses={200: StyleOut})
def delete_logo(path: ShowPath):  # type: ignore[no-untyped-def]
    """Let a show have no logo."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        return _keep(session, show, replace(style_of(show), logo=""))


@api.get("/shows/<show_id>/logo/<digest>", responses=binary("image/png"))
def get_logo(path: LogoPath):  # type: ignore[no-untyped-def]
    """A logo of a show, as PNG."""
    return _picture(path.digest)


def _as_png(data: bytes, name: str) -> bytes:
    """A picture as PNG, its first frame, upright, no larger than is of use.

    Raises
    ------
    Problem
        ``no-picture``.
    """
    from PIL import ImageOps

    try:
        with Image.open(BytesIO(data)) as opened:
            picture = ImageOps.exif_transpose(opened).convert("RGBA")
    except (OSError, ValueError, Image.DecompressionBombError, SyntaxError) as error:
        raise Problem("no-picture", f"“{name}” is no picture that can be read. Take a PNG, JPEG, WebP or GIF file.") from error
    picture.thumbnail((2 * HIGHEST, HIGHEST))
    out = BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()


def _keep(session: Session, show: Show, style: Style) -> Response:
    keep_style(show, style)
    for episode in show.episodes:
        post(session, "style", episode.id)
    return reply(style_out(style, show.id))
