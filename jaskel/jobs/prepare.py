"""From an original to what the page and the recogniser need: its sound, its envelope, a light copy of its picture."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from jaskel.core.operations import Append
from jaskel.core.problem import Problem
from jaskel.core.timebase import Ticks, clock, from_seconds
from jaskel.jobs.faces import start_faces
from jaskel.jobs.process import start_processing
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import add_job, send
from jaskel.jobs.workshop import Workshop
from jaskel.media.conform import Conformed, already_conformed, conform, stretched
from jaskel.media.picture import make_key_copy, make_thumbnail, make_working_copy
from jaskel.media.probe import MediaInfo
from jaskel.store.home import Home
from jaskel.store.models import Episode, Job, Recording, SessionRow, TrackRow
from jaskel.store.notices import post
from jaskel.store.room import CLEARED
from jaskel.store.vault import Received

LONG_SECONDS = 60.0
"""The working copy of a film that is no longer than this is there as soon as its key pictures would be."""


def start_reading(session: Session, recording: Recording, **details: Any) -> list[str]:
    """Write down the jobs that read a new recording; gives their ids."""
    info = MediaInfo.from_json(recording.info)
    total = from_seconds(info.seconds or 0)
    jobs = [add_job(session, "prepare", recording.episode_id, recording.id, total, **details)]
    if info.picture and not info.still and (info.seconds or 0) > LONG_SECONDS:
        jobs.append(add_job(session, "keys", recording.episode_id, recording.id))
    return [job.id for job in jobs]


def note_recording(session: Session, episode_id: str, name: str, received: Received, info: MediaInfo) -> list[str]:
    """Note a recording whose original is in the vault, and what reads it; gives the ids of jobs."""
    recording = Recording(
        episode_id=episode_id, name=name, kind=info.kind, digest=received.digest, size=received.size,
        info=info.to_json(), placed=info.kind == "speech",
    )  # fmt: skip
    session.add(recording)
    session.flush()
    post(session, "recording", episode_id, id=recording.id)
    return start_reading(session, recording)


def prepare(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Decode the sound of a recording, then put it on the page and start what follows."""
    home = workshop.home
    with home.database.read() as session:
        recording = session.get_one(Recording, job.subject)
    info = MediaInfo.from_json(recording.info)
    if not info.has_sound:
        _prepare_silent(home, job.subject, info, placed=recording.placed and bool(job.details.get("laid")))
        return
    done = decode(home, recording, progress)
    with home.database.write() as session:
        recording = session.get_one(Recording, job.subject)
        recording.length, recording.missing = done.length, done.missing
        if done.missing and not job.details.get("laid"):
            recording.state = "cut off"
            recording.trouble = (
                f"“{recording.name}” breaks off: it says it is {clock(done.length + from_seconds(done.missing))} long, "
                f"but only {clock(done.length)} can be read."
            )
            post(session, "recording", recording.episode_id, id=recording.id)
            return
    if job.details.get("laid"):
        _drift_again(home, recording)
        read_again(home, job.subject)
    else:
        take_in(home, job.subject, transcribe=bool(job.details.get("transcribe", True)))


def _drift_again(home: Home, recording: Recording) -> None:
    """Make the sound of a track whose clock drifts, as its session has it."""
    with home.database.read() as session:
        track = session.get(TrackRow, recording.id)
    sound = home.vault.sound(recording.digest, track.drift if track else 0.0)
    if track and track.drift and not sound.exists():
        with home.vault.making(sound) as new:
            stretched(home.vault.sound(recording.digest), track.drift, new)


def wake(session: Session, episode: Episode) -> list[str]:
    """Write down the jobs that make again what was cleared of an episode; gives their ids."""
    jobs = []
    for recording in episode.recordings:
        if recording.state == CLEARED:
            recording.state = "preparing"
            jobs.append(add_job(session, "prepare", episode.id, recording.id, recording.length, laid=True).id)
            post(session, "recording", episode.id, id=recording.id)
    return jobs


def read_again(home: Home, recording_id: str) -> None:
    """Make a decoded recording ready that its editions have already: it lies where they have it.

    Once all of its episode are, sound goes through the chains of the editions.
    """
    jobs: list[str] = []
    with home.database.write() as session:
        recording = session.get_one(Recording, recording_id)
        recording.state, recording.trouble = "ready", ""
        if recording.info["picture"]:
            jobs.append(add_job(session, "picture", recording.episode_id, recording.id, recording.length).id)
        post(session, "recording", recording.episode_id, id=recording.id)
        session.flush()
        if all(each.state == "ready" for each in recording.episode.recordings):
            for edition in recording.episode.editions:
                opened = home.editions.open(session, edition.id)
                if job := start_processing(home, session, edition.id, opened.edition):
                    jobs.append(job)
    for job in jobs:
        send(home, job)


def _prepare_silent(home: Home, recording_id: str, info: MediaInfo, *, placed: bool) -> None:
    """A picture, or a video without sound: there is nothing to listen to, so only its copy for the page is made."""
    jobs: list[str] = []
    with home.database.write() as session:
        recording = session.get_one(Recording, recording_id)
        recording.length = from_seconds(info.seconds or 0)
        recording.state, recording.trouble, recording.placed = "ready", "", placed
        jobs.append(add_job(session, "picture", recording.episode_id, recording.id, recording.length).id)
        post(session, "recording", recording.episode_id, id=recording.id)
    for job in jobs:
        send(home, job)


