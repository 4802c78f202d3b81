"""The base of all marks, the register of their kinds, and the container that holds them."""

from __future__ import annotations

from bisect import bisect_left, bisect_right, insort
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from operator import itemgetter
from typing import Any, ClassVar, Literal, Self, TypeVar, cast

from jaskel.core.marks.anchor import Anchor, Carry, Meeting, Place, Stretch, Whole
from jaskel.core.source import recording_of
from jaskel.core.timebase import Ticks

Home = Literal["edition", "episode"]
"""Marks of the material (notes, selects) belong to the episode and are seen in all its editions; others to one edition."""


@dataclass(frozen=True)
class Mark:
    """Something tied to one or more places; ``id`` names it as long as it is there, whatever is changed of it."""

    kind: ClassVar[str]
    home: ClassVar[Home] = "edition"
    id: str
    anchors: tuple[Anchor, ...]

    def carried(self, carry: Carry) -> Self | None:
        """The mark after one recording took the place of another; None where its place is gone."""
        anchors = tuple(carry.anchor(anchor) for anchor in self.anchors)
        if None in anchors:
            return None
        same = all(now is before for now, before in zip(anchors, self.anchors, strict=True))
        return self if same else replace(self, anchors=cast("tuple[Anchor, ...]", anchors))


@dataclass(frozen=True)
class StretchMark(Mark):
    """A mark of one stretch of a recording or session."""

    @property
    def stretch(self) -> Stretch:
        (anchor,) = self.anchors
        assert isinstance(anchor, Stretch)
        return anchor

    @property
    def recording(self) -> str:
        return self.stretch.recording

    @property
    def start(self) -> Ticks:
        return self.stretch.start

    @property
    def end(self) -> Ticks:
        return self.stretch.end


def strip_name(track: str, voice: str = "") -> str:
    """The name of a channel strip: that of a track, or of a ``voice`` that was told apart within it."""
    return f"{track}/{voice}" if voice else track


def strip_parts(strip: str) -> tuple[str, str]:
    """The track of a strip, and its voice, empty for the whole track.

    >>> strip_parts("4f1c/77ab"), strip_parts("4f1c")
    (('4f1c', '77ab'), ('4f1c', ''))
    """
    track, _, voice = strip.partition("/")
    return track, voice


@dataclass(frozen=True)
class StripMark(Mark):
    """A mark of a channel strip: of a whole track, or of one ``voice`` of those that are heard in it."""

    voice: str = field(default="", kw_only=True)

    @property
    def track(self) -> str:
        (anchor,) = self.anchors
        assert isinstance(anchor, Whole)
        return anchor.recording

    @property
    def strip(self) -> str:
        return strip_name(self.track, self.voice)


KINDS: dict[str, type[Mark]] = {}
"""Every kind of mark, by its name."""

M = TypeVar("M", bound=Mark)
T = TypeVar("T")


def mark(kind: type[M]) -> type[M]:
    """Register a kind of mark."""
    KINDS[kind.kind] = kind
    return kind


def recordings_of(anchor: Anchor) -> tuple[str, ...]:
    """The recordings an anchor is tied to."""
    match anchor:
        case Stretch() | Place() | Whole():
            return (anchor.recording,)
        case Meeting():
            return tuple(name for side in (anchor.before, anchor.after) if (name := recording_of(side)))
    return ()


