"""Jobs, exports and notices."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from jaskel.web.schemas.common import Form, TicksField


class JobPath(BaseModel):
    job_id: str


class ExportPath(BaseModel):
    export_id: str


class JobOut(BaseModel):
    id: str
    kind: str
    subject: str
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    done: int
    total: int
    trouble: str
    form: str = ""
    other: str | None = None


class ExportOut(BaseModel):
    id: str
    edition_id: str
    form: Form
    file_name: str
    size: int
    length: TicksField
    revision: int
    created: str


class NewExport(BaseModel):
    """``bits`` a second are those of the sound of MP3 and MP4; ``muted`` writes words of muted voices, too."""

    form: Form
    bits: Literal[64_000, 96_000, 128_000, 160_000, 192_000, 256_000, 320_000] = 192_000
    muted: bool = False


class NoticesQuery(BaseModel):
    episode: str = ""
