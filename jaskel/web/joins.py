"""Joins of pictures: what is there, what a bridge is worth before one makes it, and short films of them for the monitor."""

from __future__ import annotations

import hashlib
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Literal

from flask import send_file

from jaskel.core.edition import Edition
from jaskel.core.marks.join import JoinMark, set_joins
from jaskel.core.picture.joins import Join, Where
from jaskel.core.places import Places
from jaskel.core.plan import Blend, Frame, Layer, Plan, Scene, compile_plan
from jaskel.core.plan.picture import SoundPicture
from jaskel.core.problem import Missing
from jaskel.core.timebase import RATE
from jaskel.media.bridge import Bridge, Judged
from jaskel.media.picture import WORKING_WIDTH
from jaskel.media.render import write_stretch
from jaskel.media.scene import Studio
from jaskel.web.asked.joins import join_tie
from jaskel.web.context import context
from jaskel.web.recordings import light_copy
from jaskel.web.resource import binary, kept, resource
from jaskel.web.schemas.common import EditionPath
from jaskel.web.schemas.joins import USUAL, JoinField, JoinOut, JudgedOut, JudgeQuery, StretchPath
from jaskel.web.serializers import reply

api = resource("joins", __name__)

FRAMES = (4, 6, 8, 12, 16)
"""Lengths of bridges that are tried, in pictures of 25 a second."""

SHIFTS = (-8, -4, -2, 2, 4, 8)
"""Places nearby that are tried, in the same: within what was struck, the pictures may be more alike."""

ALIKE = 0.5
"""Two pictures that are so alike show the same from the same place: nearer, a jump between them looks meant."""


def joins_out(edition: Edition, plan: Plan) -> list[JoinOut]:
    """The joins of an edition, by their places."""
    marks = edition.marks.all(JoinMark)
    if not marks:
        return []
    places, seen = Places(edition), {each.id for each in plan.joins}
    out = []
    for mark in marks:
        if laid := places.of(mark.tie):
            fields = {name: getattr(mark.join, name) for name in JoinField.model_fields}
            out.append(JoinOut(at=laid[0][0], seen=mark.id in seen, **fields))
    return sorted(out, key=lambda each: each.at)


@api.get("/editions/<edition_id>/bridge", responses={200: JudgedOut})
def judge(path: EditionPath, query: JudgeQuery):  # type: ignore[no-untyped-def]
    """What a bridge would be worth at a splice or change of shots; nothing changes."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened)
    edition = plan.edition
    tie = join_tie(edition, query.at)
    wanted = Join("bridge", query.length, query.where, shift=query.shift)
    ways = [wanted]
    if query.better:
        lengths = (RATE * frames // 25 for frames in FRAMES)
        places: tuple[Where, ...] = ("before", "across", "after")
        ways += [Join("bridge", length, where) for length in lengths for where in places]
        ways += [Join("bridge", length, shift=RATE * by // 25) for length in (USUAL.length, RATE * 12 // 25) for by in SHIFTS]
    frame, best = _small(plan.frame), None
    studio = Studio(frame, _light, context().workshop.artist(plan.material.titles, plan.material.style))
    try:
        for way in ways:
            marks = edition.marks.changed(set_joins(edition.marks, [tie], way))
            tried = compile_plan(replace(edition, marks=marks), plan.material)
            blend = _blend_of(tried, [mark.id for mark in marks.all(JoinMark) if mark.tie == tie])
            if blend is None:
                continue
            sides = (studio.picture(blend.before, 0), studio.picture(blend.after, blend.length))
            judged = Bridge(*(side.to_ndarray(format="rgb24") for side in sides)).judged
            if best is None or judged.worst < best[1].worst:
                best = way, judged
    finally:
        studio.close()
    if best is None:
        join = JoinField(length=wanted.length, where=wanted.where, shift=wanted.shift)
        return reply(JudgedOut(quality="none", worst=0, alike=0, smears=[], instead="", join=join))
    way, judged = best
    return reply(
        JudgedOut(
            quality=judged.quality,
            worst=round(judged.worst, 1),
            alike=round(judged.alike, 3),
            smears=[[*box] for box in judged.smears],
            instead=_instead(judged),
            join=JoinField(length=way.length, where=way.where, shift=way.shift),
        )
    )


def _instead(judged: Judged) -> Literal["punch in", "cutaway", ""]:
    """What would do where a bridge is poor."""
    if judged.quality != "poor":
        return ""
    return "punch in" if judged.alike >= ALIKE else "cutaway"


def _blend_of(plan: Plan, ids: list[str]) -> Blend | None:
    """The blend of a join; None where the plan has no room for it."""
    placed = next((each for each in plan.joins if each.id in ids), None)
    layer = plan.layer_at(placed.begin) if placed else None
    return layer.shown if layer and isinstance(layer.shown, Blend) else None


def stretch_key(plan: Plan, layer: Layer) -> str | None:
    """The name of the short film that the monitor shows of a layer; None where it puts the pictures together itself."""
    shown = layer.shown
    if not isinstance(shown, Blend | SoundPicture) and not (isinstance(shown, Scene) and shown.voice):
        return None
    told = layer.shown, layer.until - layer.begin, plan.frame, plan.material.style, plan.material.titles
    return hashlib.sha256(repr(told).encode()).hexdigest()[:24]


@api.get("/editions/<edition_id>/stretches/<key>", responses=binary("video/mp4"))
def stretch(path: StretchPath):  # type: ignore[no-untyped-def]
    """A short film of what the monitor cannot put together itself, made from light copies when it is first asked for."""
    vault = context().workshop.home.vault
    file = vault.stretch(path.key)
    if not file.exists():
        with context().workshop.home.database.read() as session:
            opened = context().workshop.home.editions.open(session, path.edition_id)
            plans = [context().plan(session, opened, mode) for mode in ("edited", "recorded")]
        found = ((plan, layer) for plan in plans for layer in plan.layers)
        known = next(((plan, layer) for plan, layer in found if stretch_key(plan, layer) == path.key), None)
        if known is None:
            raise Missing("no-stretch", "This has changed since. Ask for the plan again.")
        plan, layer = known
        artist = context().workshop.artist(plan.material.titles, plan.material.style)
        with vault.making(file) as new:
            write_stretch(new, layer.shown, layer.until - layer.begin, _small(plan.frame), _light, artist)
    return kept(send_file(file, mimetype="video/mp4", conditional=True))


def _small(frame: Frame) -> Frame:
    """The frame as the monitor shows it."""
    by = min(Fraction(1), Fraction(WORKING_WIDTH, max(frame.width, frame.height)))
    width, height = (max(2, round(side * by) // 2 * 2) for side in (frame.width, frame.height))
    return replace(frame, width=width, height=height)


def _light(name: str) -> Path:
    return light_copy(name)[0]
