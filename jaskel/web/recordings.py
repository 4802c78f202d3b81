"""Recordings: taking them in, and what the page needs of them."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from flask import Response, request, send_file
from sqlalchemy import String, cast, select
from sqlalchemy.orm import Session

from jaskel.core.problem import Missing, Problem
from jaskel.core.source import Recorded
from jaskel.jobs.join import take_off_page
from jaskel.jobs.prepare import place_alone, start_reading, start_transcript, take_in
from jaskel.jobs.queue import ACTIVE, add_job, send
from jaskel.jobs.sides import may_be_parted
from jaskel.media.probe import MediaInfo, probe, room_for
from jaskel.media.sound import outline
from jaskel.store.models import EditionRow, Episode, Job, LogEntry, Recording, TrackRow
from jaskel.store.notices import post
from jaskel.store.vault import Received
from jaskel.store.weights import careful_weights
from jaskel.web.context import context
from jaskel.web.resource import binary, resource
from jaskel.web.schemas.common import EpisodePath, RecordingPath
from jaskel.web.schemas.recordings import (
    RecordingChange,
    RecordingOut,
    RemoveQuery,
    Reuse,
    Substitution,
    TellApart,
    TranscriptQuery,
    UploadQuery,
    WaveQuery,
)
from jaskel.web.schemas.work import JobOut
from jaskel.web.serializers import job_out, recording_out, reply
from jaskel.web.shows import find_episode

api = resource("recordings", __name__)


@api.post("/episodes/<episode_id>/recordings", responses={201: RecordingOut})
def upload(path: EpisodePath, query: UploadQuery):  # type: ignore[no-untyped-def]
    """Take in a file, sent as the body of the request as it is.

    The same file a second time is refused with the recording that has it already, so that it can be reused.
    """
    home = context().workshop.home
    with home.database.read() as session:
        find_episode(session, path.episode_id)
    expected = request.content_length
    room_for(home.vault.root, expected or 0, query.name)
    with home.vault.receive(request.stream, query.name, expected) as received:  # type: ignore[arg-type]
        return keep_received(received, path.episode_id, query)


@api.post("/episodes/<episode_id>/recordings/reuse", responses={201: RecordingOut})
def reuse(path: EpisodePath, body: Reuse):  # type: ignore[no-untyped-def]
    """Use a recording that is in the vault already in this episode too."""
    with context().workshop.home.database.read() as session:
        find_episode(session, path.episode_id)
        known = find_recording(session, body.recording_id)
    info = MediaInfo.from_json(known.info)
    return add_recording(
        path.episode_id, known.name, known.digest, known.size, info, transcribe=body.transcribe, placed=True, like=known.id
    )


def keep_received(received: Received, episode_id: str, wanted: UploadQuery) -> Response:
    """Make a recording of a file that has come whole, unless it is none, or is here already."""
    home = context().workshop.home
    info = probe(received.path, wanted.name)
    with home.database.read() as session:
        _refuse_twin(session, received.digest, wanted.name)
    home.vault.keep(received)
    return add_recording(
        episode_id,
        wanted.name,
        received.digest,
        received.size,
        info,
        transcribe=wanted.transcribe,
        placed=wanted.placed,
    )


def _refuse_twin(session: Session, digest: str, name: str) -> None:
    """Refuse a file that a recording has already, told with that recording."""
    twin = session.scalar(select(Recording).where(Recording.digest == digest).order_by(Recording.created).limit(1))
    if twin is not None:
        where = f"“{twin.name}” in the episode “{session.get_one(Episode, twin.episode_id).title}”"
        raise Problem(
            "already-here",
            f"“{name}” is here already: it is the same file as {where}. It can be used again without a second copy.",
            recording=twin.id,
        )


def add_recording(
    episode_id: str, name: str, digest: str, size: int, info: MediaInfo, *, transcribe: bool, placed: bool, like: str = ""
) -> Response:
    """Note a recording whose original is in the vault, and have its sound read.

    One that is ``like`` another of the same file has the same transcript.
    """
    home = context().workshop.home
    with home.database.write() as session:
        recording = Recording(
            episode_id=episode_id,
            name=name,
            kind=info.kind,
            digest=digest,
            size=size,
            info=info.to_json(),
            placed=placed and info.kind == "speech",
        )
        session.add(recording)
        session.flush()
        if like:
            _say_the_same(session, recording, session.get_one(Recording, like))
        jobs = start_reading(session, recording, transcribe=transcribe)
        post(session, "recording", episode_id, id=recording.id)
    home.vault.claim(digest)
    for job in jobs:
        send(home, job)
    return reply(recording_out(recording), 201)


def _say_the_same(session: Session, recording: Recording, known: Recording) -> None:
    """Copy the words of another recording of the same file; voices are those of its show."""
    if known.transcript_state != "done":
        return
    transcripts = context().workshop.home.transcripts
    same_show = known.episode.show_id == session.get_one(Episode, recording.episode_id).show_id
    recording.length, recording.language, recording.transcript_state = known.length, known.language, "done"
    words = transcripts.of(session, known).words
    transcripts.extend(
        session, recording, 0, known.length, words if same_show else [replace(word, voice=None) for word in words]
    )


@api.post("/recordings/<recording_id>/accept", responses={200: RecordingOut})
def accept(path: RecordingPath):  # type: ignore[no-untyped-def]
    """Use what can be read of a recording that was cut off."""
    home = context().workshop.home
    with home.database.read() as session:
        recording = find_recording(session, path.recording_id)
    if recording.state != "cut off":
        raise Problem("not-cut-off", "This recording is not waiting for a decision.")
    take_in(home, path.recording_id, transcribe=True)
    with home.database.read() as session:
        return reply(recording_out(find_recording(session, path.recording_id)))


@api.post("/recordings/<recording_id>/original", responses={200: RecordingOut})
def find_again(path: RecordingPath):  # type: ignore[no-untyped-def]
    """Bring back the file of a recording that has gone missing, sent as the body of the request. It must be the very same."""
    home = context().workshop.home
    with home.database.read() as session:
        recording = find_recording(session, path.recording_id)
    room_for(home.vault.root, request.content_length or 0, recording.name)
    with home.vault.receive(request.stream, recording.name, request.content_length) as received:  # type: ignore[arg-type]
        if received.digest != recording.digest:
            raise Problem(
                "other-file",
                f"This is not the file that “{recording.name}” was made from. Choose that one, or add this one as a new "
                "recording and let it replace the old one.",
            )
        home.vault.keep(received, anew=True)
    home.vault.claim(recording.digest)
    with home.database.write() as session:
        jobs = []
        if not home.vault.sound(recording.digest).exists():
            jobs.append(add_job(session, "prepare", recording.episode_id, recording.id, recording.length).id)
        post(session, "recording", recording.episode_id, id=recording.id)
    for job in jobs:
        send(home, job)
    return reply(recording_out(recording))


@api.patch("/recordings/<recording_id>", responses={200: RecordingOut})
def change(path: RecordingPath, body: RecordingChange):  # type: ignore[no-untyped-def]
    """Give a recording another name (its file keeps its own), or say what language is spoken in it."""
    with context().workshop.home.database.write() as session:
        recording = find_recording(session, path.recording_id)
        recording.name = body.name or recording.name
        recording.language = body.language or recording.language
        if body.care == "careful" and not careful_weights(session, context().workshop.settings, recording.language):
            raise Problem(
                "no-weights",
                "No larger weights that know this language are installed. Add some in the library, or stay with quick.",
            )
        recording.care = body.care or recording.care
        if body.parted and not recording.languages:
            raise Problem("one-language", "Only one language was found in this recording, so there is nothing to part.")
        # A language that somebody chooses is that of the whole recording.
        recording.parted = recording.parted and not body.language if body.parted is None else body.parted
        jobs = _become(session, recording, body.kind) if body.kind and body.kind != recording.kind else []
        post(session, "recording", recording.episode_id, id=recording.id)
    for job in jobs:
        send(context().workshop.home, job)
    return reply(recording_out(recording))


@api.post("/recordings/<recording_id>/sides", responses={202: JobOut})
def part_sides(path: RecordingPath):  # type: ignore[no-untyped-def]
    """Part two voices on left and right of a recording into the tracks of a session, which is proposed."""
    home = context().workshop.home
    with home.database.write() as session:
        recording = find_recording(session, path.recording_id)
        if not may_be_parted(session, recording):
            raise Problem("one-side", f"“{recording.name}” has one channel only, or belongs to a session already.")
        job = add_job(session, "sides", recording.episode_id, recording.id, recording.length)
    send(home, job.id)
    return reply(job_out(job), 202)


def _become(session: Session, recording: Recording, kind: str) -> list[str]:
    """Make a recording one of another kind; gives the ids of what is to be done."""
    home = context().workshop.home
    info = MediaInfo.from_json(recording.info)
    if kind in ("speech", "music") and not info.has_sound:
        raise Problem("no-sound", f"“{recording.name}” has no sound, so it can be neither speech nor music.")
    if kind in ("video", "still") and (not info.picture or info.still != (kind == "still")):
        raise Problem("no-picture", f"“{recording.name}” is no such picture. Choose speech or music.")
    if track := session.get(TrackRow, recording.id):
        raise Problem("in-a-session", f"“{recording.name}” is part of {track.session.name}. Take the session apart first.")
    recording.kind = kind
    if kind == "speech":
        return place_alone(home, session, recording) if recording.state == "ready" else []
    recording.placed = False
    for job in session.scalars(select(Job).where(Job.subject == recording.id, Job.kind == "transcribe", Job.state.in_(ACTIVE))):
        job.cancel = True
    take_off_page(context().workshop.home, session, recording)
    return []


@api.post("/recordings/<recording_id>/substitute", responses={202: JobOut})
def substitute(path: RecordingPath, body: Substitution):  # type: ignore[no-untyped-def]
    """Let another file take the place of a recording. Where both are the same sound, all cuts and words stay where they are."""
    home = context().workshop.home
    with home.database.write() as session:
        old, new = find_recording(session, path.recording_id), find_recording(session, body.by)
        for recording in (old, new):
            if recording.state != "ready":
                raise Problem("not-ready", f"“{recording.name}” is not ready yet. Wait until its sound has been read.")
            if not MediaInfo.from_json(recording.info).has_sound:
                raise Problem("no-sound", f"“{recording.name}” has no sound to be compared.")
            if track := session.get(TrackRow, recording.id):
                raise Problem(
                    "in-a-session", f"“{recording.name}” is part of {track.session.name}. Take the session apart first."
                )
        if old.id == new.id or old.episode_id != new.episode_id:
            raise Problem("same", "Choose another recording of this episode to take its place.")
        job = add_job(session, "substitute", old.episode_id, old.id, old.length, by=new.id, whole=body.whole)
    send(home, job.id)
    return reply(job_out(job), 202)


@api.post("/recordings/<recording_id>/place", responses={200: RecordingOut})
def put_on_page(path: RecordingPath):  # type: ignore[no-untyped-def]
    """Put a recording that came with others on the page by itself."""
    home = context().workshop.home
    with home.database.write() as session:
        recording = find_recording(session, path.recording_id)
        if track := session.get(TrackRow, recording.id):
            raise Problem("in-a-session", f"“{recording.name}” is part of {track.session.name}, which is on the page.")
        editions = session.get_one(Episode, recording.episode_id).editions
        if any(recording.id in home.editions.open(session, row.id).edition.recordings for row in editions):
            raise Problem("on-the-page", f"“{recording.name}” is on the page already.")
        recording.placed = True
        jobs = place_alone(home, session, recording)
        post(session, "recording", recording.episode_id, id=recording.id)
    for job in jobs:
        send(home, job)
    return reply(recording_out(recording))


@api.delete("/recordings/<recording_id>", responses={204: None})
def remove(path: RecordingPath, query: RemoveQuery):  # type: ignore[no-untyped-def]
    """Remove a recording.

    One that editions use is refused with their names, unless ``from_page`` is given. Taking it off their pages can be undone
    there like any other edit, and so the file stays.
    """
    home = context().workshop.home
    with home.database.write() as session:
        recording = find_recording(session, path.recording_id)
        if track := session.get(TrackRow, recording.id):
            raise Problem("in-a-session", f"“{recording.name}” is part of {track.session.name}. Take the session apart first.")
        editions = [home.editions.open(session, e.id) for e in session.get_one(Episode, recording.episode_id).editions]
        using = [opened for opened in editions if recording.id in opened.edition.recordings]
        if using and not query.from_page:
            names = " and ".join(f"“{session.get_one(EditionRow, opened.id).name}”" for opened in using)
            raise Problem(
                "in-use",
                f"“{recording.name}” is on the page of {names}. Removing it takes its words off there; undo brings them back.",
                editions=[opened.id for opened in using],
            )
        take_off_page(context().workshop.home, session, recording)
        for job in session.scalars(select(Job).where(Job.subject == recording.id, Job.state.in_(ACTIVE))):
            job.cancel = True
            if job.state == "queued":
                job.state = "cancelled"
        in_logs = using or _was_used(session, recording)
        if in_logs:
            recording.placed = False
        else:
            session.delete(recording)
        session.flush()
        used = in_logs or session.scalar(select(Recording.id).where(Recording.digest == recording.digest).limit(1))
        post(session, "recording", recording.episode_id, id=recording.id)
    if not used:
        home.vault.drop_original(recording.digest)
    return Response(status=204)


def _was_used(session: Session, recording: Recording) -> bool:
    """Whether some step of the history mentions a recording, so that undo may need it."""
    entries = (
        select(LogEntry.number)
        .join(EditionRow, EditionRow.id == LogEntry.edition_id)
        .where(EditionRow.episode_id == recording.episode_id, cast(LogEntry.operation, String).contains(recording.id))
    )
    return session.scalar(entries.limit(1)) is not None


@api.post("/recordings/<recording_id>/transcript", responses={200: RecordingOut})
def transcribe(path: RecordingPath, query: TranscriptQuery):  # type: ignore[no-untyped-def]
    """Start the transcript of a recording, or go on with one that was stopped.

    ``anew`` makes one again, in another language; what was typed or accepted stays.
    """
    home = context().workshop.home
    with home.database.write() as session:
        recording = find_recording(session, path.recording_id)
        if recording.state != "ready":
            raise Problem("not-ready", "This recording is not ready yet. Wait until its sound has been read.")
        if recording.transcript_state == "done" and not query.anew:
            raise Problem("already-transcribed", "This recording has its transcript already.")
        job = start_transcript(session, recording, anew=recording.transcript_state == "done")
        post(session, "recording", recording.episode_id, id=recording.id)
    send(home, job)
    return reply(recording_out(recording))


@api.post("/recordings/<recording_id>/voices", responses={202: JobOut})
def tell_voices_apart(path: RecordingPath, body: TellApart):  # type: ignore[no-untyped-def]
    """Find who says what in a recording of several voices; a step on the page that can be undone."""
    home = context().workshop.home
    with home.database.write() as session:
        recording = find_recording(session, path.recording_id)
        if recording.transcript_state != "done":
            raise Problem("no-words", "This recording has no transcript yet. Let it be transcribed first.")
        if session.get(TrackRow, recording.id):
            raise Problem("in-a-session", "This recording is a track of a session, which has one voice. Name it under Gather.")
        job = add_job(session, "voices", recording.episode_id, recording.id, recording.length, count=body.count)
    send(home, job.id)
    return reply(job_out(job), 202)


@api.get("/recordings/<recording_id>/peaks", responses=binary("application/octet-stream"))
def peaks(path: RecordingPath):  # type: ignore[no-untyped-def]
    """The envelope of the sound: one byte for each 10 ms."""
    home = context().workshop.home
    with home.database.read() as session:
        recording = find_recording(session, path.recording_id)
    return _derived(home.vault.peaks(recording.digest), "application/octet-stream", recording)


@api.get("/recordings/<recording_id>/wave", responses=binary("application/octet-stream"))
def wave(path: RecordingPath, query: WaveQuery):  # type: ignore[no-untyped-def]
    """The sound of a stretch, as closely as it is drawn: least and most of each point, as signed bytes one after the other."""
    workshop = context().workshop
    with workshop.home.database.read() as session:
        find_recording(session, path.recording_id)
    drawn = outline(workshop.heard(Recorded(path.recording_id), query.start, query.end), query.points)
    response = Response(drawn.tobytes(), mimetype="application/octet-stream")
    response.cache_control.max_age = 3600
    return response


def light_copy(recording_id: str) -> tuple[Path, Recording]:
    """The light copy of a recording's picture, and the recording.

    Raises
    ------
    Missing
        ``not-made-yet``, and where there is no such recording.
    """
    home = context().workshop.home
    with home.database.read() as session:
        recording = find_recording(session, recording_id)
    copy = home.vault.working_copy(recording.digest)
    if not copy.exists():
        raise Missing("not-made-yet", f"The light copy of “{recording.name}” is still being made. Try it in a moment.")
    return copy, recording


@api.get("/recordings/<recording_id>/picture", responses=binary("video/mp4"))
def picture(path: RecordingPath):  # type: ignore[no-untyped-def]
    """The light working copy of the picture, an MP4 without sound, or the PNG of a still."""
    home = context().workshop.home
    with home.database.read() as session:
        recording = find_recording(session, path.recording_id)
    mimetype = "image/png" if recording.kind == "still" else "video/mp4"
    return _derived(home.vault.working_copy(recording.digest), mimetype, recording)


@api.get("/recordings/<recording_id>/keys", responses=binary("video/mp4"))
def keys(path: RecordingPath):  # type: ignore[no-untyped-def]
    """A few key pictures of a long recording, an MP4 without sound in which each is shown until the next."""
    home = context().workshop.home
    with home.database.read() as session:
        recording = find_recording(session, path.recording_id)
    return _derived(home.vault.key_copy(recording.digest), "video/mp4", recording)


def _derived(place, mimetype: str, recording: Recording) -> Response:  # type: ignore[no-untyped-def]
    if not place.exists():
        raise Missing("not-made-yet", "This is still being made. It appears by itself when it is ready.")
    response = send_file(place, mimetype=mimetype, conditional=True, etag=f"{recording.digest[:24]}-{place.name}", max_age=3600)
    return response


def find_recording(session: Session, recording_id: str) -> Recording:
    recording = session.get(Recording, recording_id)
    if recording is None:
        raise Missing("no-recording", "This recording is not there any more.")
    return recording
