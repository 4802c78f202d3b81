"""Archives of episodes."""

from __future__ import annotations

from pydantic import BaseModel

from jaskel.web.schemas.common import Name


class ArchiveQuery(BaseModel):
    name: Name


class BroughtEpisodeOut(BaseModel):
    """An episode that came in an archive."""

    episode: str
    show: str
    title: str
