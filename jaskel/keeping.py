"""``jaskel backup``, ``restore`` and ``check``: keeping what is stored."""

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
    if not settings.database.exists():
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
