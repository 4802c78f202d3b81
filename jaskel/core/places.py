"""Where marks and other places of the material lie in an edition now."""

from __future__ import annotations

from bisect import bisect_right
from itertools import pairwise

from jaskel.core.edition import Edition, Run
from jaskel.core.marks.anchor import Anchor, Beginning, End, Meeting, Place, Stretch, Whole
from jaskel.core.operations.base import Range, joined
from jaskel.core.source import Recorded
from jaskel.core.timebase import Ticks


class Places:
    """The stretches of an edition, by recording and time; made once for each state of it."""

    def __init__(self, edition: Edition) -> None:
        self._edition = edition
        self._runs: dict[str, list[Run]] = {}
        self._longest: dict[str, Ticks] = {}
        for run in edition.runs:
            if isinstance(run.source, Recorded):
                name = run.source.recording
                self._runs.setdefault(name, []).append(run)
                self._longest[name] = max(self._longest.get(name, 0), run.end - run.start)
        for runs in self._runs.values():
            runs.sort(key=lambda run: run.start)

    def of(self, anchor: Anchor) -> list[Range]:
        """From-to in laid time of all that an anchor covers now, in order: of a single place, both are the same.

        A stretch that was cut through or moved apart lies in several; what is not in the edition lies nowhere. What is tied to
        the programme's ends lies at the ends of what is kept.

        Examples
        --------
        >>> from jaskel.core.edition import Piece
        >>> sound = Recorded("a")
        >>> places = Places(Edition.of([Piece(sound, 50, 90), Piece(sound, 0, 50)]))
        >>> places.of(Stretch("a", 40, 60))
        [(0, 10), (80, 90)]
        """
        match anchor:
            case Stretch(recording, start, end):
                found = [self._laid(run, max(start, run.start), min(end, run.end)) for run in self._near(recording, start, end)]
                return [*joined(found)]
            case Place(recording, at, offset):
                around = self._near(recording, at, at + 1) or self._near(recording, at - 1, at)
                return sorted((laid, laid) for run in around for laid in [run.laid + at - run.start + offset])
            case Whole(recording):
                return [*joined(self._laid(run, run.start, run.end) for run in self._runs.get(recording, ()))]
            case Meeting():
                return self._meeting(anchor)
            case Beginning(offset):
                kept = self._edition.kept_runs
                return [(kept[0].laid + offset,) * 2] if kept else []
            case End(offset):
                kept = self._edition.kept_runs
                return [(kept[-1].laid + kept[-1].end - kept[-1].start + offset,) * 2] if kept else []

    def whole(self, recording: str, start: Ticks, end: Ticks) -> Range | None:
        """From-to in laid time of a stretch that lies in the edition in one piece, None where it does not."""
        # A part of a stretch may have been pasted elsewhere once more: then another run begins nearer, and ends before.
        around = self._near(recording, start, end)
        run = next((run for run in reversed(around) if run.start <= start and end <= run.end), None)
        return self._laid(run, start, end) if run else None

    def clipped(self, recording: str, start: Ticks, end: Ticks, reach: Ticks) -> Range | None:
        """The same for a stretch that reaches up to ``reach`` over the end of its piece: without what does."""
        runs = self._runs.get(recording, [])
        run = next((run for run in runs if run.start - reach <= start and end <= run.end + reach), None)
        return self.whole(recording, max(start, run.start), min(end, run.end)) if run else None

    def _meeting(self, meeting: Meeting) -> list[Range]:
        return [
            (after.laid, after.laid)
            for before, after in pairwise(self._edition.kept_runs)
            if (before.end, after.start) == (meeting.end, meeting.start)
            and (before.source, after.source) == (meeting.before, meeting.after)
        ]

    def _near(self, recording: str, start: Ticks, end: Ticks) -> list[Run]:
        """The runs of a recording that touch a stretch of it, by where they begin in it."""
        runs = self._runs.get(recording, [])
        first = bisect_right(runs, start - self._longest.get(recording, 0), key=lambda run: run.start)
        last = bisect_right(runs, end - 1, key=lambda run: run.start)
        return [run for run in runs[max(0, first - 1) : last] if run.end > start]

    @staticmethod
    def _laid(run: Run, start: Ticks, end: Ticks) -> Range:
        return start + run.laid - run.start, end + run.laid - run.start
