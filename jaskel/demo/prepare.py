"""The demo's data folder: its show and episodes, taken in and transcribed by the same jobs as everybody's."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

from sqlalchemy import select

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
COMPLETE = "complete"


def prepare(settings: Settings, say: Callable[[str], None] = lambda _: None) -> str:
    """Make the demo's data when it is not there yet; gives the path of the page to open."""
    mark = settings.data / COMPLETE
    if not mark.exists():
        say("Making the demo: the interview is being transcribed. This happens once and takes about a minute.")
        shutil.rmtree(settings.data, ignore_errors=True)
        home = Home(settings)
        home.database.migrate()
        home.close()
        workshop = Workshop(settings)
        try:
            episode = _fill(workshop)
        finally:
            workshop.close()
        mark.write_text(episode)
    return f"/episodes/{mark.read_text()}"


def _fill(workshop: Workshop) -> str:
    home = workshop.home
    with home.database.write() as session:
        show = library.new_show(session, world.SHOW, world.SHOW_ABOUT)
        interview = library.new_episode(session, show, world.INTERVIEW_TITLE).id
        to_camera = library.new_episode(session, show, world.TO_CAMERA_TITLE).id
    _take_in(workshop, interview, MEDIA / "interview.mp4", "Interview, mixed.mp4", transcribe=True)
    _take_in(workshop, to_camera, MEDIA / "mending-a-sail.mp4", "Mending a torn sail.mp4", transcribe=False)
    return interview


def _take_in(workshop: Workshop, episode_id: str, file: Path, name: str, *, transcribe: bool) -> None:
    """What an upload does, with its jobs done here and now."""
    home = workshop.home
    info = probe(file, name)
    received = home.vault.adopt(file)
    with home.database.write() as session:
        recording = Recording(episode_id=episode_id, name=name, digest=received.digest, size=received.size, info=info.to_json())
        session.add(recording)
        session.flush()
        add_job(session, "prepare", episode_id, recording.id, transcribe=transcribe)
    home.vault.settle(received.digest)
    while job_id := _waiting(home):
        carry_out(workshop, job_id)


def _waiting(home: Home) -> str | None:
    with home.database.read() as session:
        return session.scalar(select(Job.id).where(Job.state == "queued").order_by(Job.created).limit(1))
