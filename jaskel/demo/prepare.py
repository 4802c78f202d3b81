"""The demo's data folder: its show and episodes, taken in by the same jobs as everybody's, with their words."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Sequence
from pathlib import Path

from sqlalchemy import ColumnElement, select

from jaskel.core.problem import Problem
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Word
from jaskel.demo import world
from jaskel.demo.words import shipped
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.queue import add_job
from jaskel.jobs.workshop import Workshop
from jaskel.media.probe import probe
from jaskel.settings import Settings
from jaskel.store import library
from jaskel.store.home import Home
from jaskel.store.models import Job, Recording, SpellingRow

MEDIA = Path(__file__).with_name("media")
COMPLETE, BEGUN = "complete", "demo-begun"
"""Marks of a data folder whose demo is made, and of one that was left while it was being made."""


def prepare(settings: Settings, say: Callable[[str], None] = lambda _: None, *, all_jobs: bool = True) -> str:
    """Make the demo's data when it is not there yet; gives the path of the page to open.

    Without ``all_jobs`` only what the page needs to open is done; light copies of pictures are left to the worker.
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
            episode, _ = add_demo(workshop.home)
            _work(workshop, None if all_jobs else "prepare")
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


def add_demo(home: Home) -> tuple[str, list[str]]:
    """Add the demo's show and its episodes to what is there; gives the episode to open, and the jobs that are to be done."""
    with home.database.write() as session:
        show = library.new_show(session, world.SHOW, world.SHOW_ABOUT)
        session.add_all(SpellingRow(show_id=show.id, term=term, heard=list(heard)) for term, heard in world.SPELLINGS.items())
        interview = library.new_episode(session, show, world.INTERVIEW_TITLE).id
        to_camera = library.new_episode(session, show, world.TO_CAMERA_TITLE).id
    jobs = [
        _take_in(home, interview, MEDIA / "interview.mp4", "Interview, mixed.mp4", shipped()),
        _take_in(home, to_camera, MEDIA / "mending-a-sail.mp4", "Mending a torn sail.mp4"),
    ]
    return interview, jobs


def _work(workshop: Workshop, kind: str | None) -> None:
    """Do what is waiting, or only jobs of one kind."""
    wanted = [Job.state == "queued", *([Job.kind == kind] if kind else [])]
    while job_id := _first(workshop.home, wanted):
        carry_out(workshop, job_id)


def _take_in(home: Home, episode_id: str, file: Path, name: str, heard: tuple[Ticks, Sequence[Word]] | None = None) -> str:
    """What an upload does; gives the job that reads the file. What was ``heard`` in it comes along."""
    info = probe(file, name)
    received = home.vault.adopt(file)
    with home.database.write() as session:
        recording = Recording(episode_id=episode_id, name=name, digest=received.digest, size=received.size, info=info.to_json())
        session.add(recording)
        session.flush()
        if heard:
            recording.length, recording.language, recording.transcript_state = heard[0], "en", "done"
            home.transcripts.extend(session, recording, 0, *heard)
        job = add_job(session, "prepare", episode_id, recording.id, transcribe=False)
    home.vault.claim(received.digest)
    return job.id


def _first(home: Home, wanted: Sequence[ColumnElement[bool]]) -> str | None:
    with home.database.read() as session:
        return session.scalar(select(Job.id).where(*wanted).order_by(Job.created).limit(1))
