"""Stored things as they go over the wire."""

from __future__ import annotations

from flask import Response
from pydantic import BaseModel

from jaskel.media.probe import MediaInfo
from jaskel.store.models import Export, Job, Recording
from jaskel.web.schemas import ExportOut, JobOut, PictureOut, RecordingOut


def reply(body: BaseModel, status: int = 200) -> Response:
    """A JSON response of a schema."""
    return Response(body.model_dump_json(), status, mimetype="application/json")


def recording_out(recording: Recording) -> RecordingOut:
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
        transcript=recording.transcript_state,  # type: ignore[arg-type]
        transcript_trouble=recording.transcript_trouble,
        transcript_revision=recording.transcript_revision,
    )


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
