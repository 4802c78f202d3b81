"""The selects of a show, with what is said in them and where they come from."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.edition import Edition, Piece, merged
from jaskel.core.marks.anchor import Whole
from jaskel.core.marks.mark import Mark, Marks
from jaskel.core.marks.select import Select
from jaskel.core.problem import Problem
from jaskel.core.source import Recorded
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript
from jaskel.core.written import written
from jaskel.store.home import Home
from jaskel.store.material import marks_of
from jaskel.store.models import Episode, Recording, SessionRow, TrackRow
from jaskel.store.sessions import transcripts_in


@dataclass(frozen=True)
class Gathered:
    """A select with its episode, what is said in it and by whom first, and the words before and after it."""

    episode: Episode
    mark: Select
    text: str
    voice: str | None
    before: str
    after: str


AROUND = 8
"""Words of context before and after."""


def gathered(session: Session, show_id: str, home: Home) -> Iterator[Gathered]:
    """All selects of a show, episode by episode in order of time."""
    episodes = select(Episode).where(Episode.show_id == show_id, Episode.deleted.is_(None)).order_by(Episode.created)
    for episode in session.scalars(episodes):
        marks = sorted(marks_of(episode).marks.all(Select), key=lambda each: (each.recording, each.start))
        said = transcripts_in(session, [*dict.fromkeys(each.recording for each in marks)], home.transcripts)
        for each in marks:
            yield _told(episode, each, said)


def _told(episode: Episode, mark: Select, said: Mapping[str, Transcript]) -> Gathered:
    words = said[mark.recording].words if mark.recording in said else ()
    within = [at for at, word in enumerate(words) if (word.start + word.end) // 2 in range(mark.start, mark.end)]
    first, last = (within[0], within[-1] + 1) if within else (0, 0)
    texts = [word.text for word in words]
    return Gathered(
        episode,
        mark,
        written(texts[first:last]),
        words[first].voice if within else None,
        written(texts[max(0, first - AROUND) : first]),
        written(texts[last : last + AROUND]) if within else "",
    )


def edition_of(
    session: Session, home: Home, stretches: Sequence[tuple[str, Ticks, Ticks]], *, crossfade: Ticks, rest: Ticks = 0
) -> Edition:
    """An edition of stretches of recordings or sessions, one after the other, whatever episodes they belong to.

    The strips of their tracks, and what else is set of a whole recording, come along from the first edition of each episode.

    Raises
    ------
    Problem
        ``recording-gone``.
    """
    pieces: list[Piece] = []
    marks: dict[str, Mark] = {}
    for name, start, end in stretches:
        home_of = session.get(Recording, name) or session.get(SessionRow, name)
        if home_of is None:
            raise Problem("recording-gone", "A recording of what is gathered was removed meanwhile. Take its stretches out.")
        pieces.append(Piece(Recorded(name), start, end))
        tracks = {name, *session.scalars(select(TrackRow.recording_id).where(TrackRow.session_id == name))}
        first = next(iter(session.get_one(Episode, home_of.episode_id).editions), None)
        if first is not None:
            marks |= {each.id: each for each in _of_whole(home.editions.open(session, first.id).edition.marks, tracks)}
    return Edition(tuple(merged(pieces)), crossfade=crossfade, marks=Marks(marks))


def _of_whole(marks: Marks, tracks: set[str]) -> Iterator[Mark]:
    for each in marks:
        if each.anchors and all(isinstance(anchor, Whole) and anchor.recording in tracks for anchor in each.anchors):
            yield each
