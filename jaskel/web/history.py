"""The history of editions: what was done, named versions, and how two states differ."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator

from flask import Response
from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from jaskel.core.compare import Only, compared, corrected
from jaskel.core.edition import Edition
from jaskel.core.page import laid_words
from jaskel.core.problem import Missing
from jaskel.core.transcript import Transcript, Word
from jaskel.store.models import EditionRow, LogEntry, Recording, Version
from jaskel.store.notices import post
from jaskel.store.sessions import transcripts_in
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EditionPath
from jaskel.web.schemas.editions import (
    CompareQuery,
    ComparisonOut,
    DifferenceOut,
    HistoryOut,
    LogOut,
    LogQuery,
    NewVersion,
    ReadsOut,
    VersionPath,
)
from jaskel.web.serializers import reply

api = resource("history", __name__)

SHOWN = 200
MOST_DIFFERENCES = 500


@api.get("/editions/<edition_id>/history", responses={200: HistoryOut})
def history(path: EditionPath, query: LogQuery):  # type: ignore[no-untyped-def]
    """What was done to an edition, the newest first, a page at a time."""
    with context().workshop.home.database.read() as session:
        context().workshop.home.editions.open(session, path.edition_id)
        entries = select(LogEntry).where(LogEntry.edition_id == path.edition_id)
        if query.before is not None:
            entries = entries.where(LogEntry.number < query.before)
        if query.words:
            named = select(Version.revision).where(
                Version.edition_id == path.edition_id, Version.name.icontains(query.words, autoescape=True)
            )
            said = (column.icontains(query.words, autoescape=True) for column in (LogEntry.summary, LogEntry.who))
            entries = entries.where(or_(*said, LogEntry.number.in_(named)))
        found = session.scalars(entries.order_by(LogEntry.number.desc()).limit(SHOWN + 1)).all()
        versions = {v.revision: v for v in session.scalars(select(Version).where(Version.edition_id == path.edition_id))}
        shown = [_entry(entry, versions.get(entry.number)) for entry in found[:SHOWN]]
        return reply(HistoryOut(entries=shown, more=len(found) > SHOWN))


def _entry(entry: LogEntry, version: Version | None) -> LogOut:
    return LogOut(
        number=entry.number,
        step=entry.step,  # type: ignore[arg-type]
        summary=entry.summary,
        who=entry.who,
        at=f"{entry.at:%Y-%m-%dT%H:%M:%SZ}",
        version=version.id if version else None,
        name=version.name if version else None,
    )


@api.post("/editions/<edition_id>/versions", responses={201: LogOut})
def name_version(path: EditionPath, body: NewVersion):  # type: ignore[no-untyped-def]
    """Give a revision a name, to be found again."""
    with context().workshop.home.database.write() as session:
        entry = session.get(LogEntry, (path.edition_id, body.revision))
        if entry is None:
            raise Missing("no-revision", "This edition has no such step in its history.")
        version = session.scalar(
            select(Version).where(Version.edition_id == path.edition_id, Version.revision == body.revision)
        ) or Version(edition_id=path.edition_id, revision=body.revision)
        version.name = body.name
        session.add(version)
        session.flush()
        _told(session, path.edition_id)
        return reply(_entry(entry, version), 201)


@api.delete("/versions/<version_id>", responses={204: None})
def forget_version(path: VersionPath):  # type: ignore[no-untyped-def]
    """Take the name off a revision; the revision stays."""
    with context().workshop.home.database.write() as session:
        version = session.get(Version, path.version_id)
        if version is None:
            raise Missing("no-version", "This version has no name any more.")
        _told(session, version.edition_id)
        session.delete(version)
    return Response(status=204)


@api.get("/compare", responses={200: ComparisonOut})
def compare(query: CompareQuery):  # type: ignore[no-untyped-def]
    """What one state of an edition keeps that another does not: two revisions, or two editions."""
    with context().workshop.home.database.read() as session:
        first, its_words = _state(session, query.edition, query.revision)
        second, other_words = _state(session, query.other, query.other_revision)
        both = {"first": (first, its_words), "second": (second, other_words)}
        shared, only = compared(first, second)
        said = {
            side: _Said(laid_words(edition, _transcripts(session, edition, words))) for side, (edition, words) in both.items()
        }
        return reply(
            ComparisonOut(
                first_length=first.kept_length,
                second_length=second.kept_length,
                shared=shared,
                differences=[_difference(each, said[each.side]) for each in only[:MOST_DIFFERENCES]],
                retyped=_retyped(session, its_words, other_words)[:MOST_DIFFERENCES],
            )
        )


OldWords = dict[str, Transcript]
"""Transcripts of recordings whose words were corrected since, as they were."""


def _state(session: Session, edition_id: str, revision: int | None) -> tuple[Edition, OldWords]:
    editions = context().workshop.home.editions
    opened = editions.open(session, edition_id)
    if revision in (None, opened.revision):
        return opened.edition, {}
    words, _ = editions.words_as_they_were(session, edition_id, revision or 0)
    return editions.as_it_was(session, edition_id, revision or 0), words


def _transcripts(session: Session, edition: Edition, words: OldWords) -> dict[str, Transcript]:
    return transcripts_in(session, edition.recordings, context().workshop.home.transcripts, words)


def _retyped(session: Session, first: OldWords, second: OldWords) -> list[ReadsOut]:
    """OldWords that read otherwise in two states."""
    now = context().workshop.home.transcripts
    out = []
    for name in dict.fromkeys((*first, *second)):
        recording = session.get_one(Recording, name)
        before, after = (side.get(name) or now.of(session, recording) for side in (first, second))
        for each in corrected(name, before, after):
            out.append(ReadsOut(recording=name, at=each.at, before=each.before, after=each.after))
    return out


class _Said:
    """The words of a state by their laid time."""

    def __init__(self, words: Iterator[tuple[str, Word, int]]) -> None:
        self._words = list(words)
        self._places = [at for *_, at in self._words]

    def within(self, begin: int, end: int) -> str:
        first = bisect_left(self._places, begin)
        return " ".join(word.text for _, word, _ in self._words[first : bisect_left(self._places, end)])


def _difference(only: Only, said: _Said) -> DifferenceOut:
    text = said.within(only.at, only.at + only.length)
    return DifferenceOut(only_in=only.side, at=only.at, length=only.length, text=text)


def _told(session: Session, edition_id: str) -> None:
    row = session.get_one(EditionRow, edition_id)
    post(session, "edition", row.episode_id, id=row.id, revision=row.revision)
