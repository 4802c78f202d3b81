"""Stored things as they go over the wire."""

from __future__ import annotations

import time

from flask import Response
from pydantic import BaseModel

from jaskel.media.probe import MediaInfo
from jaskel.store.models import BroughtText, Export, Job, Recording, SessionRow, SpellingRow, Take, TrackRow, Voice
from jaskel.store.sessions import shown_name
from jaskel.web.schemas import (
    BesidesOut,
    ExportOut,
    JobOut,
    PictureOut,
    RecordingOut,
    SessionOut,
    SpellingOut,
    TakeOut,
    TextOut,
    TrackOut,
    VoiceOut,
)


def reply(body: BaseModel, status: int = 200) -> Response:
    """A JSON response of a schema."""
    return Response(body.model_dump_json(), status, mimetype="application/json")


def recording_out(recording: Recording, session: str | None = None, on_page: bool = False) -> RecordingOut:
    """A recording, the id of the session it is a track of, and whether some edition uses it now."""
    info = MediaInfo.from_json(recording.info)
    shown = info.picture
    picture = (
        PictureOut(codec=shown.codec, width=shown.width, height=shown.height, rate=float(shown.frame_rate)) if shown else None
    )
    return RecordingOut(
        id=recording.id,
        name=recording.name,
        state=recording.state,  # type: ignore[arg-type]
        trouble=recording.trouble,
        size=recording.size,
        length=recording.length,
        container=info.container,
        sound_codec=info.sound_codec,
        channels=info.channels,
        sample_rate=info.sample_rate,
        picture=picture,
        working_copy=recording.has_working_copy,
        placed=recording.placed or on_page,
        session=session,
        language=recording.language,
        transcript=recording.transcript_state,  # type: ignore[arg-type]
        transcript_trouble=recording.transcript_trouble,
        transcript_revision=recording.transcript_revision,
    )


def track_out(track: TrackRow) -> TrackOut:
    return TrackOut(
        recording=track.recording_id,
        name=track.recording.name,
        offset=track.offset,
        drift=track.drift,
        sure=track.sure,
        sounds=track.sounds,
        voice=track.voice_id,
        length=track.recording.length,
    )


def session_out(row: SessionRow) -> SessionOut:
    return SessionOut(
        id=row.id,
        name=row.name,
        state=row.state,  # type: ignore[arg-type]
        length=row.length,
        revision=row.revision,
        tracks=[track_out(track) for track in row.tracks],
    )


def text_out(text: BroughtText) -> TextOut:
    report = text.report
    return TextOut(
        id=text.id,
        recording=text.recording_id,
        name=text.name,
        form=text.form,
        words=len(text.words),
        voices=list(dict.fromkeys(word[1] for word in text.words if word[1])),
        timed=text.timed,
        excerpt=" ".join(word[0] for word in text.words[:24]),
        state=text.state,  # type: ignore[arg-type]
        trouble=text.trouble,
        share=report.get("share"),
        unspoken=report.get("unspoken", []),
        besides=[BesidesOut(text=said, at=at) for said, at in report.get("besides", [])],
    )


def take_out(take: Take) -> TakeOut:
    return TakeOut(id=take.id, name=take.name, chunks=take.chunks, size=take.size, silent=max(0.0, time.time() - take.beat))


def spelling_out(row: SpellingRow) -> SpellingOut:
    return SpellingOut(id=row.id, term=row.term, heard=list(row.heard))


def voice_out(voice: Voice) -> VoiceOut:
    return VoiceOut(id=voice.id, name=voice.name, shown=shown_name(voice), number=voice.number)


def job_out(job: Job) -> JobOut:
    return JobOut(
        id=job.id,
        kind=job.kind,
        subject=job.subject,
        state=job.state,  # type: ignore[arg-type]
        done=job.done,
        total=job.total,
        trouble=job.trouble,
        form=job.details.get("form", ""),
    )


def export_out(export: Export) -> ExportOut:
    return ExportOut(
        id=export.id,
        edition_id=export.edition_id,
        form=export.form,  # type: ignore[arg-type]
        file_name=export.file_name,
        size=export.size,
        length=export.length,
        revision=export.revision,
        created=f"{export.created:%Y-%m-%dT%H:%M:%SZ}",
    )
