"""Pictures and films to lay over the words: the show's own, and a library that is subscribed to."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Literal

from flask import Response, send_file
from pydantic import BaseModel, Field, StringConstraints
from sqlalchemy import select

from jaskel.core.problem import Missing
from jaskel.core.timebase import RATE
from jaskel.jobs.pictures import MOST_BYTES, fetched, pictures_of
from jaskel.media.picture import make_poster
from jaskel.store.models import Episode, Recording
from jaskel.web.context import context
from jaskel.web.recordings import add_recording, find_recording
from jaskel.web.resource import binary, kept, resource
from jaskel.web.schemas.common import EpisodePath, OneLine, RecordingPath, ShowPath
from jaskel.web.schemas.recordings import RecordingOut
from jaskel.web.serializers import recording_out, reply
from jaskel.web.shows import find_episode, find_show

api = resource("pictures", __name__)

PictureId = Annotated[str, StringConstraints(min_length=1, max_length=200)]


class PictureQuery(BaseModel):
    """Words, or a sentence by whose meaning is searched."""

    text: Annotated[str, StringConstraints(max_length=500), OneLine] = ""


class PictureFound(BaseModel):
    """A picture or film of the library, and what is seen in it."""

    id: PictureId
    name: Annotated[str, StringConstraints(max_length=200), OneLine]
    seen: Annotated[str, StringConstraints(max_length=400), OneLine]
    kind: Literal["still", "film"]
    size: Annotated[int, Field(ge=0, le=MOST_BYTES)]
    width: int
    height: int
    seconds: float = 0


class PicturesOut(BaseModel):
    pictures: list[PictureFound]


class PreviewPath(BaseModel):
    picture_id: PictureId


class TakePicture(BaseModel):
    picture: PictureId
    text: Annotated[str, StringConstraints(max_length=500), OneLine] = Field("", description="As it was searched for")


class ShelfOut(BaseModel):
    recordings: list[RecordingOut]


@api.get("/pictures", responses={200: PicturesOut})
def search(query: PictureQuery):  # type: ignore[no-untyped-def]
    """Search the library of pictures, by words or by what a sentence means."""
    found = pictures_of(context().workshop).search(query.text)
    return reply(PicturesOut(pictures=[PictureFound.model_validate(each) for each in found]))


@api.get("/pictures/<picture_id>/preview", responses=binary("image/jpeg"))
def preview(path: PreviewPath):  # type: ignore[no-untyped-def]
    """A small picture of one of the library."""
    return kept(Response(pictures_of(context().workshop).preview(path.picture_id), mimetype="image/jpeg"))


@api.post("/episodes/<episode_id>/pictures", responses={201: RecordingOut})
def take(path: EpisodePath, body: TakePicture):  # type: ignore[no-untyped-def]
    """Take a picture or film of the library into an episode; one that it has already is that."""
    library, home = pictures_of(context().workshop), context().workshop.home
    found = (PictureFound.model_validate(each) for each in library.search(body.text))
    wanted = next((each for each in found if each.id == body.picture), None)
    if wanted is None:
        raise Missing("no-picture", "The library does not have this picture any more. Search again and choose another.")
    received, info = fetched(context().workshop, wanted.id, wanted.name, wanted.size)
    with home.database.read() as session:
        episode = find_episode(session, path.episode_id)
        known = next((each for each in episode.recordings if each.digest == received.digest), None)
        if known:
            return reply(recording_out(known), 201)
    # As it is called on the page, it tells what is seen.
    return add_recording(path.episode_id, wanted.seen, received.digest, received.size, info, transcribe=False, placed=False)


@api.get("/shows/<show_id>/shelf", responses={200: ShelfOut})
def shelf(path: ShowPath):  # type: ignore[no-untyped-def]
    """The show's own shelf: the pictures and silent films of all its episodes, each once, the newest first."""
    with context().workshop.home.database.read() as session:
        show = find_show(session, path.show_id)
        rows = session.scalars(
            select(Recording)
            .join(Episode, Episode.id == Recording.episode_id)
            .where(Episode.show_id == show.id, Recording.kind.in_(("still", "video")), Recording.state == "ready")
            .order_by(Recording.created.desc())
        )
        once = {row.digest: row for row in reversed([*rows])}
        return reply(ShelfOut(recordings=[recording_out(row) for row in reversed(once.values())]))


@api.get("/recordings/<recording_id>/thumbnail", responses=binary("image/jpeg"))
def thumbnail(path: RecordingPath):  # type: ignore[no-untyped-def]
    """A small picture of what a recording shows."""
    vault = context().workshop.home.vault
    with context().workshop.home.database.read() as session:
        recording = find_recording(session, path.recording_id)
    if not recording.has_working_copy:
        raise Missing("not-made-yet", "This is still being made. It appears by itself when it is ready.")
    poster = vault.poster(recording.digest)
    if not poster.exists():
        still = recording.kind == "still"
        with vault.making(poster) as new:
            make_poster(vault.working_copy(recording.digest), new, None if still else Fraction(recording.length, 3 * RATE))
    return kept(send_file(poster, mimetype="image/jpeg"))
