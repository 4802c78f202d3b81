"""The edition: an ordered list of pieces of recordings, each kept, struck or lifted.

Like a text editor's piece table, it copies nothing and destroys nothing: striking marks a stretch, and every stretch ever
taken in stays in the list. So each point of an edition has an unambiguous place: its offset in the pieces laid end to end,
struck ones included. That offset is called *laid* time. Striking, lifting and putting back leave all laid times as they are.

Beside the pieces an edition has marks (see :mod:`jaskel.core.marks`): how single splices are made, levels of stretches of a
track, and all else that is tied to places. They stay where they belong whatever is cut or moved around them.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import accumulate, groupby, pairwise
from typing import NamedTuple

from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.mark import NO_MARKS, Marks
from jaskel.core.marks.splice import CROSSFADE, Splice, SpliceMark, by_meeting
from jaskel.core.shape import PictureShape
from jaskel.core.source import Card, Recorded, SaidAgain, Source, home_of, recording_of
from jaskel.core.timebase import Ticks


@dataclass(frozen=True, slots=True)
class Piece:
    """The stretch ``start`` to ``end`` of one source, kept or taken out; ``why`` says what took it out.

    What is ``lifted`` is taken out of sight, too; else what is not kept is *struck* and stays readable.
    """

    source: Source
    start: Ticks
    end: Ticks
    kept: bool = True
    why: str = ""
    lifted: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.start < self.end:
            raise ValueError(f"a piece needs a length, not {self.start}–{self.end}")
        if self.kept and self.lifted:
            raise ValueError("what is lifted is not kept")

    @property
    def length(self) -> Ticks:
        return self.end - self.start

    def part(self, begin: Ticks, end: Ticks) -> Piece:
        """The stretch ``begin`` to ``end``, counted from this piece's own start."""
        return Piece(self.source, self.start + begin, self.start + end, self.kept, self.why, self.lifted)

    def up_to(self, end: Ticks) -> Piece:
        """The same up to another place of its source."""
        return Piece(self.source, self.start, end, self.kept, self.why, self.lifted)

    def runs_on_into(self, other: Piece) -> bool:
        """Whether ``other`` is simply the next stretch of the same source."""
        return self.end == other.start and self.source == other.source

    def joins(self, other: Piece) -> bool:
        """Whether the two are one stretch that merely happens to be written as two."""
        return (
            self.end == other.start
            and self.kept == other.kept
            and self.source == other.source
            and self.why == other.why
            and self.lifted == other.lifted
        )


def merged(pieces: Iterable[Piece]) -> Iterator[Piece]:
    """The same pieces with neighbours that are one stretch written as one: an edition has one spelling only."""
    last: Piece | None = None
    for piece in pieces:
        if last is not None and last.joins(piece):
            last = last.up_to(piece.end)
        else:
            if last is not None:
                yield last
            last = piece
    if last is not None:
        yield last


class Run(NamedTuple):
    """A stretch of one source and its laid time. A plain tuple: there are thousands of them in every edit."""

    source: Source
    start: Ticks
    end: Ticks
    laid: Ticks


def strung(parts: Iterable[Sequence[Piece]]) -> tuple[Piece, ...]:
    """Runs of pieces, each merged in itself, as one: only where two runs meet is there something left to merge."""
    pieces: list[Piece] = []
    for part in parts:
        if pieces and part and pieces[-1].joins(part[0]):
            pieces[-1] = pieces[-1].up_to(part[0].end)
            part = part[1:]
        pieces += part
    return tuple(pieces)


FEW = 16
"""Up to so many stretches are cut out one by one; with more, one pass over all pieces is quicker."""


def _runs(pieces: Iterable[tuple[Piece, Ticks]]) -> list[Run]:
    """Pieces with their laid times, as runs."""
    runs: list[Run] = []
    source: Source | None = None
    start, end, laid, until = 0, -1, 0, -1
    for piece, at in pieces:
        if piece.start == end and at == until and (piece.source is source or piece.source == source):
            end, until = piece.end, at + piece.end - piece.start
            continue
        if source is not None:
            runs.append(Run(source, start, end, laid))
        source, start, end, laid, until = piece.source, piece.start, piece.end, at, at + piece.end - piece.start
    if source is not None:
        runs.append(Run(source, start, end, laid))
    return runs


def _parted(splices: Sequence[SpliceMark]) -> frozenset[tuple[Source, Ticks]]:
    meetings = (each.meeting for each in splices)
    return frozenset((m.before, m.end) for m in meetings if m.end == m.start and m.before == m.after)


