"""Jobs, exports and notices."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, Field, model_validator

from jaskel.media.forms import FORMS, FilmCaptions
from jaskel.web.schemas.common import TicksField


def _known(key: str) -> str:
    if key not in FORMS:
        raise ValueError("there is no such form")
    return key


Form = Annotated[str, AfterValidator(_known), Field(json_schema_extra={"enum": [*FORMS]})]
"""One of the forms there are, by its key in the register."""


class JobPath(BaseModel):
    job_id: str


class ExportPath(BaseModel):
    export_id: str


class JobOut(BaseModel):
    id: str
    kind: str
    subject: str
    state: Literal["queued", "running", "paused", "done", "failed", "cancelled"]
    done: int
    total: int
    trouble: str
    cancel: bool = Field(description="Somebody cancelled it: it ends at its next step.")
    form: str = ""
    destination: str = ""
    left: int | None = Field(None, description="Seconds it still takes, once a tenth of it is done")
    other: str | None = None


class JobsOut(BaseModel):
    """Work that was started."""

    jobs: list[JobOut]


class ExportOut(BaseModel):
    id: str
    edition_id: str
    form: Form
    destination: str
    job_id: str
    file_name: str
    size: int
    length: TicksField
    revision: int
    created: str


class NewExport(BaseModel):
    """Either a ``destination`` of the show by its key, which says all the rest, or a ``form``.

    ``bits`` a second are those of the sound of MP3 and films; ``muted`` writes words of muted voices, too.

    ``texts`` says which languages captions are in. ``rate`` is that of caption files with timecode, ``channel`` that of line
    21; ``named``, ``placed`` and ``word_times`` write the names of voices, the places of captions and the times of words into
    WebVTT. ``hour`` is where the timecode of media begins in timelines that have none.
    """

    form: Form | None = None
    destination: str = ""
    part: tuple[TicksField, TicksField] | None = Field(None, description="From-to in laid time of what is exported")
    bits: Literal[64_000, 96_000, 128_000, 160_000, 192_000, 256_000, 320_000] = 192_000
    muted: bool = False
    texts: Literal["first", "second", "both"] = "first"
    rate: Literal["23.976", "24", "25", "29.97 drop", "29.97", "30", "50", "59.94"] = "25"
    channel: Literal["CC1", "CC2", "CC3", "CC4"] = "CC1"
    named: bool = False
    placed: bool = False
    word_times: bool = False
    hour: Literal[0, 1] = 0
    captions: list[FilmCaptions] = Field(default_factory=list, max_length=2, description="How films have captions, if at all")

    @model_validator(mode="after")
    def _one_of_both(self) -> NewExport:
        if (self.form is None) == (not self.destination):
            raise ValueError("say a form or a destination")
        if self.part and self.part[0] >= self.part[1]:
            raise ValueError("a part ends after it begins")
        return self


class FormOut(BaseModel):
    """A form of export: ``group`` is what kind of thing it is, ``about`` what more there is to know of it.

    ``text`` is whether it is read rather than heard or seen, ``lost`` what of the programme it cannot carry.
    """

    key: Form
    group: str
    label: str
    about: str
    ending: str
    text: bool
    lost: list[str]


class FormsOut(BaseModel):
    forms: list[FormOut]


class NoticesQuery(BaseModel):
    episode: str = ""
