"""What is set for a camera: its levels, where it looks in a shot, what of its picture is covered, whether eyes turn to it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.marks.anchor import Carry, Stretch, Whole
from jaskel.core.marks.mark import Mark, Marks, StretchMark, mark
from jaskel.core.marks.shot import laid_over
from jaskel.core.picture.cover import CoverForm, Way
from jaskel.core.picture.gaze import AS_IT_LOOKS, Gaze
from jaskel.core.picture.grade import AS_FILMED, Grade
from jaskel.core.timebase import Ticks

MOST_CLOSER = 4.0


@dataclass(frozen=True)
class _OfWholeCamera(Mark):
    """A mark that is about one camera, throughout."""

    @property
    def camera(self) -> str:
        (anchor,) = self.anchors
        assert isinstance(anchor, Whole)
        return anchor.recording


@mark
@dataclass(frozen=True)
class PictureLevels(_OfWholeCamera):
    """The levels of a camera's picture."""

    kind: ClassVar[str] = "levels of picture"
    grade: Grade


@mark
@dataclass(frozen=True)
class GazeOf(_OfWholeCamera):
    """Eyes in a camera's picture are turned to it."""

    kind: ClassVar[str] = "gaze"
    gaze: Gaze


@dataclass(frozen=True)
class _OfCamera(StretchMark):
    """A mark of a stretch that is about one ``camera``, by the id of its recording."""

    camera: str

    def carried(self, carry: Carry):  # type: ignore[no-untyped-def]
        moved = super().carried(carry)
        if moved is None or self.camera != carry.recording:
            return moved
        own = carry.anchor(Whole(self.camera))
        assert isinstance(own, Whole)
        return replace(moved, camera=own.recording)


@mark
@dataclass(frozen=True)
class Aim(_OfCamera):
    """Where a camera looks in a shot: at a point of its picture, so much closer, as it is or following the face from there."""

    kind: ClassVar[str] = "aim"
    x: float = 0.5
    y: float = 0.5
    closer: float = 1.0
    follows: bool = True

    def __post_init__(self) -> None:
        if not (0 <= self.x <= 1 and 0 <= self.y <= 1 and 1 <= self.closer <= MOST_CLOSER):
            raise ValueError("a camera looks at a point of its picture, up to four times closer")


@mark
@dataclass(frozen=True)
class CoverHere(_OfCamera):
    """A part of a camera's picture that must not be seen; its way is counted from where the stretch begins."""

    kind: ClassVar[str] = "cover"
    form: CoverForm = "blur"
    way: Way = ()


@mark
@dataclass(frozen=True)
class FaceOf(_OfWholeCamera):
    """Whose face is whose in a camera that sees several: that of a ``voice`` is at a point of its picture at a place of it."""

    kind: ClassVar[str] = "face of"
    voice: str
    at: Ticks
    x: float
    y: float


def faces_of(marks: Marks) -> dict[str, dict[str, FaceOf]]:
    """Whose face is known in which camera."""
    found: dict[str, dict[str, FaceOf]] = {}
    for each in marks.all(FaceOf):
        found.setdefault(each.camera, {})[each.voice] = each
    return found


def set_face(marks: Marks, camera: str, voice: str, place: tuple[Ticks, float, float] | None) -> dict[str, Mark | None]:
    """The changes that say where the face of a voice is in a camera's picture; None takes that back."""
    known = faces_of(marks).get(camera, {}).get(voice)
    if place is None:
        return {known.id: None} if known else {}
    id = known.id if known else marks.free_id(f"face of.{camera}.{voice}")
    new = FaceOf(id, (Whole(camera),), voice, *place)
    return {} if new == known else {id: new}


def grades(marks: Marks) -> dict[str, Grade]:
    """The levels of cameras that have others than they were filmed with."""
    return {each.camera: each.grade for each in marks.all(PictureLevels)}


def set_grade(marks: Marks, camera: str, grade: Grade) -> dict[str, Mark | None]:
    """The changes that give a camera's picture levels."""
    known = next((each for each in marks.all(PictureLevels) if each.camera == camera), None)
    if grade == (known.grade if known else AS_FILMED):
        return {}
    id = known.id if known else marks.free_id(f"levels of picture.{camera}")
    return {id: None if grade == AS_FILMED else PictureLevels(id, (Whole(camera),), grade)}


def gazes(marks: Marks) -> dict[str, Gaze]:
    """How eyes are turned in the pictures of cameras where they are."""
    return {each.camera: each.gaze for each in marks.all(GazeOf)}


def set_gaze(marks: Marks, camera: str, gaze: Gaze) -> dict[str, Mark | None]:
    """The changes that turn the eyes in a camera's picture; by 0 per cent they are left alone."""
    known = next((each for each in marks.all(GazeOf) if each.camera == camera), None)
    new = gaze if gaze.amount else AS_IT_LOOKS
    if new == (known.gaze if known else AS_IT_LOOKS):
        return {}
    id = known.id if known else marks.free_id(f"gaze.{camera}")
    return {id: None if new == AS_IT_LOOKS else GazeOf(id, (Whole(camera),), new)}


def set_aim(
    marks: Marks, places: Sequence[tuple[str, Ticks, Ticks]], camera: str, aim: tuple[float, float, float, bool] | None
) -> dict[str, Mark | None]:
    """The changes that let a camera look somewhere in stretches; None takes that off."""

    def make(id: str, at: Stretch) -> Aim:
        assert aim is not None
        return Aim(id, (at,), camera, *aim)

    return laid_over(marks, places, make if aim else None, Aim, lambda each: each.camera == camera)
