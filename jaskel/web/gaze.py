"""Gaze in an edition: where eyes would be turned to the camera and where not, and short films of it for the monitor."""

from __future__ import annotations

from fractions import Fraction
from itertools import groupby

from flask import send_file

from jaskel.core.picture.gaze import AS_IT_LOOKS, Gaze, Why, look_of, why_not
from jaskel.core.plan import Plan, Scene, View
from jaskel.core.problem import Missing
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.faces import faces_in, small_of
from jaskel.media.gaze import PIECE, eyes_in, write_turned
from jaskel.media.picture import PictureSource, upright
from jaskel.web.context import context
from jaskel.web.recordings import light_copy
from jaskel.web.resource import binary, kept, resource
from jaskel.web.schemas.cameras import GazedOut, GazeField, GazeQuery, NotTurnedOut, PiecePath
from jaskel.web.schemas.common import EditionPath
from jaskel.web.serializers import reply

api = resource("gaze", __name__)


def pieces_of(view: View) -> str | None:
    """Where the monitor gets a view with its eyes turned, by number."""
    if view.gaze == AS_IT_LOOKS:
        return None
    asked = f"amount={view.gaze.amount:g}&within={view.gaze.within:g}"
    return f"/api/recordings/{view.camera.recording}/turned/{{piece}}?{asked}"


@api.get("/recordings/<recording_id>/turned/<number>", responses=binary("video/mp4"))
def turned(path: PiecePath, query: GazeField):  # type: ignore[no-untyped-def]
    """Two seconds of a recording's light copy with the eyes turned to the camera, made when they are first asked for."""
    copy, recording = light_copy(path.recording_id)
    gaze = Gaze(query.amount, query.within)
    file = context().workshop.home.vault.turned(recording.digest, f"{gaze.amount:g}-{gaze.within:g}", path.number)
    if not file.exists():
        begin = path.number * PIECE
        if begin >= recording.length:
            raise Missing("no-piece", "The recording ends before that.")
        with context().workshop.home.vault.making(file) as new:
            write_turned(new, copy, begin, min(begin + PIECE, recording.length), gaze)
    return kept(send_file(file, mimetype="video/mp4", conditional=True))


@api.get("/editions/<edition_id>/gaze", responses={200: GazedOut})
def look_at_gaze(path: EditionPath, query: GazeQuery):  # type: ignore[no-untyped-def]
    """Where in an edition eyes would be turned to a camera, and where not; nothing changes."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened)
    copy, _ = light_copy(query.camera)
    gaze = Gaze(query.amount or 100, query.within)
    source = PictureSource(copy)
    try:
        found = [(at, _why_not(source, place, gaze)) for at, place in _looks_at(plan, query.camera)]
    finally:
        source.close()
    # Places that follow each other for the same reason are one.
    runs = [(why, [at for at, _ in run]) for why, run in groupby(found, key=lambda each: each[1])]
    untold = [NotTurnedOut(begin=plan.laid_at(ats[0]), end=plan.laid_at(ats[-1]), why=why) for why, ats in runs if why]
    return reply(GazedOut(looked=len(found), turned=sum(not why for _, why in found), not_turned=untold))


PLACES = 48
"""So many places of an edition are looked at, evenly spread over where a camera is seen."""


def _looks_at(plan: Plan, camera: str) -> list[tuple[Ticks, Ticks]]:
    """Places of the programme where a camera is seen, and of its recording."""
    seen = [
        (layer, view)
        for layer in plan.layers
        if isinstance(layer.shown, Scene)
        for view in layer.shown.views
        if view.camera.recording == camera
    ]
    step = max(RATE // 2, sum(layer.until - layer.begin for layer, _ in seen) // PLACES)
    places, owed = [], step // 2
    for layer, view in seen:
        at = layer.begin + owed
        while at < layer.until:
            places.append((at, view.camera.after(at - layer.begin)))
            at += step
        owed = at - layer.until
    return places


def _why_not(source: PictureSource, place: Ticks, gaze: Gaze) -> Why:
    shown = source.at(Fraction(place, RATE))
    if shown is None:
        return "nobody"
    picture = upright(shown)
    faces = faces_in(small_of(picture))
    pair = eyes_in(picture.to_ndarray(format="rgb24"), faces[0].box) if faces else None
    return why_not(look_of(pair) if pair else None, gaze)
