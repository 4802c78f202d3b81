"""The voices of a show: naming them, and making one of two."""

from __future__ import annotations

from flask import Response
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from jaskel.core.problem import Missing, Problem
from jaskel.store.models import Episode, Recording, TrackRow, TranscriptPart, Voice
from jaskel.store.notices import post
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.sessions import MergeVoices, VoiceChange, VoiceOut, VoicePath
from jaskel.web.serializers import reply, voice_out

api = resource("voices", __name__)


@api.patch("/voices/<voice_id>", responses={200: VoiceOut})
def name(path: VoicePath, body: VoiceChange):  # type: ignore[no-untyped-def]
    """Name a voice, or say what it is, everywhere in the show.

    Refused when another has that name, with its id: they can be merged.
    """
    with context().workshop.home.database.write() as session:
        voice = find_voice(session, path.voice_id)
        others = session.scalars(select(Voice).where(Voice.show_id == voice.show_id, Voice.id != voice.id))
        twin = next((other for other in others if body.name and other.name.casefold() == body.name.casefold()), None)
        if twin:
            raise Problem(
                "name-taken",
                f"Another voice of this show is called {twin.name} already. Are they the same? Then merge them.",
                voice=twin.id,
            )
        if body.name is not None:
            voice.name = body.name
        if body.role is not None:
            voice.role = body.role
        told(session, voice)
        return reply(voice_out(voice))


@api.post("/voices/<voice_id>/merge", responses={204: None})
def merge(path: VoicePath, body: MergeVoices):  # type: ignore[no-untyped-def]
    """Give everything a voice says in the show to another, and forget the first."""
    home = context().workshop.home
    with home.database.write() as session:
        voice, into = find_voice(session, path.voice_id), find_voice(session, body.into)
        if voice.id == into.id or voice.show_id != into.show_id:
            raise Problem("same-voice", "Choose another voice of the same show to merge this one into.")
        session.execute(update(TrackRow).where(TrackRow.voice_id == voice.id).values(voice_id=into.id))
        parts = session.execute(
            select(TranscriptPart, Recording)
            .join(Recording, Recording.id == TranscriptPart.recording_id)
            .join(Episode, Episode.id == Recording.episode_id)
            .where(Episode.show_id == voice.show_id)
        )
        for part, recording in parts:
            if any(word[4] == voice.id for word in part.words):
                part.words = [[*word[:4], into.id if word[4] == voice.id else word[4], *word[5:]] for word in part.words]
                recording.transcript_revision += 1
        told(session, voice)
        session.delete(voice)
    return Response(status=204)


def find_voice(session: Session, voice_id: str) -> Voice:
    voice = session.get(Voice, voice_id)
    if voice is None:
        raise Missing("no-voice", "This voice is not in the show any more.")
    return voice


def told(session: Session, voice: Voice) -> None:
    """Let the windows of a show know that something about a voice has changed."""
    for episode in session.scalars(select(Episode.id).where(Episode.show_id == voice.show_id)):
        post(session, "voice", episode, id=voice.id)
