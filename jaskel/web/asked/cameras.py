"""What is set for cameras: where they look, the levels of their pictures, and what is covered."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from jaskel.core.marks.anchor import Stretch
from jaskel.core.marks.camera import CoverHere, set_aim, set_face, set_gaze, set_grade
from jaskel.core.marks.mark import Mark
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.picture.cover import CoverForm, Way
from jaskel.core.picture.framing import Box
from jaskel.core.picture.gaze import Gaze
from jaskel.core.problem import Problem
from jaskel.core.session import Track
from jaskel.core.timebase import Ticks
from jaskel.media.followed import LONGEST, follow
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.asked.shots import places_in
from jaskel.web.recordings import light_copy
from jaskel.web.schemas.cameras import AimField, GazeField, GradeField
from jaskel.web.schemas.common import BoxField, RangeField, TicksField


@asked
class AimIn(Asked):
    """Let a camera look somewhere in ranges; with a null ``aim``, as it does by itself."""

    kind: Literal["aim"]
    ranges: Annotated[list[RangeField], Field(min_length=1, max_length=5000)]
    camera: str
    aim: AimField | None

    def operation(self, floor: Floor) -> Operation:
        places = [place for each in self.ranges for place in places_in(floor, each.begin, each.end)]
        _track(floor, self.camera)
        aim = (self.aim.x, self.aim.y, self.aim.closer, self.aim.follows) if self.aim else None
        changes = set_aim(floor.opened.edition.marks, places, self.camera, aim)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: the camera looks where it does by itself.")
        return SetMarks.of(changes, "set where the camera looks" if self.aim else "let the camera look by itself")


@asked
class PictureLevelsIn(Asked):
    """Give a camera's picture levels, throughout the edition."""

    kind: Literal["levels of picture"]
    camera: str
    grade: GradeField

    def carried(self, _since: Any) -> PictureLevelsIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        _track(floor, self.camera)
        changes = set_grade(floor.opened.edition.marks, self.camera, self.grade.grade)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: the picture has these levels already.")
        return SetMarks.of(changes, "changed the levels of a picture")


@asked
class GazeIn(Asked):
    """Turn the eyes in a camera's picture to it, throughout the edition; by 0 per cent they are left alone."""

    kind: Literal["gaze"]
    camera: str
    gaze: GazeField

    def carried(self, _since: Any) -> GazeIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        _track(floor, self.camera)
        changes = set_gaze(floor.opened.edition.marks, self.camera, Gaze(self.gaze.amount, self.gaze.within))
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: eyes are turned so already.")
        return SetMarks.of(changes, "turned eyes to the camera" if self.gaze.amount else "left eyes as they look")


@asked
class FaceOfIn(Asked):
    """Say whose face is at a point of a camera's picture, at a laid time; with no point, that nobody has said."""

    kind: Literal["face of"]
    camera: str
    voice: Annotated[str, Field(min_length=1, max_length=64)]
    at: TicksField
    point: Annotated[list[float], Field(min_length=2, max_length=2)] | None
    places = ("at",)

    def operation(self, floor: Floor) -> Operation:
        track, marks = _track(floor, self.camera), floor.opened.edition.marks
        place = None
        if self.point:
            faces = floor.context.material(floor.session, floor.opened).faces.get(self.camera)
            if faces is None:
                raise Problem("not-looked", "Faces have not been looked for in this picture yet. Press “Look for faces” first.")
            _, start, _ = places_in(floor, self.at, self.at + 1)[0]
            at, (x, y) = track.to_recording(start), self.point
            if faces.nearest(at, x, y) is None:
                raise Problem("no-face", "No face is there. Click the middle of a face.")
            place = at, x, y
        changes = set_face(marks, self.camera, self.voice, place)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: it is so already.")
        return SetMarks.of(changes, "said whose face it is" if place else "forgot whose face it is")


WIDER = 0.12
"""By so much of its size what is followed is covered wider than it was drawn, on each side: it moves within that."""

SPARSE = 0.004
"""Places of a way that straight lines between their neighbours miss by less are left out."""


