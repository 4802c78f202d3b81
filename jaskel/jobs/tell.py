"""Telling people what is done: by mail, and by a call to an address of theirs (a webhook)."""

from __future__ import annotations

import hashlib
import hmac
import json
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.jobs.mail import send_mail
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import add_job
from jaskel.jobs.reach import reached
from jaskel.jobs.workshop import Workshop
from jaskel.store.models import Episode, Export, Job, Show

KIND = "tell"

EVENTS = {
    "export": ("An export", "exported"),
    "transcribe": ("A transcript", "transcribed"),
    "fetch": ("A recording", "fetched"),
    "fetch address": ("A recording", "fetched"),
    "process": ("The sound", "processed"),
    "publish": ("The episode", "published"),
}
"""Kinds of jobs that are told of: what they are about, and what was done."""

SIGNED = "X-Jaskel-Signature"
"""Header with the HMAC-SHA256 of a call's body, by the secret of the show: who is called can tell that it is meant."""


@dataclass(frozen=True)
class Telling:
    """Whom a show tells: addresses of mail, addresses to call with what secret, and of which kinds of jobs."""

    mail: tuple[str, ...] = ()
    calls: tuple[str, ...] = ()
    kinds: tuple[str, ...] = field(default=("export", "publish"))
    secret: str = ""


def telling_of(show: Show) -> Telling:
    """Whom a show tells, as it is stored."""
    known = show.tell
    lists = {name: tuple(known[name]) for name in ("mail", "calls", "kinds") if name in known}
    return Telling(secret=known.get("secret", ""), **lists)


def start_telling(session: Session, job: Job) -> str | None:
    """Write down the job that tells how another one ended, if its show wants that told; gives its id."""
    episode = session.get(Episode, job.of_episode) if job.kind in EVENTS else None
    if episode is None:
        return None
    wanted = telling_of(episode.show)
    if job.kind not in wanted.kinds or not (wanted.mail or wanted.calls):
        return None
    what, done = EVENTS[job.kind]
    what = str(job.details.get("called") or what)
    well = job.state == "done"
    said = (
        f"{what} of “{episode.title}” is {done}." if well else f"{what} of “{episode.title}” could not be {done}: {job.trouble}"
    )
    files = [each.file_name for each in session.scalars(select(Export).where(Export.job_id == job.id).order_by(Export.id))]
    facts = {
        "event": f"{job.kind.replace(' ', '-')}.{job.state}",
        "show": episode.show.name,
        "episode": episode.title,
        "episode_id": episode.id,
        "said": said,
        "files": files,
    }
    return add_job(session, KIND, episode.id, job.id, facts=facts, show=episode.show_id).id


def tell(workshop: Workshop, job: Job, _progress: Progress) -> None:
    """Tell everybody; whoever cannot be reached does not keep the others from it."""
    with workshop.home.database.read() as session:
        wanted = telling_of(session.get_one(Show, job.details["show"]))
    send_all(workshop, wanted, job.details["facts"])


def send_all(workshop: Workshop, wanted: Telling, facts: dict[str, Any]) -> None:
    """Tell facts to everybody.

    Raises
    ------
    Problem
        The first reason why somebody could not be told, once all others were.
    """
    troubles: list[Problem] = []
    if wanted.mail:
        try:
            _mail(workshop, wanted.mail, facts)
        except Problem as problem:
            troubles.append(problem)
    for address in wanted.calls:
        try:
            _call(workshop, address, wanted.secret, facts)
        except Problem as problem:
            troubles.append(problem)
    if troubles:
        raise troubles[0]


def _mail(workshop: Workshop, people: Sequence[str], facts: dict[str, Any]) -> None:
    lines = [str(facts["said"]), "", *(f"- {name}" for name in facts["files"]), ""]
    send_mail(
        workshop.settings, people, str(facts["said"]), [*lines, f"{workshop.settings.reached}/episodes/{facts['episode_id']}"]
    )


def _call(workshop: Workshop, address: str, secret: str, facts: dict[str, Any]) -> None:
    body = json.dumps(facts, ensure_ascii=False).encode()
    signature = hmac.new(secret.encode(), body, hashlib.sha256).hexdigest()
    headers = {"Content-Type": "application/json", SIGNED: f"sha256={signature}"}
    with reached(address, workshop.settings.reach, method="POST", headers=headers, body=body) as (answer, _):
        answer.read(1000)
