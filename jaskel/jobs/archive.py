"""An episode as one archive: everything that is stored of it in a zip whose layout is open, and back again.

``docs/archive.md`` describes the layout. Rows are written as they are stored, so nothing of an episode can be forgotten: media,
words, editions with their whole history, marks, sessions, voices, and what its show keeps. What can be made again from the
originals is not in it.
"""

from __future__ import annotations

import hashlib
import json
import re
import shutil
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import datetime
from pathlib import Path
from typing import IO, Any, BinaryIO, cast

from sqlalchemy import DateTime, inspect, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.jobs.queue import add_job
from jaskel.media.probe import MediaInfo, room_for
from jaskel.store import spoken
from jaskel.store.editions import Editions
from jaskel.store.home import Home
from jaskel.store.house_captions import captions_of
from jaskel.store.house_style import style_of
from jaskel.store.material import marks_of
from jaskel.store.models import (
    Base,
    EditionRow,
    Episode,
    LogEntry,
    MaterialEntry,
    Recording,
    Refusal,
    SessionRow,
    Show,
    SpellingRow,
    TrackRow,
    TranscriptPart,
    Version,
    Voice,
    VoicePrint,
    new_id,
)

FORMAT, VERSION = "jaskel episode", 1
MANIFEST, ROWS = "manifest.json", "rows.json"
MOST_ROWS = 500_000_000
"""Bytes of rows as JSON; twenty hours of speech have a tenth of that."""

OF_THE_SHOW = ("tidy", "numbers", "sound", "captions", "style", "colours", "destinations")
"""What an archive has of its show. Whom that tells, its feed and its people are the affair of who runs it."""

TABLES: tuple[type[Base], ...] = (
    Show, SpellingRow, Voice, Episode, Recording, TranscriptPart, VoicePrint, SessionRow, TrackRow, MaterialEntry,
    EditionRow, LogEntry, Refusal, Version,
)  # fmt: skip
"""In the order in which they are put in."""

ID = re.compile(r"(?<![0-9a-f])[0-9a-f]{12}(?![0-9a-f])")
DIGEST = re.compile(r"(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])")

IMPOSSIBLE = (KeyError, TypeError, ValueError, AttributeError, AssertionError, IndexError, RecursionError, OverflowError)
UNREADABLE = (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, struct.error, *IMPOSSIBLE)
"""What happens where rows, or the zip around them, are damaged."""

Values = dict[str, Any]


def pack(home: Home, session: Session, episode: Episode, path: Path, progress: Callable[[], None] = lambda: None) -> None:
    """Write the archive of an episode; ``progress`` is called after each file.

    Raises
    ------
    Problem
        ``original-missing``.
    """
    rows = _rows_of(home.editions, session, episode)
    files: dict[str, Path] = {}
    for values in rows[Recording.__tablename__]:
        if not home.vault.intact(values["digest"], values["size"]):
            raise Problem("original-missing", f"The original of “{values['name']}” is not there. Find it under Gather first.")
        files[f"media/{values['digest']}"] = home.vault.original(values["digest"])
    for folder, kept in (("fonts", home.settings.fonts), ("pictures", home.settings.logos)):
        for digest in _digests_in(rows[Show.__tablename__]):
            if (kept / digest).is_file():
                files[f"{folder}/{digest}"] = kept / digest
    names = {values["digest"]: values["name"] for values in rows[Recording.__tablename__]}
    manifest = {
        "format": FORMAT,
        "version": VERSION,
        "show": episode.show.name,
        "episode": episode.title,
        "files": [
            {"path": name, "sha256": name.split("/")[1], "size": file.stat().st_size, "name": names.get(name.split("/")[1], "")}
            for name, file in files.items()
        ],
    }
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        out.writestr(MANIFEST, json.dumps(manifest, indent=1, ensure_ascii=False))
        out.writestr(ROWS, json.dumps(rows, ensure_ascii=False))
        for name, file in files.items():
            out.write(file, name, zipfile.ZIP_STORED)  # media do not get smaller
            progress()


