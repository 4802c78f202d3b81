"""Who is seen in an edition."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import replace

from jaskel.core.marks.camera import faces_of
from jaskel.core.marks.shot import shot_rules
from jaskel.core.picture.shots import Shot, follow, turns_of
from jaskel.core.plan import Blend, Plan, Scene
from jaskel.core.timebase import RATE, Ticks
from jaskel.jobs import queue
from jaskel.jobs.faces import start_faces
from jaskel.store.models import Recording
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EditionPath
from jaskel.web.schemas.shots import CloserOut, ShotOut, ShotsOut, ShotsQuery
from jaskel.web.schemas.work import JobsOut
from jaskel.web.serializers import job_out, reply

api = resource("shots", __name__)


@api.get("/editions/<edition_id>/shots", responses={200: ShotsOut})
def listed(path: EditionPath, query: ShotsQuery):  # type: ignore[no-untyped-def]
    """The shots of an edition."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened)
    shots, rules = plan.shots, shot_rules(plan.edition.marks)
    # Every edit asks for this, and where nobody is followed it needs no words.
    words = plan.words if rules.follow or query.shortest is not None else ()
    if query.shortest is not None:
        shots = follow(words, plan.length, replace(rules, shortest=query.shortest))
    laid, said = _laid(plan), [word.start for word in words]
    # Where nothing was filmed and nobody is followed there is nothing to choose from: what is seen are cutaways and cards.
    seen = [*_on_camera(plan, shots)] if rules.follow or _cameras(plan) else []
    begins = [laid(_word_at(said, shot)) for shot in seen]
    # Where the next shot follows at once, one ends where that begins on the page.
    ends = [
        begins[number + 1] if number + 1 < len(seen) and seen[number + 1].begin == shot.until else laid(shot.until)
        for number, shot in enumerate(seen)
    ]
    return reply(
        ShotsOut(
            shots=[
                ShotOut(
                    begin=begin, end=end, at=shot.begin, until=shot.until,
                    framing=shot.framing, voices=[*shot.voices], by_hand=shot.by_hand,
                )
                for shot, begin, end in zip(seen, begins, ends, strict=True)
            ],
            closer=[
                CloserOut(
                    begin=laid(each.begin), end=laid(each.until), percent=round(each.share * 100), slowly=each.slowly,
                    beyond=_beyond(plan, each.until - 1),
                )
                for each in plan.closer
            ],
            seen=sorted(_seen(plan)),
            turns=len(turns_of(words)),
            unlooked=len(_cameras(plan) - {*plan.material.faces}),
        )
    )  # fmt: skip


def _on_camera(plan: Plan, shots: Sequence[Shot]) -> Iterator[Shot]:
    """What of the shots a camera is seen in: not where cards are."""
    seen: list[tuple[int, int]] = []
    for layer in plan.layers:
        if isinstance(layer.shown, Scene | Blend):
            if seen and seen[-1][1] == layer.begin:
                seen[-1] = seen[-1][0], layer.until
            else:
                seen.append((layer.begin, layer.until))
    for shot in shots:
        for begin, until in seen:
            if max(begin, shot.begin) < min(until, shot.until):
                yield replace(shot, begin=max(begin, shot.begin), until=min(until, shot.until))


def _beyond(plan: Plan, at: Ticks) -> int:
    """By how many per cent the first picture at a place is enlarged beyond its own pixels."""
    layer = plan.layer_at(at)
    if layer is None or not isinstance(layer.shown, Scene):
        return 0
    view = next(each for each in layer.shown.views if not each.blurred)
    tracks = {track.recording: track.picture for name in plan.edition.used for track in plan.material.tracks(name)}
    picture = tracks.get(view.camera.recording)
    if picture is None:
        return 0
    shown = view.crop(at - layer.begin).width * picture.width
    return max(0, round(100 * (view.box.width * plan.frame.width / shown - 1)))


def _word_at(words: Sequence[Ticks], shot: Shot) -> Ticks:
    """Where the first word of a shot begins, if the picture goes over a little before it: there it stands on the page."""
    number = bisect_left(words, shot.begin)
    near = number < len(words) and words[number] - shot.begin <= RATE and words[number] < shot.until
    return words[number] if near else shot.begin


def _laid(plan: Plan):  # type: ignore[no-untyped-def]
    """From places of the programme to laid time; its end is that of the last span."""
    last = plan.spans[-1] if plan.spans else None

    def laid(at: int) -> int:
        if last and at >= plan.ends:
            return last.laid + last.clear_to - last.clear_from
        return plan.laid_at(at)

    return laid


@api.post("/editions/<edition_id>/faces", responses={202: JobsOut})
def look_for_faces(path: EditionPath):  # type: ignore[no-untyped-def]
    """Find the faces in the pictures of an edition's cameras, where that has not been done."""
    home = context().workshop.home
    with home.database.write() as session:
        opened = home.editions.open(session, path.edition_id)
        cameras = _cameras(context().plan(session, opened))
        started = [start_faces(home, session, session.get_one(Recording, name)) for name in sorted(cameras)]
        jobs = [job_out(session.get_one(queue.Job, id)) for id in started if id]
    for job in jobs:
        queue.send(home, job.id)
    return reply(JobsOut(jobs=jobs), 202)


def _cameras(plan: Plan) -> set[str]:
    return {track.recording for name in plan.edition.used for track in plan.material.tracks(name) if track.picture}


def _seen(plan: Plan) -> set[str]:
    """The voices that have a camera of their own, or a face that is known in one that sees several."""
    cameras = _cameras(plan)
    known = {voice for camera, voices in faces_of(plan.edition.marks).items() if camera in cameras for voice in voices}
    return known | {
        track.voice for name in plan.edition.used for track in plan.material.tracks(name) if track.picture and track.voice
    }
