"""Stored things as they go over the wire."""

from __future__ import annotations

import time
from collections.abc import Mapping

from flask import Response
from pydantic import BaseModel

from jaskel.core.marks.chapter import Chapter
from jaskel.core.marks.note import Note
from jaskel.core.marks.select import Select
from jaskel.jobs.queue import seconds_left
from jaskel.media.probe import MediaInfo
from jaskel.store.models import (
    BroughtText,
    EditionRow,
    Export,
    Job,
    Recording,
    SessionRow,
    SpellingRow,
    Take,
    TrackRow,
    Voice,
)
from jaskel.store.sessions import shown_name, voice_of
from jaskel.web.schemas.editions import EditionBrief
from jaskel.web.schemas.notes import AnswerOut, CutOut, NoteOut, SelectOut
from jaskel.web.schemas.recordings import PictureOut, RecordingOut, SpokenFrom, TakeOut
from jaskel.web.schemas.reuse import ChapterOut
from jaskel.web.schemas.sessions import SessionOut, TrackOut, VoiceOut
from jaskel.web.schemas.texts import BesidesOut, SpellingOut, TextOut
from jaskel.web.schemas.work import ExportOut, JobOut


def reply(body: BaseModel, status: int = 200) -> Response:
    """A JSON response of a schema."""
    return Response(body.model_dump_json(), status, mimetype="application/json")


def recording_out(
    recording: Recording, session: str | None = None, on_page: bool = False, borrowed: bool = False, gone: bool = False
) -> RecordingOut:
    """A recording, the id of the session it is a track of, whether some edition uses it now, and whether it is another
    episode's.
    """
    info = MediaInfo.from_json(recording.info)
    shown = info.picture
    picture = (
        PictureOut(codec=shown.codec, width=shown.width, height=shown.height, rate=float(shown.frame_rate)) if shown else None
    )
    return RecordingOut(
        id=recording.id,
        name=recording.name,
        kind=recording.kind,  # type: ignore[arg-type]
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
        key_pictures=recording.has_key_copy,
        placed=recording.placed or on_page,
        session=session,
        borrowed=borrowed,
        gone=gone,
        language=recording.language,
        languages=[SpokenFrom(at=at, language=language) for at, language in recording.languages],
        parted=recording.parted,
        care=recording.care,  # type: ignore[arg-type]
        transcript=recording.transcript_state,  # type: ignore[arg-type]
        transcript_trouble=recording.transcript_trouble,
        transcript_revision=recording.transcript_revision,
    )


def track_out(row: SessionRow, track: TrackRow) -> TrackOut:
    return TrackOut(
        recording=track.recording_id,
        name=track.recording.name,
        offset=track.offset,
        drift=track.drift,
        sure=track.sure,
        sounds=track.sounds,
        voice=voice_of(row, track),
        length=track.recording.length,
    )


def session_out(row: SessionRow, on_page: bool = True) -> SessionOut:
    """A session; one whose join was undone is on no page, and so proposed again."""
    return SessionOut(
        id=row.id,
        name=row.name,
        state=row.state if on_page or row.state != "joined" else "proposed",  # type: ignore[arg-type]
        length=row.length,
        revision=row.revision,
        tracks=[track_out(row, track) for track in row.tracks],
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
        changed=report.get("changed"),
        unspoken=report.get("unspoken", []),
        besides=[BesidesOut(text=said, at=at) for said, at in report.get("besides", [])],
    )


def take_out(take: Take) -> TakeOut:
    return TakeOut(id=take.id, name=take.name, chunks=take.chunks, size=take.size, silent=max(0.0, time.time() - take.beat))


def note_out(note: Note, names: Mapping[str, str]) -> NoteOut:
    """A note; ``names`` are those of accounts."""
    place = note.place
    return NoteOut(
        id=note.id,
        recording=place.recording,
        at=place.at,
        text=note.text,
        who=note.who,
        by=note.by,
        to=note.to,
        to_name=names.get(note.to, ""),
        done=note.done,
        answers=[AnswerOut(text=each.text, who=each.who, at=each.at) for each in note.answers],
        cuts=[CutOut(recording=each.recording, start=each.start, end=each.end) for each in note.cuts],
    )


def chapter_out(mark: Chapter) -> ChapterOut:
    place = mark.place
    return ChapterOut(id=mark.id, recording=place.recording, at=place.at, title=mark.title, by_hand=mark.by_hand)


def select_out(mark: Select) -> SelectOut:
    return SelectOut(
        id=mark.id,
        recording=mark.recording,
        start=mark.start,
        end=mark.end,
        colour=mark.colour,
        who=mark.who,
        note=mark.note,
        rating=mark.rating,
    )


def spelling_out(row: SpellingRow) -> SpellingOut:
    return SpellingOut(id=row.id, term=row.term, heard=list(row.heard))


def voice_out(voice: Voice, like: str | None = None) -> VoiceOut:
    return VoiceOut(id=voice.id, name=voice.name, shown=shown_name(voice), number=voice.number, role=voice.role, like=like)


def edition_brief(row: EditionRow) -> EditionBrief:
    return EditionBrief(id=row.id, name=row.name, revision=row.revision, length=row.length, shape=row.shape)  # type: ignore[arg-type]


def job_out(job: Job) -> JobOut:
    return JobOut(
        id=job.id,
        kind=job.kind,
        subject=job.subject,
        state=job.state,  # type: ignore[arg-type]
        done=job.done,
        total=job.total,
        trouble=job.trouble,
        cancel=job.cancel,
        form=job.details.get("form", ""),
        destination=job.details.get("called", ""),
        left=seconds_left(job),
        other=job.details.get("by"),
    )


def export_out(export: Export) -> ExportOut:
    return ExportOut(
        id=export.id,
        edition_id=export.edition_id,
        form=export.form,  # type: ignore[arg-type]
        destination=export.destination,
        job_id=export.job_id,
        file_name=export.file_name,
        size=export.size,
        length=export.length,
        revision=export.revision,
        created=f"{export.created:%Y-%m-%dT%H:%M:%SZ}",
    )
