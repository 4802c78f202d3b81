"""A copy of everything that is stored, taken while it is in use; the next one copies only what is new.

The database is copied by SQLite itself, as it is at one moment; a PostgreSQL row by row, into the same form. Files are copied
after that: an original is in its place before any row names it, and files of the vault are never written to again, so the
copy has all that its database names.
"""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

from jaskel.core.problem import Problem
from jaskel.settings import Settings
from jaskel.store.database import Database
from jaskel.store.move import copy_rows

DATABASE = "jaskel.db"
PASSING = ("incoming", "uploads")
"""Folders of the vault with what is only on its way."""

FOLDERS = ("vault", "fonts", "logos", "weights")
SINGLE = ("secret", "watched.json", "complete")


@dataclass(frozen=True)
class Backup:
    """What a backup did: files that were copied and that were there already, and bytes copied."""

    copied: int
    kept: int
    size: int


def back_up(settings: Settings, to: Path, say: Callable[[str], None] = lambda _: None) -> Backup:
    """Copy everything into the folder ``to``, or what is new there since the last time.

    Raises
    ------
    Problem
        ``no-data``, ``inside-itself``, or ``no-folder``.
    """
    if not settings.has_data:
        raise Problem("no-data", f"There are no data of Jaskel in {settings.data}. Name their folder with --data.")
    to = to.resolve()
    if to == settings.data or settings.data in to.parents or to in settings.data.parents:
        raise Problem("inside-itself", "A backup cannot lie within the data it is of, nor around them. Name another folder.")
    try:
        to.mkdir(parents=True, exist_ok=True)
        _copy_database(settings, to / DATABASE)
        copied, kept, size = 0, 0, 0
        for path, name in _files(settings.data, settings.originals):
            place = to / name
            try:
                told = path.stat()
                if place.exists() and place.stat().st_size == told.st_size and place.stat().st_mtime_ns == told.st_mtime_ns:
                    kept += 1
                    continue
                copy(path, place)
            except FileNotFoundError:
                continue  # deleted meanwhile: the database of a moment ago may name it, and check tells so
            copied, size = copied + 1, size + told.st_size
            say(str(name))
    except OSError as error:
        raise Problem(
            "no-folder", f"{to} cannot be written: {error.strerror or error}. Nothing in it is worse than before."
        ) from error
    return Backup(copied, kept, size)


def restore(source: Path, settings: Settings) -> Backup:
    """Put a backup in the place of data, where there are none.

    Raises
    ------
    Problem
        ``no-backup``, ``data-there``, ``damaged-backup`` or ``no-folder``.
    """
    source = source.resolve()
    if not (source / DATABASE).is_file():
        raise Problem("no-backup", f"There is no backup in {source}. Name the folder that jaskel backup wrote.")
    if not settings.shared_database and settings.database.exists():
        raise Problem("data-there", f"There are data in {settings.data} already. Name an empty folder with --data.")
    with closing(sqlite3.connect(source / DATABASE)) as known:
        if known.execute("PRAGMA quick_check").fetchone() != ("ok",):
            raise Problem("damaged-backup", "The database of this backup is damaged. Take another one.")
    copied, size = 0, 0
    try:
        for path, name in _files(source):
            copy(path, settings.data / name)
            copied, size = copied + 1, size + path.stat().st_size
        if settings.shared_database:
            _into(settings.shared_database, source / DATABASE)
        else:
            copy(source / DATABASE, settings.database)  # last: without it there are no data
    except OSError as error:
        raise Problem("no-folder", f"{settings.data} cannot be written: {error.strerror or error}.") from error
    return Backup(copied, 0, size)


def _copy_database(settings: Settings, target: Path) -> None:
    new = target.with_suffix(".new")
    new.unlink(missing_ok=True)
    if settings.shared_database:
        with closing(Database(settings.shared_database)) as shared, closing(Database(new)) as copied:
            copy_rows(shared, copied)
    else:
        with closing(sqlite3.connect(settings.database, timeout=60)) as old, closing(sqlite3.connect(new)) as copy_of:
            old.backup(copy_of)
    with closing(sqlite3.connect(new)) as copy_of:
        copy_of.execute("PRAGMA journal_mode=DELETE")
    _flush(new)
    new.replace(target)


def _into(address: str, backup: Path) -> None:
    """Put the database of a backup, of whatever version, into a PostgreSQL."""
    with TemporaryDirectory() as folder:
        known = Path(shutil.copy(backup, folder))
        with closing(Database(known)) as old, closing(Database(address)) as shared:
            old.migrate()
            copy_rows(old, shared)


def _files(root: Path, originals: Sequence[Path] = ()) -> Iterator[tuple[Path, Path]]:
    """Everything that is kept beside the database, with where it belongs in a data folder; ``originals`` lie elsewhere."""
    for name in FOLDERS:
        for path in sorted((root / name).rglob("*")):
            inside = path.relative_to(root).parts
            passing = inside[0] == "vault" and len(inside) > 1 and inside[1] in PASSING
            if path.is_file() and not passing and not path.name.startswith("."):
                yield path, path.relative_to(root)
    yield from ((root / name, Path(name)) for name in SINGLE if (root / name).is_file())
    for folder in originals:
        for path in sorted(folder.glob("??/*")):
            if not path.name.startswith("."):
                yield path, Path("vault", "originals", path.parent.name, path.name)


def copy(path: Path, place: Path) -> None:
    """Copy a file so that it is there as a whole or not at all."""
    place.parent.mkdir(parents=True, exist_ok=True)
    new = place.with_name(f".{place.name}.copying")
    try:
        shutil.copy2(path, new)
        _flush(new)
        new.replace(place)
    finally:
        new.unlink(missing_ok=True)


def _flush(path: Path) -> None:
    with path.open("rb") as file:
        os.fsync(file.fileno())
