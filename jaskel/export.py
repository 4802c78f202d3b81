"""``jaskel export``: an edition of an episode, for a destination, from the command line."""

from __future__ import annotations

import argparse
import shutil
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

from jaskel.core.problem import Problem
from jaskel.settings import Settings

Named = TypeVar("Named")


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("episode", help="title or id of the episode")
    parser.add_argument("edition", help="name or id of the edition, such as Programme")
    parser.add_argument("--to", required=True, metavar="DESTINATION", help="name of a destination, such as “Podcast feed”")
    parser.add_argument("--into", type=Path, default=Path(), help="folder for the files (default: this one)")
    parser.add_argument("--data", type=Path, help="folder of the database and media (default: JASKEL_DATA or ./data)")


def run(options: argparse.Namespace) -> int:
    """Carry out the command, whether or not a server runs on the same data.

    Raises
    ------
    Problem
        When the episode, edition or destination is not known, or the export fails.
    """
    from sqlalchemy import select

    from jaskel.core.destination import BUILT_IN
    from jaskel.jobs.carry_out import carry_out
    from jaskel.jobs.prepare import wake
    from jaskel.jobs.queue import add_job
    from jaskel.jobs.workshop import Workshop
    from jaskel.store.destinations import destinations_of
    from jaskel.store.models import Episode, Export, Job

    settings = Settings.from_environment(options.data and options.data.resolve())
    if not settings.has_data:
        raise Problem("no-data", f"There are no data of Jaskel in {settings.data}. Name their folder with --data.")
    if not options.into.is_dir():
        raise Problem("no-folder", f"There is no folder {options.into}. Make it first.")
    workshop = Workshop(settings)
    workshop.home.database.migrate()
    try:
        with workshop.home.database.write() as session:
            known = session.scalars(select(Episode).where(Episode.deleted.is_(None)))
            episode = _one([*known], options.episode, "episode", lambda each: (each.id, each.title))
            edition = _one(episode.editions, options.edition, "edition", lambda each: (each.id, each.name))
            all_of_them = [*destinations_of(episode.show), *BUILT_IN]
            destination = _one(all_of_them, options.to, "destination", lambda each: (each.key, each.name))
            details = {"destination": destination.key, "called": destination.name}
            first = wake(session, episode)
            job = add_job(session, "export", episode.id, edition.id, 0, **details)
        for each in (*first, job.id):
            carry_out(workshop, each)
        with workshop.home.database.read() as session:
            done = session.get_one(Job, job.id)
            if done.state != "done":
                raise Problem("failed", done.trouble or "The export was cancelled.")
            made = [*session.scalars(select(Export).where(Export.job_id == job.id).order_by(Export.id))]
        for export in made:
            _copy(workshop.home.vault.export(export.id), options.into / export.file_name)
    finally:
        workshop.close()
    return 0


def _copy(source: Path, target: Path) -> None:
    """Beside what is there first, so that nothing half written stands under the name."""
    partial = target.with_name(f".{target.name}.partial")
    shutil.copyfile(source, partial)
    partial.replace(target)
    print(target, file=sys.stdout)


def _one(known: Sequence[Named], wanted: str, kind: str, read: Callable[[Named], tuple[str, str]]) -> Named:
    """The one that is called so, or has that id; ``read`` gives the id and name of each.

    Raises
    ------
    Problem
        ``not-known``, ``several``.
    """
    found = [each for each in known if wanted in read(each)] or [
        each for each in known if wanted.casefold() == read(each)[1].casefold()
    ]
    if len(found) == 1:
        return found[0]
    there = ", ".join(f"“{name}”" for name in sorted({read(each)[1] for each in known}))
    if found:
        ids = ", ".join(read(each)[0] for each in found)
        raise Problem("several", f"Several {kind}s are called “{wanted}”. Name one by its id: {ids}.")
    raise Problem("not-known", f"There is no {kind} called “{wanted}”. What there is: {there or 'nothing'}.")
