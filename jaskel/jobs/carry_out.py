"""What is done for each kind of job, and how it ended."""

from __future__ import annotations

import logging
from collections.abc import Callable
from pathlib import Path

from jaskel.core.problem import Problem
from jaskel.jobs import (
    address,
    bring_episode,
    export,
    faces,
    fit,
    fit_text,
    lease,
    loudness,
    mail,
    meanings,
    meant,
    pickup,
    prepare,
    process,
    publish,
    remote,
    settle,
    sides,
    spell,
    substitute,
    sync,
    tell,
    tidy,
    told,
    transcribe,
    voices,
    weights,
)
from jaskel.jobs.parts import whole_of
from jaskel.jobs.progress import HOLDING, Cancelled, Interrupted, Progress
from jaskel.jobs.queue import PART
from jaskel.jobs.workshop import Workshop
from jaskel.speech.weights import multilingual_weights
from jaskel.store.database import problem_of
from jaskel.store.material import sessions_in
from jaskel.store.models import EditionRow, Job, Recording

log = logging.getLogger("jaskel.jobs")

MOST_MEMORY = 800_000_000
"""Bytes of resident memory that a process of a job may have."""

FULL_HD, PER_PIXEL = 1920 * 1080, 110
"""Pictures of more pixels than this may have so many bytes on top for each: decoder and encoder hold some twenty pictures of
1.5 bytes a pixel each, and ours a few of 3 while they are put together."""


def too_much(most: int) -> str:
    """What is told where a job took more than ``most`` bytes of memory."""
    return (
        f"This needed more than {most // 1_000_000} MB of memory and was stopped. The file is damaged, or far larger inside "
        "than it looks: save it anew where it was made, and add that."
    )


Handler = Callable[[Workshop, Job, Progress], None]


def handlers() -> dict[str, Handler]:
    """What is done for each kind of job."""
    return {
        "prepare": prepare.prepare,
        "picture": prepare.picture,
        "keys": prepare.key_pictures,
        "faces": faces.find_faces,
        "bring": fit_text.fit_brought_text,
        "fetch": remote.fetch,
        **dict.fromkeys(fit.KINDS, fit.fit_loose),
        "spell": spell.spell,
        "prints": voices.listen_to_voices,
        "voices": voices.tell_apart,
        "substitute": substitute.substitute,
        "listen": tidy.listen,
        "tidy": tidy.tidy_at_once,
        "settle": settle.settle,
        "process": process.process_tracks,
        "loudness": loudness.bring_to_loudness,
        "meanings": meanings.find_meanings,
        meant.KIND: meant.index,
        "even": loudness.even_voices,
        "pickup": pickup.make_line,
        "publish": publish.publish,
        "withdraw": publish.withdraw,
        bring_episode.KIND: bring_episode.bring_episode,
        address.KIND: address.fetch_address,
        tell.KIND: tell.tell,
        mail.KIND: mail.carry_out_mail,
        told.KIND: told.make_film,
        "sides": sides.part_sides,
        "weights": weights.check_weights,
        "sync": sync.sync_session,
        "transcribe": transcribe.transcribe_recording,
        "export": export.export_edition,
        PART: _make_part,
    }


def _make_part(workshop: Workshop, job: Job, progress: Progress) -> None:
    """A part of other work, for the worker that puts it together."""
    whole = whole_of(workshop.home, job)
    if whole is None:
        raise Cancelled
    _MAKERS[job.details["kind"]](workshop, whole, job, progress)


_MAKERS: dict[str, Callable[[Workshop, Job, Job, Progress], None]] = {
    "export": export.make_part,
    "process": process.make_part,
    "transcribe": transcribe.make_part,
}
"""Who makes the parts of each kind of work."""


def memory_for(workshop: Workshop, job: Job) -> int:
    """Bytes that the process of a job may have; for weights and for large pictures more on top: they are no file's fault."""
    kind, subject = (job.details["kind"], job.details["subject"]) if job.kind == PART else (job.kind, job.subject)
    folder: Path | None = None
    if kind == "weights":
        folder = workshop.settings.weights(subject)
    elif kind == "transcribe":
        folder = transcribe.own_weights(workshop, subject) or workshop.settings.model or multilingual_weights()
    files = folder.iterdir() if folder and folder.is_dir() else ()
    larger = max(0, _pixels(workshop, kind, subject) - FULL_HD)
    return MOST_MEMORY + PER_PIXEL * larger + 2 * sum(file.stat().st_size for file in files)


def _pixels(workshop: Workshop, kind: str, subject: str) -> int:
    """The pixels of the largest film that a job decodes."""
    with workshop.home.database.read() as session:
        if kind in ("picture", "keys"):
            films = [session.get(Recording, subject)]
        elif kind == "export" and (row := session.get(EditionRow, subject)):
            tracks = sessions_in(session, workshop.home.editions.open(session, row.id).edition).values()
            borrowed = (session.get(Recording, each.recording) for known in tracks for each in known.tracks)
            films = [*row.episode.recordings, *borrowed]
        else:
            films = []
        shown = (film.info["picture"] for film in films if film and film.kind != "still")
        return max((picture["width"] * picture["height"] for picture in shown if picture), default=0)


def carry_out(workshop: Workshop, job_id: str) -> None:
    """Do a job in this process if it is still waiting, and store how it ended."""
    job = lease.claim(workshop.home, job_id)
    if job is not None:
        lease.release(workshop.home, job, *work(workshop, job))


def work(workshop: Workshop, job: Job) -> tuple[str, str]:
    """Do what a job asks for; gives the state it ended in, and what is to be told where it failed or is held up."""
    try:
        handlers()[job.kind](workshop, job, Progress(workshop.home, job.id))
    except Cancelled:
        return "cancelled", ""
    except Interrupted:
        return "queued", ""
    except Problem as problem:
        return _ended_by(problem)
    except MemoryError:
        return "failed", too_much(memory_for(workshop, job))
    except Exception as error:
        if known := problem_of(error) or workshop.home.vault.missing():
            return _ended_by(known)
        log.exception("job %s (%s) failed", job.id, job.kind)
        return "failed", "Something went wrong inside Jaskel; the worker's log has the details. Nothing is lost: try again."
    return "done", ""


def _ended_by(problem: Problem) -> tuple[str, str]:
    return "held" if problem.code in HOLDING else "failed", problem.sentence
