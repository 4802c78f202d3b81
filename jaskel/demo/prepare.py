"""The demo's data folder: its show and episodes, taken in and transcribed by the same jobs as everybody's."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Event, Thread

from sqlalchemy import select

from jaskel.core.problem import Problem
from jaskel.core.timebase import clock
from jaskel.demo import world
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.queue import add_job
from jaskel.jobs.workshop import Workshop
from jaskel.media.probe import probe
from jaskel.settings import Settings
from jaskel.store import library
from jaskel.store.home import Home
from jaskel.store.models import Job, Recording

MEDIA = Path(__file__).with_name("media")
COMPLETE, BEGUN = "complete", "demo-begun"
"""Marks of a data folder whose demo is made, and of one that was left while it was being made."""

SHARES = 5
"""In so many steps one is told how far the recogniser is."""


def prepare(settings: Settings, say: Callable[[str], None] = lambda _: None) -> str:
    """Make the demo's data when it is not there yet; gives the path of the page to open."""
    mark, begun = settings.data / COMPLETE, settings.data / BEGUN
    if not mark.exists():
        _clear(settings)
        begun.touch()
        say("Making the demo: the interview is being transcribed. This happens once and takes about a minute.")
        home = Home(settings)
        home.database.migrate()
        home.close()
        workshop = Workshop(settings)
        try:
            episode = _fill(workshop, say)
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
        interview = library.new_episode(session, show, world.INTERVIEW_TITLE).id
        to_camera = library.new_episode(session, show, world.TO_CAMERA_TITLE).id
    jobs = [
        _take_in(home, interview, MEDIA / "interview.mp4", "Interview, mixed.mp4", transcribe=True),
        _take_in(home, to_camera, MEDIA / "mending-a-sail.mp4", "Mending a torn sail.mp4", transcribe=False),
    ]
    return interview, jobs


def _fill(workshop: Workshop, say: Callable[[str], None]) -> str:
    episode, _ = add_demo(workshop.home)
    with _telling(workshop.home, say):
        while job_id := _waiting(workshop.home):
            carry_out(workshop, job_id)
    return episode


@contextmanager
def _telling(home: Home, say: Callable[[str], None]) -> Iterator[None]:
    """Say now and then how far the transcript is."""
    over = Event()

    def watch() -> None:
        told = 0
        while not over.wait(0.5):
            with home.database.read() as session:
                job = session.scalar(select(Job).where(Job.kind == "transcribe"))
            share = job.done * SHARES // job.total if job and job.total else 0
            if job and told < share < SHARES:
                told = share
                say(f"  {clock(job.done)} of {clock(job.total)}")

    thread = Thread(target=watch)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()


def _take_in(home: Home, episode_id: str, file: Path, name: str, *, transcribe: bool) -> str:
    """What an upload does; gives the job that reads the file."""
    info = probe(file, name)
    received = home.vault.adopt(file)
    with home.database.write() as session:
        recording = Recording(episode_id=episode_id, name=name, digest=received.digest, size=received.size, info=info.to_json())
        session.add(recording)
        session.flush()
        job = add_job(session, "prepare", episode_id, recording.id, transcribe=transcribe)
    home.vault.claim(received.digest)
    return job.id


def _waiting(home: Home) -> str | None:
    with home.database.read() as session:
        return session.scalar(select(Job.id).where(Job.state == "queued").order_by(Job.created).limit(1))
