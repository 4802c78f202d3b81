"""What is set for cameras, as it goes over the wire."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from jaskel.core.marks.camera import MOST_CLOSER
from jaskel.core.picture.cover import CoverForm
from jaskel.core.picture.gaze import AS_IT_LOOKS, Why
from jaskel.core.picture.grade import AS_FILMED, Grade
from jaskel.web.schemas.common import BoxField, TicksField


class GradeField(BaseModel):
    """Levels of a camera's picture: stops, -100 to 100 for warmth (orange) and tint (magenta), and per cent."""

    exposure: Annotated[float, Field(ge=-3, le=3)] = AS_FILMED.exposure
    warmth: Annotated[float, Field(ge=-100, le=100)] = AS_FILMED.warmth
    tint: Annotated[float, Field(ge=-100, le=100)] = AS_FILMED.tint
    saturation: Annotated[float, Field(ge=0, le=300)] = AS_FILMED.saturation
    contrast: Annotated[float, Field(ge=30, le=300)] = AS_FILMED.contrast

    @property
    def grade(self) -> Grade:
        return Grade(**{name: getattr(self, name) for name in GradeField.model_fields})


def grade_field(grade: Grade) -> GradeField:
    return GradeField(**{name: getattr(grade, name) for name in GradeField.model_fields})


class GazeField(BaseModel):
    """Eyes are turned to the camera by so many per cent, where they look past it by no more than so many degrees."""

    amount: Annotated[float, Field(ge=0, le=100)] = AS_IT_LOOKS.amount
    within: Annotated[float, Field(ge=5, le=20)] = AS_IT_LOOKS.within


class CameraOut(BaseModel):
    """A camera of an edition, the levels of its picture and how eyes are turned in it.

    ``looked`` is whether faces were looked for in it.
    """

    recording: str
    name: str
    voice: str | None
    grade: GradeField
    gaze: GazeField
    looked: bool


class AimField(BaseModel):
    """Where a camera looks: at a point, in shares of its picture, so many times closer; ``follows`` the face from there."""

    x: Annotated[float, Field(ge=0, le=1)] = 0.5
    y: Annotated[float, Field(ge=0, le=1)] = 0.5
    closer: Annotated[float, Field(ge=1, le=MOST_CLOSER)] = 1.0
    follows: bool = True


class AimOut(AimField):
    """An aim from-to in laid time."""

    camera: str
    begin: TicksField
    end: TicksField


class FaceOut(BaseModel):
    """Whose face is known in which camera."""

    camera: str
    voice: str


class CoverOut(BaseModel):
    """What is covered of a camera's picture, from-to in laid time."""

    id: str
    camera: str
    form: CoverForm
    begin: TicksField
    end: TicksField


class CoverAtOut(BaseModel):
    """Where something is covered so many ticks after a layer begins."""

    at: int
    box: BoxField


class CoverWayOut(BaseModel):
    form: CoverForm
    way: list[CoverAtOut]


class GazeQuery(GazeField):
    """How eyes are to be turned in a ``camera``."""

    camera: str


class NotTurnedOut(BaseModel):
    """Eyes are not turned from-to in laid time, and why."""

    begin: TicksField
    end: TicksField
    why: Why


class GazedOut(BaseModel):
    """So many places of an edition were looked at, and in so many eyes are turned; where they are not, and why."""

    looked: int
    turned: int
    not_turned: list[NotTurnedOut]


class PiecePath(BaseModel):
    recording_id: str
    number: Annotated[int, Field(ge=0, le=1_000_000)]


class MatchQuery(BaseModel):
    """The recording whose pictures another one's are to look like."""

    to: str
