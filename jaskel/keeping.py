"""``jaskel backup``, ``restore``, ``check``, ``move`` and ``put-aside``: keeping what is stored."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from jaskel.settings import Settings


def add_backup_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("to", type=Path, help="folder for the copy; what is in it from the last time is not copied again")
    _add_data(parser)


def add_restore_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("source", type=Path, help="folder that jaskel backup wrote")
    _add_data(parser)


def add_check_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--mend", action="store_true", help="make good what can be made good")
    _add_data(parser)


def add_move_arguments(parser: argparse.ArgumentParser) -> None:
    where = parser.add_mutually_exclusive_group(required=True)
    where.add_argument("--into", metavar="postgresql://…", help="an empty database that takes everything in the data folder's")
    where.add_argument("--out-of", metavar="postgresql://…", help="the database that all goes back from into the data folder")
    _add_data(parser)


def add_aside_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("episode", nargs="+", help="title or id of an episode")
    parser.add_argument(
        "--to", type=Path, required=True, help="folder for its originals; JASKEL_ORIGINALS names it from now on"
    )
    _add_data(parser)


def _add_data(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--data", type=Path, help="folder of the database and media (default: JASKEL_DATA or ./data)")


def _settings(options: argparse.Namespace) -> Settings:
    return Settings.from_environment(options.data and options.data.resolve())


def run_backup(options: argparse.Namespace) -> int:
    """Copy everything, whether or not a server runs on it."""
    from jaskel.store.backup import back_up

    done = back_up(_settings(options), options.to, lambda name: print(name, file=sys.stderr))
    print(f"{done.copied} files copied ({done.size / 1e6:.1f} MB), {done.kept} were there already")
    return 0


def run_restore(options: argparse.Namespace) -> int:
    """Put a backup in its place, and look whether it is whole."""
    from jaskel.store.backup import restore

    done = restore(options.source, _settings(options))
    print(f"{done.copied} files restored ({done.size / 1e6:.1f} MB)")
    return run_check(argparse.Namespace(data=options.data, mend=False))


def run_check(options: argparse.Namespace) -> int:
    """Look through everything; the exit code is 1 where something is wrong and stays so."""
    from jaskel.core.problem import Problem
    from jaskel.store.check import check
    from jaskel.store.home import Home

    settings = _settings(options)
    if not settings.has_data:
        raise Problem("no-data", f"There are no data of Jaskel in {settings.data}. Name their folder with --data.")
    home = Home(settings)
    wrong = 0
    try:
        home.database.migrate()
        for fault in check(home, mend=options.mend):
            print(f"{fault.told}{': mended' if fault.mended else ''}")
            wrong += not fault.mended
    finally:
        home.close()
    print("Everything is whole." if not wrong else f"{wrong} {'thing is' if wrong == 1 else 'things are'} wrong.")
    return 1 if wrong else 0


def run_move(options: argparse.Namespace) -> int:
    """Copy all rows from the file to a PostgreSQL or back; what they were copied from stays as it is."""
    from contextlib import closing

    from jaskel.core.problem import Problem
    from jaskel.settings import database_address
    from jaskel.store.database import Database
    from jaskel.store.move import copy_rows
    from jaskel.web.serve import in_use

    settings = _settings(options)
    file, address = settings.database, database_address(options.into or options.out_of)
    if options.into and not file.exists():
        raise Problem("no-data", f"There are no data of Jaskel in {settings.data}. Name their folder with --data.")
    with in_use(settings), closing(Database(file)) as ours, closing(Database(address)) as shared:
        source, target = (ours, shared) if options.into else (shared, ours)
        source.migrate()
        rows = copy_rows(source, target, lambda table, count: print(f"{table}: {count}", file=sys.stderr))
    print(f"{rows} rows copied, and each is the same")
    if options.into:
        print(f"Set JASKEL_DATABASE to that address from now on. {file} stays as it is.")
    return 0


def run_aside(options: argparse.Namespace) -> int:
    """Move the originals of episodes to another disk; whether or not a server runs, as long as it knows that folder."""
    from sqlalchemy import or_, select

    from jaskel.core.problem import Problem
    from jaskel.store.home import Home
    from jaskel.store.models import Episode

    settings, folder = _settings(options), options.to.expanduser().resolve()
    if not settings.has_data:
        raise Problem("no-data", f"There are no data of Jaskel in {settings.data}. Name their folder with --data.")
    if folder not in settings.originals:
        raise Problem(
            "unknown-folder", f"Set JASKEL_ORIGINALS={folder} first, for the server, too: else nobody would find them."
        )
    home = Home(settings)
    try:
        home.database.migrate()
        with home.database.read() as session:
            digests: dict[str, str] = {}
            for wanted in options.episode:
                found = session.scalars(select(Episode).where(or_(Episode.id == wanted, Episode.title == wanted))).all()
                if not found:
                    raise Problem("no-episode", f"There is no episode called “{wanted}”.")
                digests |= {each.digest: each.name for episode in found for each in episode.recordings}
        for digest, name in digests.items():
            if home.vault.put_aside(digest, folder):
                print(f"{name}: {folder / digest[:2] / digest}")
    finally:
        home.close()
    return 0
