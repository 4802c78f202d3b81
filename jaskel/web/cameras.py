"""The cameras of an edition: what is set for them, and levels that make one like another."""

from __future__ import annotations

from fractions import Fraction

from sqlalchemy.orm import Session

from jaskel.core.marks.camera import Aim, CoverHere, faces_of, gazes, grades
from jaskel.core.marks.mark import StretchMark
from jaskel.core.picture.gaze import AS_IT_LOOKS, Gaze
from jaskel.core.picture.grade import AS_FILMED, Statistics, matched
from jaskel.core.places import Places
from jaskel.core.plan import Plan, View
from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE
from jaskel.media.faces import faces_in, small_of
from jaskel.media.picture import PictureSource, upright
from jaskel.media.treated import statistics_of
from jaskel.store.models import Recording
from jaskel.web.gaze import pieces_of
from jaskel.web.recordings import light_copy
from jaskel.web.resource import resource
from jaskel.web.schemas.cameras import (
    AimField,
    AimOut,
    CameraOut,
    CoverAtOut,
    CoverOut,
    CoverWayOut,
    FaceOut,
    GazeField,
    GradeField,
    MatchQuery,
    grade_field,
)
from jaskel.web.schemas.common import RecordingPath
from jaskel.web.serializers import reply

api = resource("cameras", __name__)

LOOKS = 8
"""So many pictures of a camera are looked at."""


def cameras_out(session: Session, plan: Plan) -> list[CameraOut]:
    """The cameras of an edition, in the order they are used."""
    known, turned = grades(plan.edition.marks), gazes(plan.edition.marks)
    tracks = {t.recording: t for name in plan.edition.used for t in plan.material.tracks(name) if t.picture}
    return [
        CameraOut(
            recording=name,
            name=row.name if (row := session.get(Recording, name)) else "",
            voice=track.voice,
            grade=grade_field(known.get(name, AS_FILMED)),
            gaze=_gaze_field(turned.get(name, AS_IT_LOOKS)),
            looked=name in plan.material.faces,
        )
        for name, track in tracks.items()
    ]


def _gaze_field(gaze: Gaze) -> GazeField:
    return GazeField(amount=gaze.amount, within=gaze.within)


def aims_out(plan: Plan) -> list[AimOut]:
    """Where cameras were set to look."""
    return [
        AimOut(camera=mark.camera, begin=begin, end=end, **{name: getattr(mark, name) for name in AimField.model_fields})
        for mark, begin, end in _laid(plan, Aim)
    ]


def faces_out(plan: Plan) -> list[FaceOut]:
    """Whose face is known in which camera."""
    known = faces_of(plan.edition.marks)
    return [FaceOut(camera=camera, voice=voice) for camera, voices in known.items() for voice in voices]


def covers_out(plan: Plan) -> list[CoverOut]:
    """What is covered."""
    return [CoverOut(id=m.id, camera=m.camera, form=m.form, begin=begin, end=end) for m, begin, end in _laid(plan, CoverHere)]


def _laid(plan: Plan, kind: type[StretchMark]):  # type: ignore[no-untyped-def]
    marks = plan.edition.marks.all(kind)
    places = Places(plan.edition) if marks else None
    for mark in marks:
        for begin, end in places.of(mark.stretch) if places else ():
            yield mark, begin, end


def treatment_of(view: View) -> dict[str, object]:
    """How the monitor shows a view otherwise than it was filmed."""
    covers = [CoverWayOut(form=each.form, way=[CoverAtOut(at=at, box=[*box]) for at, box in each.way]) for each in view.covers]
    edge = {"corner": view.edge.corner, "border": view.edge.border, "border_colour": view.edge.colour, "blurred": view.blurred}
    colours = None if view.grade == AS_FILMED else view.grade.matrix
    return edge | {"colours": colours, "covers": covers, "turned": pieces_of(view)}


@api.get("/recordings/<recording_id>/match", responses={200: GradeField})
def match(path: RecordingPath, query: MatchQuery):  # type: ignore[no-untyped-def]
    """Levels that make a recording's pictures like those of another: by light and colour, faces counting most."""
    mine, theirs = (_statistics(name) for name in (path.recording_id, query.to))
    return reply(grade_field(matched(mine, theirs)))


def _statistics(name: str) -> Statistics:
    copy, recording = light_copy(name)
    source = PictureSource(copy)
    try:
        pictures = []
        for number in range(LOOKS):
            shown = source.at(Fraction(recording.length * (2 * number + 1), 2 * LOOKS * RATE))
            if shown is not None:
                picture = upright(shown).reformat(format="yuv420p")
                pictures.append((picture, [each.box for each in faces_in(small_of(picture))]))
    finally:
        source.close()
    if not pictures:
        raise Problem("nothing-readable", "No picture could be read from this recording: it is damaged. Copy it again.")
    return statistics_of(pictures)
