"""Selects: stretches of the material marked as good, in a colour; seen in every edition."""

from __future__ import annotations

from dataclasses import replace

from flask import Response

from jaskel.core.marks.anchor import Stretch
from jaskel.core.marks.mark import Mark
from jaskel.core.marks.select import Select
from jaskel.core.problem import Missing, Problem
from jaskel.core.timebase import clock
from jaskel.store.material import marks_of, set_marks
from jaskel.store.models import new_id
from jaskel.web.context import context
from jaskel.web.gate import author_of
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.editions import LookedFor
from jaskel.web.schemas.notes import MarkPath, NewSelect, SelectChange, SelectOut, SelectsOut
from jaskel.web.serializers import reply, select_out
from jaskel.web.shows import find_episode
from jaskel.web.stretches import stretches_in

api = resource("selects", __name__)


@api.post("/episodes/<episode_id>/selects", responses={201: SelectsOut})
def mark_as_good(path: EpisodePath, body: NewSelect):  # type: ignore[no-untyped-def]
    """Mark stretches of an edition as good, as one step."""
    home = context().workshop.home
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        opened = home.editions.open(session, body.edition)
        ranges = [(each.begin, each.end) for each in body.ranges]
        who = author_of(body).who
        made = [Select(new_id(), (each,), body.colour, who) for each in stretches_in(opened.edition.runs, ranges)]
        if not made:
            raise Problem("nothing-there", "There is no recorded sound in what is selected. Select words.")
        changes: dict[str, Mark | None] = {each.id: each for each in made}
        at = clock(context().plan(session, opened).programme_at(body.ranges[0].begin))
        told = f"marked {f'{len(body.ranges)} stretches' if len(body.ranges) > 1 else f'a stretch at {at}'} in {body.colour}"
        set_marks(session, episode, changes, told, author_of(body))
        return reply(SelectsOut(selects=[select_out(each) for each in made]), 201)


@api.patch("/episodes/<episode_id>/selects/<mark_id>", responses={200: SelectOut})
def change(path: MarkPath, body: SelectChange):  # type: ignore[no-untyped-def]
    """Give a select another colour, a note, a rating, or other ends."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        mark = _found(marks_of(episode).marks.get(path.mark_id))
        told = "changed a select"
        if body.ends is not None:
            start, end = body.ends
            if not start < end:
                raise Problem("nothing-there", "A select ends after it begins. Drag its end further.")
            mark, told = replace(mark, anchors=(Stretch(mark.recording, start, end),)), "moved an end of a select"
        if body.colour is not None:
            mark, told = replace(mark, colour=body.colour), f"made a select {body.colour}"
        if body.note is not None:
            mark, told = replace(mark, note=body.note), "wrote a note on a select"
        if body.rating is not None:
            mark, told = (
                replace(mark, rating=body.rating),
                f"rated a select {body.rating} of 3" if body.rating else "rated a select no more",
            )
        set_marks(session, episode, {mark.id: mark}, told, author_of(body))
        return reply(select_out(mark))


@api.delete("/episodes/<episode_id>/selects/<mark_id>", responses={204: None})
def remove(path: MarkPath, query: LookedFor):  # type: ignore[no-untyped-def]
    """Take a select off; undo brings it back."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        _found(marks_of(episode).marks.get(path.mark_id))
        set_marks(session, episode, {path.mark_id: None}, "took a select off", author_of(query))
    return Response(status=204)


def _found(mark: object) -> Select:
    if not isinstance(mark, Select):
        raise Missing("no-select", "This select was taken off meanwhile.")
    return mark