@dataclass(frozen=True)
class Edition:
    """Pieces in the order they play. Equal editions have equal pieces: neighbours that are one stretch are merged.

    ``crossfade`` is how long both sides sound together at a splice that nobody set, ``shape`` that of the picture.
    """

    pieces: tuple[Piece, ...] = ()
    crossfade: Ticks = CROSSFADE
    marks: Marks = NO_MARKS
    shape: PictureShape = "as recorded"

    @classmethod
    def of(cls, pieces: Iterable[Piece], crossfade: Ticks = CROSSFADE) -> Edition:
        return cls(tuple(merged(pieces)), crossfade)

    @cached_property
    def starts(self) -> tuple[Ticks, ...]:
        """Laid time at which each piece begins, and one more for the end of the last."""
        return tuple(accumulate([piece.end - piece.start for piece in self.pieces], initial=0))

    @cached_property
    def runs(self) -> list[Run]:
        """Pieces that run on into one another, as one, whether they are kept or struck."""
        return _runs(zip(self.pieces, self.starts, strict=False))

    @cached_property
    def kept_runs(self) -> list[Run]:
        """What is heard: kept pieces that run on into one another, as one. A splice stands between any two.

        Where somebody parted what is kept, two runs meet although nothing is between them.
        """
        runs = _runs((piece, at) for piece, at in zip(self.pieces, self.starts, strict=False) if piece.kept)
        return list(self._parted_runs(runs)) if self._parted else runs

    @property
    def _parted(self) -> frozenset[tuple[Source, Ticks]]:
        """Places at which somebody parted a recording without taking anything out."""
        return self.marks.derived(SpliceMark, _parted)

    def _parted_runs(self, runs: Iterable[Run]) -> Iterator[Run]:
        for run in runs:
            begin = run.start
            for at in sorted(at for source, at in self._parted if source == run.source and run.start < at < run.end):
                yield Run(run.source, begin, at, run.laid + begin - run.start)
                begin = at
            yield Run(run.source, begin, run.end, run.laid + begin - run.start)

    @property
    def by_meeting(self) -> Mapping[Meeting, Splice]:
        """How the splices are made that somebody set by hand."""
        return self.marks.derived(SpliceMark, by_meeting)

    @cached_property
    def recordings(self) -> tuple[str, ...]:
        """The recordings and sessions in use, in order of their first piece."""
        return tuple(source.recording for source in self.sources if isinstance(source, Recorded))

    @cached_property
    def strips(self) -> Mapping[str, str]:
        """The tracks through whose channel strips lines said again go, by the recordings of these."""
        return {source.recording: source.track for source in self.sources if isinstance(source, SaidAgain)}

    @cached_property
    def used(self) -> tuple[str, ...]:
        """The same, with those of which only the room tone is in use, or a picture above a line said again."""
        names = (name for source in self.sources for name in (recording_of(source), home_of(source)))
        return tuple(dict.fromkeys(filter(None, names)))

    @cached_property
    def sources(self) -> tuple[Source, ...]:
        """Every source in use, once; thousands of pieces in a row are of the same."""
        return tuple(dict.fromkeys(source for source, _ in groupby(piece.source for piece in self.pieces)))

    def card(self, card: Card) -> tuple[Ticks, Ticks] | None:
        """From-to in laid time of the opening or closing card, None where there is none."""
        if card not in self.sources:
            return None
        for piece, at in zip(self.pieces, self.starts, strict=False):
            if piece.kept and piece.source == card:
                return at, at + piece.length
        return None

    @property
    def length(self) -> Ticks:
        """Everything laid end to end, struck pieces included: the running time as recorded."""
        return self.starts[-1]

    @property
    def kept_length(self) -> Ticks:
        return sum(piece.length for piece in self.pieces if piece.kept)

    def index_at(self, laid: Ticks) -> int:
        """Index of the piece that sounds at ``laid``; the number of pieces at or after the end."""
        return bisect_right(self.starts, laid) - 1 if laid < self.length else len(self.pieces)

    def cut_out(self, begin: Ticks, end: Ticks) -> tuple[Piece, ...]:
        """The pieces between two laid times, trimmed to them; nothing lies beyond the end."""
        end = min(end, self.length)
        if begin >= end:
            return ()
        first, last = self.index_at(begin), self.index_at(end - 1)
        inside, until = begin - self.starts[first], end - self.starts[last]
        if first == last:
            return (self.pieces[first].part(inside, until),)
        out = list(self.pieces[first : last + 1])
        if inside:
            out[0] = out[0].part(inside, out[0].length)
        if until < out[-1].length:
            out[-1] = out[-1].part(0, until)
        return tuple(out)

    def parted(self, places: Sequence[Ticks]) -> list[list[Piece]]:
        """All pieces, parted at laid times in order: those before the first, between each and the next, and after the last.

        The same as cutting out one stretch after the other, in one pass where they are many.
        """
        if len(places) <= FEW:
            return [[*self.cut_out(a, b)] for a, b in pairwise((0, *places, self.length))]
        parts: list[list[Piece]] = [[]]
        number, count = 0, len(places)
        for piece, at in zip(self.pieces, self.starts, strict=False):
            until, done = at + piece.end - piece.start, at
            while number < count and places[number] < until:
                place = places[number]
                if place > done:
                    parts[-1].append(piece.part(done - at, place - at))
                    done = place
                parts.append([])
                number += 1
            parts[-1].append(piece if done == at else piece.part(done - at, until - at))
        parts += [[] for _ in range(count - number)]
        return parts

    @cached_property
    def struck_ranges(self) -> tuple[tuple[Ticks, Ticks], ...]:
        """Laid from-to of every stretch that is not kept, lifted ones included, neighbours joined."""
        return self._ranges(lifted_only=False)

    @cached_property
    def lifted_ranges(self) -> tuple[tuple[Ticks, Ticks], ...]:
        """Laid from-to of every stretch that is out of sight, neighbours joined."""
        return self._ranges(lifted_only=True)

    def _ranges(self, *, lifted_only: bool) -> tuple[tuple[Ticks, Ticks], ...]:
        ranges: list[tuple[Ticks, Ticks]] = []
        for piece, at, until in zip(self.pieces, self.starts, self.starts[1:], strict=False):
            if piece.kept or (lifted_only and not piece.lifted):
                continue
            if ranges and ranges[-1][1] == at:
                ranges[-1] = (ranges[-1][0], until)
            else:
                ranges.append((at, until))
        return tuple(ranges)
