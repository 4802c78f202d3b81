"""Archives of episodes."""

from __future__ import annotations

from pydantic import BaseModel

from jaskel.web.schemas.work import JobOut


class ArchivePath(BaseModel):
    archive_id: str


class ArchiveOut(BaseModel):
    """An episode that comes in an archive; the rest is told once it is there."""

    job: JobOut
    episode: str = ""
    show: str = ""
    title: str = ""