def _rows_of(editions: Editions, session: Session, episode: Episode) -> dict[str, list[Values]]:
    used = {name for row in episode.editions for name in editions.open(session, row.id).edition.recordings}
    sessions = list(session.scalars(select(SessionRow).where((SessionRow.episode_id == episode.id) | SessionRow.id.in_(used))))
    inside = {track.recording_id for row in sessions for track in row.tracks}
    recordings = list(
        session.scalars(select(Recording).where((Recording.episode_id == episode.id) | Recording.id.in_({*used, *inside})))
    )
    ids = [each.id for each in recordings]

    def of(table: Any, where: Any) -> list[Values]:
        return [_values(row) for row in session.scalars(select(table).where(where))]

    own = [each.id for each in episode.editions]
    show = {key: value for key, value in _values(episode.show).items() if key in (*OF_THE_SHOW, "id", "name", "about")}
    # What was pasted from another episode becomes this one's own.
    home = {"episode_id": episode.id}
    return {
        Show.__tablename__: [show],
        SpellingRow.__tablename__: of(SpellingRow, SpellingRow.show_id == episode.show_id),
        Voice.__tablename__: of(Voice, Voice.show_id == episode.show_id),
        Episode.__tablename__: [_values(episode)],
        Recording.__tablename__: [_values(each) | home for each in recordings],
        TranscriptPart.__tablename__: of(TranscriptPart, TranscriptPart.recording_id.in_(ids)),
        VoicePrint.__tablename__: of(VoicePrint, VoicePrint.recording_id.in_(ids)),
        SessionRow.__tablename__: [_values(each) | home for each in sessions],
        TrackRow.__tablename__: of(TrackRow, TrackRow.session_id.in_([each.id for each in sessions])),
        MaterialEntry.__tablename__: of(MaterialEntry, MaterialEntry.episode_id == episode.id),
        EditionRow.__tablename__: [_values(each) for each in episode.editions],
        LogEntry.__tablename__: of(LogEntry, LogEntry.edition_id.in_(own)),
        Refusal.__tablename__: of(Refusal, Refusal.edition_id.in_(own)),
        Version.__tablename__: of(Version, Version.edition_id.in_(own)),
    }


def _values(row: Base) -> Values:
    mapper = inspect(type(row)).mapper
    told = {column.key: getattr(row, column.key) for column in mapper.column_attrs}
    return {key: value.isoformat() if isinstance(value, datetime) else value for key, value in told.items()}


def _digests_in(rows: Sequence[Values]) -> list[str]:
    return list(dict.fromkeys(DIGEST.findall(json.dumps(rows))))


def unpack(
    home: Home,
    path: Path,
    may_change: Callable[[str], bool] = lambda _: True,
    progress: Callable[[int], None] = lambda _: None,
    settle: Callable[[Session, Episode], None] = lambda _session, _episode: None,
) -> tuple[str, list[str]]:
    """Bring the episode of an archive in; gives its id, and those of the jobs that make what its recordings are heard by.

    It keeps its ids where they are free here, so that it is the same episode; where it is here already, a second one is made.
    It goes into its show where that is here and whoever brings it ``may_change`` that, else into a new one.
    Nothing of it is stored unless all of it can be. ``progress`` is told how many bytes of its files have been read; ``settle``
    is called with the episode before that is stored.

    Raises
    ------
    Problem
        ``no-archive``, ``newer-archive``, ``damaged-archive`` or ``disk-full``.
    """
    try:
        with zipfile.ZipFile(path) as packed:
            files, rows = _checked(packed)
            room_for(home.vault.root, sum(size for _, size in files.values()), "the episode")
            _files_in(home, packed, files, progress)
    except UNREADABLE as error:
        raise _damaged() from error
    try:
        with home.database.write() as session:
            episode, jobs = _rows_in(home, session, rows, may_change)
            settle(session, episode)
            return episode.id, jobs
    except (SQLAlchemyError, *IMPOSSIBLE) as error:
        raise _damaged() from error


def _damaged() -> Problem:
    return Problem(
        "damaged-archive", "This archive is damaged, so nothing of it was brought in. Copy it again, or make a new one."
    )


Files = Mapping[str, tuple[str, int]]
"""Paths in an archive, with digest and size."""


def _checked(packed: zipfile.ZipFile) -> tuple[Files, dict[str, list[Values]]]:
    """The files and rows of an archive, once it is known to be one."""
    inside = {entry.filename: entry for entry in packed.infolist()}
    if MANIFEST not in inside or ROWS not in inside:
        raise Problem("no-archive", "This zip is no archive of an episode. Choose one that was made by Export.")
    if inside[MANIFEST].file_size > MOST_ROWS or inside[ROWS].file_size > MOST_ROWS:
        raise _damaged()
    try:
        manifest, rows = (json.loads(packed.read(name)) for name in (MANIFEST, ROWS))
    except (ValueError, RecursionError) as error:
        raise _damaged() from error
    if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
        raise Problem("no-archive", "This zip is no archive of an episode. Choose one that was made by Export.")
    if manifest.get("version") != VERSION:
        raise Problem("newer-archive", "This archive was made by a newer Jaskel. Bring it in there, or update this one.")
    files: dict[str, tuple[str, int]] = {}
    for each in manifest["files"]:
        name, digest, size = str(each["path"]), str(each["sha256"]), int(each["size"])
        if not DIGEST.fullmatch(digest) or name not in {f"{folder}/{digest}" for folder in ("media", "fonts", "pictures")}:
            raise _damaged()
        if inside[name].file_size != size:
            raise _damaged()
        files[name] = digest, size
    if not isinstance(rows, dict) or {table.__tablename__ for table in TABLES} - rows.keys():
        raise _damaged()
    wanted = {f"media/{each['digest']}" for each in rows[Recording.__tablename__]}
    if not wanted <= files.keys():
        raise _damaged()
    return files, rows


