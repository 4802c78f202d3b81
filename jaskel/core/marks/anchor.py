"""Where a mark is tied to: places of recordings, which stay what they are whatever is cut or moved, or the programme's ends."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jaskel.core.source import Recorded, RoomTone, SaidAgain, Source
from jaskel.core.timebase import Ticks


@dataclass(frozen=True, slots=True)
class Stretch:
    """``start`` to ``end`` of a recording or session, in its ticks."""

    recording: str
    start: Ticks
    end: Ticks

    def __post_init__(self) -> None:
        if self.start >= self.end:
            raise ValueError(f"a stretch needs a length, not {self.start}–{self.end}")


@dataclass(frozen=True, slots=True)
class Place:
    """A single place of a recording or session; what begins ``offset`` ticks later (or earlier) goes with it."""

    recording: str
    at: Ticks
    offset: Ticks = 0


@dataclass(frozen=True, slots=True)
class Meeting:
    """Where two pieces meet at a splice: ``before`` up to ``end``, then ``after`` from ``start``, in ticks of each.

    It names a splice by its content, so it is the same splice wherever it is moved, and again after undo.
    """

    before: Source
    end: Ticks
    after: Source
    start: Ticks


@dataclass(frozen=True, slots=True)
class Whole:
    """All of a recording, wherever and in whatever session it plays."""

    recording: str


@dataclass(frozen=True, slots=True)
class Beginning:
    """Where the programme begins, or ``offset`` ticks after (before, where negative)."""

    offset: Ticks = 0


@dataclass(frozen=True, slots=True)
class End:
    """Where the programme ends, or ``offset`` ticks after (before, where negative)."""

    offset: Ticks = 0


Anchor = Stretch | Place | Meeting | Whole | Beginning | End


@dataclass(frozen=True, slots=True)
class Carry:
    """How the places of ``recording`` become those of ``to``, where one takes the other's place.

    Attributes
    ----------
    recording, to
        What it was called, and what it is called now: the file that replaces it, or the session it joins.
    track
        What it is called as a track: itself where it joins a session, else the file that replaces it.
    offset, drift
        A place ``at`` lies at ``offset + at * (1 + drift)``.
    length
        The length of ``to`` in ticks: what lies beyond is lost, and a stretch across its end is cut there.
    """

    recording: str
    to: str
    track: str
    offset: Ticks
    drift: float
    length: Ticks

    def place(self, at: Ticks) -> Ticks:
        """Where a place of ``recording`` lies in ``to``."""
        return self.offset + round(at * (1 + self.drift))

    def turned(self, length: Ticks) -> Carry:
        """The way back, to a recording of that length."""
        back = Carry(self.to, self.recording, self.recording, 0, 1 / (1 + self.drift) - 1, length)
        return replace(back, offset=-back.place(self.offset))

    def anchor(self, anchor: Anchor) -> Anchor | None:
        """The anchor where it lies now; the very same where it is about something else, None where it is lost."""
        match anchor:
            case Stretch(recording, start, end) if recording == self.recording:
                begin, until = max(0, self.place(start)), min(self.length, self.place(end))
                return Stretch(self.to, begin, until) if begin < until else None
            case Place(recording, at, offset) if recording == self.recording:
                now = self.place(at)
                return Place(self.to, now, offset) if 0 <= now <= self.length else None
            case Whole(recording) if recording == self.recording:
                return Whole(self.track)
            case Meeting():
                before, end = self._side(anchor.before, anchor.end)
                after, start = self._side(anchor.after, anchor.start)
                return replace(anchor, before=before, end=end, after=after, start=start)
        return anchor

    def line(self, source: SaidAgain) -> SaidAgain:
        """A line said again, where the words it takes the place of lie now."""
        if source.home != self.recording:
            return source
        track = self.track if source.track == self.recording else source.track
        return replace(source, home=self.to, track=track, start=self.place(source.start), end=self.place(source.end))

    def _side(self, source: Source, at: Ticks) -> tuple[Source, Ticks]:
        match source:
            case SaidAgain():
                return self.line(source), at
            case Recorded(recording) if recording == self.recording:
                return Recorded(self.to), self.place(at)
            case RoomTone(recording) if recording == self.recording:
                return RoomTone(self.to), at
        return source, at