class Marks:
    """Marks by their id. Never changed in place: :meth:`changed` gives new ones, which share what stayed the same.

    Stretches are found by recording and time in an index that is built once for each kind, when it is first asked for.
    """

    def __init__(self, marks: Mapping[str, Mark] | None = None, known: Mapping[str, _Index] | None = None) -> None:
        self._by_id = dict(marks or {})
        self._indices: dict[str, _Index] = dict(known or {})

    @classmethod
    def of(cls, marks: Sequence[Mark]) -> Marks:
        return cls({each.id: each for each in marks})

    def __iter__(self) -> Iterator[Mark]:
        return iter(self._by_id.values())

    def __len__(self) -> int:
        return len(self._by_id)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Marks) and self._by_id == other._by_id

    def __hash__(self) -> int:
        return hash(frozenset(self._by_id))

    def __repr__(self) -> str:
        return f"Marks.of({[*self._by_id.values()]!r})"

    def get(self, id: str) -> Mark | None:
        return self._by_id.get(id)

    def free_id(self, wanted: str) -> str:
        """``wanted``, or where that is taken, the same with a number."""
        number, found = 1, wanted
        while found in self._by_id:
            number += 1
            found = f"{wanted}+{number}"
        return found

    def changed(self, changes: Mapping[str, Mark | None]) -> Marks:
        """The same with marks added or replaced, and those taken off that are None."""
        now = dict(self._by_id)
        gone: dict[str, list[Mark]] = {}
        come: dict[str, list[Mark]] = {}
        for id, new in changes.items():
            if (old := now.pop(id, None)) is not None:
                gone.setdefault(old.kind, []).append(old)
            if new is not None:
                now[id] = new
                come.setdefault(new.kind, []).append(new)
        indices = {
            kind: index.changed(gone.get(kind, ()), come.get(kind, ())) if kind in gone or kind in come else index
            for kind, index in self._indices.items()
        }
        return Marks(now, {kind: index for kind, index in indices.items() if index is not None})

    def all(self, kind: type[M]) -> Sequence[M]:
        """All marks of a kind, by where they begin."""
        return cast("Sequence[M]", self._index(kind).ordered)

    def within(self, kind: type[M], recording: str, start: Ticks, end: Ticks) -> Iterator[M]:
        """The marks of a kind that touch a stretch of a recording, by where they begin; single places count in full."""
        return cast("Iterator[M]", self._index(kind).within(recording, start, end))

    def derived(self, kind: type[M], make: Callable[[Sequence[M]], T]) -> T:
        """What ``make`` gives for all marks of a kind; made once, and again only when one of that kind has changed."""
        known = self._index(kind).derived
        if make not in known:
            known[make] = make(self.all(kind))
        return cast("T", known[make])

    def _index(self, kind: type[Mark]) -> _Index:
        if kind.kind not in self._indices:
            self._indices[kind.kind] = _Index([each for each in self._by_id.values() if each.kind == kind.kind])
        return self._indices[kind.kind]


NO_MARKS = Marks()


def _place(each: Mark) -> tuple[str, Ticks, Ticks]:
    anchor = each.anchors[0]
    if isinstance(anchor, Stretch):
        return anchor.recording, anchor.start, anchor.end
    if isinstance(anchor, Place):
        return anchor.recording, anchor.at, anchor.at
    return "", 0, 0


class _Index:
    """Marks of one kind in order of place. How long the longest of a recording is says how far back a search has to look."""

    def __init__(self, marks: Sequence[Mark]) -> None:
        self._rows: dict[str, list[_Row]] = {}
        self._longest: dict[str, Ticks] = {}
        for each in marks:
            recording, start, end = _place(each)
            self._rows.setdefault(recording, []).append((start, end, each.id, each))
            self._longest[recording] = max(self._longest.get(recording, 0), end - start)
        for rows in self._rows.values():
            rows.sort(key=_by_place)
        self.derived: dict[Callable[..., Any], Any] = {}

    @cached_property
    def ordered(self) -> list[Mark]:
        """All of them, by recording and place."""
        return [row[3] for recording in sorted(self._rows) for row in self._rows[recording]]

    def changed(self, gone: Sequence[Mark], come: Sequence[Mark]) -> _Index | None:
        """The index with some marks gone and others come; None where so many are that it is better made anew."""
        if len(gone) + len(come) > FEW:
            return None
        new = _Index(())
        new._rows, new._longest = dict(self._rows), dict(self._longest)
        for recording in {_place(each)[0] for each in (*gone, *come)}:
            new._rows[recording] = list(new._rows.get(recording, ()))
        for each in gone:
            recording, start, end = _place(each)
            rows = new._rows[recording]
            del rows[bisect_left(rows, (start, end, each.id), key=_by_place)]
        for each in come:
            recording, start, end = _place(each)
            insort(new._rows[recording], (start, end, each.id, each), key=_by_place)
            new._longest[recording] = max(new._longest.get(recording, 0), end - start)
        return new

    def within(self, recording: str, start: Ticks, end: Ticks) -> Iterator[Mark]:
        rows = self._rows.get(recording, ())
        first = bisect_left(rows, start - self._longest.get(recording, 0), key=_by_start)
        for begin, until, _, each in rows[first : bisect_right(rows, end, key=_by_start)]:
            if (begin < end and until > start) or begin == until:
                yield each


_Row = tuple[Ticks, Ticks, str, Mark]
_by_place, _by_start = itemgetter(0, 1, 2), itemgetter(0)

FEW = 64
"""So many marks are put into an index one by one; with more it is sorted anew."""
