"""The demo's data folder: its show and episodes, taken in by the same jobs as everybody's, with their words."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.demo import world
from jaskel.demo.shipped import MEDIA, Shipped, faces_of, shipped
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.join import put_on_page
from jaskel.jobs.queue import add_job
from jaskel.jobs.workshop import Workshop
from jaskel.media.probe import probe
from jaskel.settings import Settings
from jaskel.store import library
from jaskel.store.home import Home
from jaskel.store.models import Episode, Job, Recording, SessionRow, SpellingRow
from jaskel.store.sessions import new_session, new_voice

COMPLETE, BEGUN = "complete", "demo-begun"
"""Marks of a data folder whose demo is made, and of one that was left while it was being made."""


def prepare(settings: Settings, say: Callable[[str], None] = lambda _: None, *, all_jobs: bool = True) -> str:
    """Make the demo's data when it is not there yet; gives the path of the page to open.

    Without ``all_jobs`` only what the page needs to open is done: the microphones. All else is left to the worker.
    """
    mark, begun = settings.data / COMPLETE, settings.data / BEGUN
    if not mark.exists():
        _clear(settings)
        begun.touch()
        say("Making the demo. This happens once, and takes some seconds.")
        home = Home(settings)
        home.database.migrate()
        home.close()
        workshop = Workshop(settings)
        try:
            episode, jobs = add_demo(workshop.home)
            for job in jobs[: sum(bool(each.voice) for each in INTERVIEW)]:
                carry_out(workshop, job)
            if all_jobs:
                work(workshop)
        finally:
            workshop.close()
        mark.write_text(episode)
        begun.unlink()
    return f"/episodes/{mark.read_text()}"


def _clear(settings: Settings) -> None:
    """Take away what an earlier start left half made, and nothing that is anybody's own.

    Raises
    ------
    Problem
        ``no-demo`` when the folder holds other data, ``no-data-folder`` when it cannot be written.
    """
    try:
        if settings.database.exists() and not (settings.data / BEGUN).exists():
            raise Problem(
                "no-demo",
                f"{settings.data} holds data of your own, so the demo is not made there. Start it with ./run serve, or choose "
                "an empty folder for the demo.",
            )
        if settings.database.exists():
            shutil.rmtree(settings.vault, ignore_errors=True)
            for file in settings.data.glob(f"{settings.database.name}*"):
                file.unlink()
        settings.data.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Problem("no-data-folder", f"{settings.data} cannot be used for data: {error.strerror or error}.") from error


@dataclass(frozen=True)
class Taken:
    """A file of the demo, what it is called there, and whose voice it is in the session."""

    file: str
    name: str
    voice: str = ""


INTERVIEW = (
    Taken("interview-orla.ogg", "Orla’s microphone.ogg", "orla"),
    Taken("interview-teo.ogg", "Teo’s microphone.ogg", "teo"),
    Taken("interview-camera-orla.mp4", "Camera on Orla.mp4"),
    Taken("interview-camera-teo.mp4", "Camera on Teo.mp4"),
)
MIXED = Taken("interview.mp4", "Interview, mixed.mp4")
TO_CAMERA = Taken("mending-a-sail.mp4", "Mending a torn sail.mp4")


def add_demo(home: Home, known: Mapping[str, Shipped] | None = None) -> tuple[str, list[str]]:
    """Add the demo's show and its episodes to what is there; gives the episode to open, and the jobs that are to be done.

    ``known`` is what comes with its recordings, as :func:`jaskel.demo.shipped.shipped` gives it.
    """
    known = shipped() if known is None else known
    with home.database.write() as session:
        show = library.new_show(session, world.SHOW, world.SHOW_ABOUT)
        session.add_all(SpellingRow(show_id=show.id, term=term, heard=list(heard)) for term, heard in world.SPELLINGS.items())
        interview = library.new_episode(session, show, world.INTERVIEW_TITLE).id
        mixed = library.new_episode(session, show, world.MIXED_TITLE).id
        to_camera = library.new_episode(session, show, world.TO_CAMERA_TITLE).id
    taken = [_take_in(home, interview, each, known) for each in INTERVIEW]
    with home.database.write() as session:
        row = new_session(session, session.get_one(Episode, interview), [session.get_one(Recording, name) for name, _ in taken])
        if known:
            _lay_out(home, session, row, known)
    taken += [_take_in(home, mixed, MIXED, known), _take_in(home, to_camera, TO_CAMERA, known)]
    return interview, [job for _, job in taken]


def _lay_out(home: Home, session: Session, row: SessionRow, known: Mapping[str, Shipped]) -> None:
    """Put the interview on the page as its jobs once found it to lie, with its voices named."""
    show_id = session.get_one(Episode, row.episode_id).show_id
    for track, taken in zip(row.tracks, INTERVIEW, strict=True):
        place = known[taken.file]
        track.offset, track.drift, track.sure = place.offset, place.drift, place.sure
        if taken.voice:
            track.voice_id = new_voice(session, show_id, world.VOICES[taken.voice]).id
    put_on_page(home, session, row)


def work(workshop: Workshop, kind: str | None = None) -> None:
    """Do what is waiting, or only jobs of one kind."""
    wanted = [Job.state == "queued", *([Job.kind == kind] if kind else [])]
    while job_id := _first(workshop.home, wanted):
        carry_out(workshop, job_id)


def _take_in(home: Home, episode_id: str, taken: Taken, known: Mapping[str, Shipped]) -> tuple[str, str]:
    """What an upload does; gives the recording and the job that reads the file. What is known of it comes along."""
    file = MEDIA / taken.file
    info = probe(file, taken.name)
    received = home.vault.adopt(file)
    with home.database.write() as session:
        recording = Recording(
            episode_id=episode_id, name=taken.name, digest=received.digest, size=received.size, info=info.to_json()
        )
        session.add(recording)
        session.flush()
        if heard := known.get(taken.file):
            recording.length = heard.length
            if heard.words:
                recording.language, recording.transcript_state = "en", "done"
                home.transcripts.extend(session, recording, 0, heard.length, heard.words)
        job = add_job(session, "prepare", episode_id, recording.id, transcribe=False)
    home.vault.claim(received.digest)
    if known and faces_of(taken.file).exists():
        with home.vault.making(home.vault.faces(received.digest)) as new:
            shutil.copyfile(faces_of(taken.file), new)
    return recording.id, job.id


def _first(home: Home, wanted: Sequence[ColumnElement[bool]]) -> str | None:
    with home.database.read() as session:
        return session.scalar(select(Job.id).where(*wanted).order_by(Job.created).limit(1))