@asked
class CoverIn(Asked):
    """Cover a part of a camera's picture in a range, which was drawn round at a place ``at`` in it.

    It is followed from there both ways, or (not ``follows``) stays where it is.
    """

    kind: Literal["cover"]
    begin: TicksField
    end: TicksField
    at: TicksField
    camera: str
    box: BoxField
    form: CoverForm = "blur"
    follows: bool = True
    places = ("at",)

    @property
    def listens(self) -> bool:
        return self.follows

    def operation(self, floor: Floor) -> Operation:
        box = Box(*self.box)
        if min(box.width, box.height) <= 0 or max(box.x, box.y) >= 1 or min(box.x + box.width, box.y + box.height) <= 0:
            raise Problem("no-part", "Draw a frame round what is to be covered.")
        track, marks = _track(floor, self.camera), floor.opened.edition.marks
        home, drawn, _ = places_in(floor, self.at, self.at + 1)[0]
        changes: dict[str, Mark | None] = {}
        for name, start, end in places_in(floor, self.begin, self.end):
            at = drawn if name == home else start
            way = self._way(floor, track, box, at, start, end) if self.follows else ((0, box), (end - start, box))
            id = marks.changed(changes).free_id(f"cover.{self.camera}")
            changes[id] = CoverHere(id, (Stretch(name, start, end),), self.camera, self.form, way)
        return SetMarks.of(changes, "covered a part of the picture")

    def _way(self, floor: Floor, track: Track, box: Box, at: Ticks, start: Ticks, end: Ticks) -> Way:
        """Where it is from ``start`` to ``end`` of the session's time, counted from its beginning."""
        if end - start > LONGEST:
            raise Problem("too-long", "Something is followed for five minutes at a time. Select fewer words, or let it stay.")
        copy, _ = light_copy(self.camera)
        first, middle, last = (max(0, track.to_recording(place)) for place in (start, min(max(start, at), end), end))
        keys = [(track.to_session(place) - start, _wider(found)) for place, found, _ in follow(copy, box, middle, first, last)]
        if not keys:
            raise Problem("no-picture", "This camera has no picture there. Choose another place.")
        # From edge to edge: between two looks nothing may be seen.
        inside = [each for each in keys if 0 < each[0] < end - start]
        return tuple(_sparse([(0, keys[0][1]), *inside, (end - start, keys[-1][1])]))


def _wider(box: Box) -> Box:
    x, y = box.width * WIDER, box.height * WIDER
    return Box(box.x - x, box.y - y, box.width + 2 * x, box.height + 2 * y)


def _sparse(keys: list[tuple[Ticks, Box]]) -> list[tuple[Ticks, Box]]:
    out = keys[:1]
    for number in range(1, len(keys) - 1):
        (a, one), (b, two), (at, here) = out[-1], keys[number + 1], keys[number]
        share = (at - a) / max(1, b - a)
        off = max(abs(x + (y - x) * share - z) for x, y, z in zip(one, two, here, strict=True))
        if off > SPARSE or at - a > 48_000:
            out.append(keys[number])
    return [*out, keys[-1]] if len(keys) > 1 else out


@asked
class CoverOffIn(Asked):
    """Uncover what a cover hides."""

    kind: Literal["cover off"]
    id: str

    def carried(self, _since: Any) -> CoverOffIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        if not isinstance(floor.opened.edition.marks.get(self.id), CoverHere):
            raise Problem("no-cover", "This cover is not there any more; it may have been taken off meanwhile.")
        return SetMarks.of({self.id: None}, "took a cover off")


def _track(floor: Floor, camera: str) -> Track:
    """The track of a camera of the edition.

    Raises
    ------
    Problem
        ``no-camera``.
    """
    material = floor.context.material(floor.session, floor.opened)
    for name in floor.opened.edition.used:
        for track in material.tracks(name):
            if track.recording == camera and track.picture:
                return track
    raise Problem("no-camera", "This camera is not in the edition any more. Choose another.")
