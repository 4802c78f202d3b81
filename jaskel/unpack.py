"""``jaskel unpack``: an episode that was written as one archive, brought in from the command line."""

from __future__ import annotations

import argparse
from pathlib import Path

from jaskel.core.problem import Problem
from jaskel.settings import Settings


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("archive", type=Path, help="the zip that “Whole episode” wrote")
    parser.add_argument("--data", type=Path, help="folder of the database and media (default: JASKEL_DATA or ./data)")


def run(options: argparse.Namespace) -> int:
    """Bring it in, and read its recordings; whether or not a server runs on the same data.

    Raises
    ------
    Problem
        Why it cannot be brought in.
    """
    from jaskel.jobs.archive import unpack
    from jaskel.jobs.carry_out import carry_out
    from jaskel.jobs.workshop import Workshop
    from jaskel.store.models import Episode

    if not options.archive.is_file():
        raise Problem("no-file", f"There is no file {options.archive}.")
    workshop = Workshop(Settings.from_environment(options.data and options.data.resolve()))
    try:
        workshop.home.database.migrate()
        episode, jobs = unpack(workshop.home, options.archive)
        for job in jobs:
            carry_out(workshop, job)
        with workshop.home.database.read() as session:
            known = session.get_one(Episode, episode)
            print(f"“{known.title}” of “{known.show.name}”, {known.id}")
    finally:
        workshop.close()
    return 0