def decode(home: Home, recording: Recording, progress: Callable[[Ticks], None] = lambda _: None) -> Conformed:
    """Make the conformed sound of a recording and its envelope, unless they are there."""
    vault, info = home.vault, MediaInfo.from_json(recording.info)
    sound, peaks = vault.sound(recording.digest), vault.peaks(recording.digest)
    if sound.exists() and peaks.exists():
        return already_conformed(sound, info)
    with vault.making(sound) as new_sound, vault.making(peaks) as new_peaks:
        return conform(vault.original(recording.digest), info, new_sound, new_peaks, progress)


def take_in(home: Home, recording_id: str, *, transcribe: bool) -> None:
    """Make a decoded recording ready: lay it at the end of the episode's editions, start its transcript and its picture.

    Doing it twice changes nothing the second time.
    """
    jobs: list[str] = []
    with home.database.write() as session:
        recording = session.get_one(Recording, recording_id)
        if recording.state == "ready":
            return
        recording.state, recording.trouble = "ready", ""
        if recording.placed and recording.kind == "speech":
            jobs += place_alone(home, session, recording, transcribe=transcribe)
        elif track := session.get(TrackRow, recording.id):
            jobs += start_sync(session, track.session)
        if recording.info["picture"]:
            jobs.append(add_job(session, "picture", recording.episode_id, recording.id, recording.length).id)
        post(session, "recording", recording.episode_id, id=recording.id)
    for job in jobs:
        send(home, job)


def place(home: Home, session: Session, episode_id: str, name: str, length: Ticks) -> None:
    """Lay a recording or session at the end of all editions of its episode."""
    for edition in session.get_one(Episode, episode_id).editions:
        opened = home.editions.arrive(session, edition.id, Append(name, length))
        post(session, "edition", episode_id, id=edition.id, revision=opened.revision)


def place_alone(home: Home, session: Session, recording: Recording, *, transcribe: bool = True) -> list[str]:
    """Lay a recording on the page by itself and have it transcribed; gives the ids of what is to be done."""
    place(home, session, recording.episode_id, recording.id, recording.length)
    return [start_transcript(session, recording)] if transcribe and recording.transcript_state == "none" else []


def resume(session: Session, episode: Episode) -> list[str]:
    """Go on with what was under way in the episode that this one is a copy of; gives the ids of jobs."""
    jobs: list[str] = []
    for recording in episode.recordings:
        if recording.state == "preparing":
            jobs.append(add_job(session, "prepare", episode.id, recording.id).id)
        elif recording.transcript_state in ("waiting", "running"):
            jobs.append(start_transcript(session, recording))
        if recording.state == "ready" and recording.info["picture"] and not recording.has_working_copy:
            jobs.append(add_job(session, "picture", episode.id, recording.id, recording.length).id)
    for row in episode.sessions:
        jobs += start_sync(session, row) if row.state == "syncing" else []
    return jobs


def start_sync(session: Session, row: SessionRow) -> list[str]:
    """Write down the job that syncs a session, once all its recordings are ready; gives its id."""
    if row.state != "syncing" or any(track.recording.state != "ready" for track in row.tracks):
        return []
    total = sum(track.recording.length for track in row.tracks)
    return [add_job(session, "sync", row.episode_id, row.id, total).id]


def start_transcript(session: Session, recording: Recording, *, anew: bool = False) -> str:
    """Write down the job that transcribes ``recording``, or does so ``anew``; gives its id."""
    recording.transcript_state, recording.transcript_trouble = "waiting", ""
    return add_job(session, "transcribe", recording.episode_id, recording.id, recording.length, anew=anew).id


def key_pictures(workshop: Workshop, job: Job, _progress: Progress) -> None:
    """Make something of a long film that can be seen at once, unless all of it can be."""
    home = workshop.home
    with home.database.read() as session:
        recording = session.get_one(Recording, job.subject)
    info = MediaInfo.from_json(recording.info)
    copy = home.vault.key_copy(recording.digest)
    if info.picture and not recording.has_working_copy and not copy.exists():
        # What is wrong with a film is told where its sound is read, and where its whole picture is.
        with suppress(Problem), home.vault.making(copy) as new_copy:
            make_key_copy(home.vault.original(recording.digest), info.picture, info.seconds or 0, new_copy)
    with home.database.write() as session:
        row = session.get_one(Recording, job.subject)
        row.has_key_copy = copy.exists() and not row.has_working_copy
        post(session, "recording", recording.episode_id, id=recording.id)


def picture(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Make the light copy of a recording's picture."""
    home = workshop.home
    with home.database.read() as session:
        recording = session.get_one(Recording, job.subject)
    copy = light_copy(home, recording, progress)
    with home.database.write() as session:
        row = session.get_one(Recording, job.subject)
        row.has_working_copy, row.has_key_copy = copy.exists(), False
        faces = start_faces(home, session, row)
        post(session, "recording", recording.episode_id, id=recording.id)
    home.vault.key_copy(recording.digest).unlink(missing_ok=True)
    if faces:
        send(home, faces)


def light_copy(home: Home, recording: Recording, progress: Callable[[Ticks], None] = lambda _: None) -> Path:
    """Make the light copy of a picture or film, unless it is there; gives its file. Sound alone has none."""
    info, copy = MediaInfo.from_json(recording.info), home.vault.working_copy(recording.digest)
    if info.still and not copy.exists():
        with home.vault.making(copy) as new_copy:
            make_thumbnail(home.vault.original(recording.digest), new_copy)
    elif info.picture and not copy.exists():
        with home.vault.making(copy) as new_copy:
            make_working_copy(home.vault.original(recording.digest), info.picture, recording.length, new_copy, progress)
    return copy