class _Counted:
    """A file of an archive that tells how much of all has been read."""

    def __init__(self, file: IO[bytes], before: int, progress: Callable[[int], None]) -> None:
        self._file, self._come, self._progress = file, before, progress

    def read(self, size: int) -> bytes:
        content = self._file.read(size)
        self._come += len(content)
        self._progress(self._come)
        return content


def _files_in(home: Home, packed: zipfile.ZipFile, files: Files, progress: Callable[[int], None]) -> None:
    come = 0
    for name, (digest, size) in files.items():
        before, come = come, come + size
        with packed.open(name) as stream:
            if name.startswith("media/"):
                if home.vault.intact(digest, size):
                    progress(come)
                    continue
                counted = _Counted(stream, before, progress)
                with home.vault.receive(cast(BinaryIO, counted), name, size) as received:
                    if received.digest != digest:
                        raise _damaged()
                    home.vault.keep(received)
                continue
            content = stream.read(size + 1)
        if hashlib.sha256(content).hexdigest() != digest:
            raise _damaged()
        folder = home.settings.fonts if name.startswith("fonts/") else home.settings.logos
        folder.mkdir(parents=True, exist_ok=True)
        if not (folder / digest).exists():
            new = folder / f"{digest}.new"
            new.write_bytes(content)
            shutil.move(new, folder / digest)


def _rows_in(
    home: Home, session: Session, rows: dict[str, list[Values]], may_change: Callable[[str], bool]
) -> tuple[Episode, list[str]]:
    (show_values,) = rows[Show.__tablename__]
    here = session.get(Show, show_values["id"])
    known_show = here if here is not None and may_change(here.id) else None
    renamed = _new_names(session, rows, with_show=known_show is None)
    rows = json.loads(_renamed(json.dumps(rows), renamed))
    (show_values,), (episode_values,) = rows[Show.__tablename__], rows[Episode.__tablename__]
    for table in TABLES:
        for values in rows[table.__tablename__]:
            if table in (Show, Voice, SpellingRow) and known_show is not None and _is_there(session, table, values):
                continue
            row = table(**_read(table, values))
            if isinstance(row, Recording):
                MediaInfo.from_json(row.info)
                if not DIGEST.fullmatch(row.digest):
                    raise _damaged()
                # What is derived from originals is made again.
                row.state, row.has_working_copy, row.has_key_copy = "preparing", False, False
                if row.transcript_state in ("waiting", "running"):
                    row.transcript_state = "none"
            session.add(row)
        session.flush()
    for part in rows[TranscriptPart.__tablename__]:
        spoken.index(session, part["recording_id"], part["start"], part["words"])
    episode = session.get_one(Episode, episode_values["id"])
    episode.deleted = None
    session.flush()
    _look_through(home, session, episode)
    jobs = []
    for recording in episode.recordings:
        home.vault.claim(recording.digest)
        # They are on the page already, or were left off it.
        jobs.append(add_job(session, "prepare", episode.id, recording.id, recording.length, laid=True).id)
    return episode, jobs


def _is_there(session: Session, table: type[Base], values: Values) -> bool:
    return session.get(table, values["id"]) is not None


def _new_names(session: Session, rows: dict[str, list[Values]], *, with_show: bool) -> dict[str, str]:
    """New ids for all rows of an archive, if any of them is taken here; what belongs to a show that is here keeps its own."""
    of_show = (Show, Voice, SpellingRow)
    own = [table for table in TABLES if hasattr(table, "id") and table not in of_show]
    looked_at = [*own, *(of_show if with_show else ())]
    taken = any(session.get(table, values["id"]) is not None for table in looked_at for values in rows[table.__tablename__])
    if not taken:
        return {}
    return {str(values["id"]): new_id() for table in looked_at for values in rows[table.__tablename__]}


def _renamed(text: str, names: Mapping[str, str]) -> str:
    return ID.sub(lambda found: names.get(found.group(), found.group()), text) if names else text


def _read(table: type[Base], values: Values) -> Values:
    """The columns of a row; those an older archive has not got stand at their defaults."""
    mapper = inspect(table).mapper
    found: Values = {}
    for column in mapper.column_attrs:
        if column.key in values:
            value = values[column.key]
            timed = isinstance(column.columns[0].type, DateTime) and value is not None
            found[column.key] = datetime.fromisoformat(value) if timed else value
    for key in ("id", *(each for each in found if each.endswith("_id"))):
        if found.get(key) is not None and key in found and not ID.fullmatch(str(found[key])):
            raise _damaged()
    return found


def _look_through(home: Home, session: Session, episode: Episode) -> None:
    """Read all of an episode once: what cannot be read is damaged, and is not stored."""
    style_of(episode.show)
    captions_of(episode.show)
    marks_of(episode)
    for recording in episode.recordings:
        home.transcripts.of(session, recording)
    for row in episode.editions:
        opened = home.editions.open(session, row.id)
        if not set(opened.edition.recordings) <= set(_material(episode)):
            raise _damaged()


def _material(episode: Episode) -> Iterator[str]:
    yield from (each.id for each in episode.recordings)
    yield from (each.id for each in episode.sessions)
