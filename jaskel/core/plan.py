"""The plan: what is really played, rendered and captioned, compiled from an edition by one pure function.

A *span* is a stretch of one recording with its place in the programme. Where two spans meet is a *splice*. Its crossfade is
made of the sound that was taken out: the span before plays on for the length of the crossfade while the next one fades in
ahead of its first word. So the words on both sides keep every sample of their own, and a splice adds its crossfade to the
running time, but never more than was taken out there.
"""

from __future__ import annotations

import hashlib
import itertools
from bisect import bisect_right
from dataclasses import dataclass
from functools import cached_property

from jaskel.core.edition import Edition, Run
from jaskel.core.timebase import RATE, Ticks


@dataclass(frozen=True, slots=True)
class Span:
    """A stretch of a recording that sounds.

    Attributes
    ----------
    recording, start, end
        What sounds, in ticks of the recording, crossfades included. ``start`` may lie before the recording begins and
        ``end`` after it ends; there is silence there.
    at
        Where ``start`` falls in the programme.
    laid
        Laid time (see :mod:`jaskel.core.edition`) of the first tick after the fade in. Spans are in order of it, too.
    fade_in, fade_out
        Length of the crossfade with the span before and after; 0 where nothing is joined.
    """

    recording: str
    start: Ticks
    end: Ticks
    at: Ticks
    laid: Ticks
    fade_in: Ticks = 0
    fade_out: Ticks = 0

    @property
    def length(self) -> Ticks:
        return self.end - self.start

    @property
    def until(self) -> Ticks:
        """End in the programme."""
        return self.at + self.length

    @property
    def clear_from(self) -> Ticks:
        """Where in the programme the fade in is over."""
        return self.at + self.fade_in

    @property
    def clear_to(self) -> Ticks:
        """Where in the programme the fade out begins."""
        return self.until - self.fade_out

    @property
    def handover(self) -> Ticks:
        """Where in the programme this span takes over from the one before: the middle of the crossfade."""
        return self.at + self.fade_in // 2


@dataclass(frozen=True)
class Plan:
    """Spans in order of the programme; each overlaps the next by exactly the crossfade they share."""

    spans: tuple[Span, ...] = ()

    @property
    def length(self) -> Ticks:
        """Running time of the programme."""
        return self.spans[-1].until if self.spans else 0

    @cached_property
    def _starts(self) -> list[Ticks]:
        return [span.at for span in self.spans]

    @cached_property
    def _handovers(self) -> list[Ticks]:
        return [span.handover for span in self.spans]

    def between(self, begin: Ticks, end: Ticks) -> tuple[Span, ...]:
        """The spans that sound in a stretch of the programme."""
        first = max(0, bisect_right(self._starts, begin) - 2)
        return tuple(s for s in self.spans[first : bisect_right(self._starts, end)] if s.at < end and s.until > begin)

    def span_at(self, at: Ticks) -> Span | None:
        """The span that leads at ``at``: crossfades hand over in their middle. None outside the programme."""
        index = bisect_right(self._handovers, at) - 1
        return self.spans[index] if 0 <= at < self.length and index >= 0 else None

    def splices(self) -> tuple[Ticks, ...]:
        """Places in the programme where two spans meet."""
        return tuple(self._handovers[1:])


def compile_plan(edition: Edition, *, as_recorded: bool = False) -> Plan:
    """The plan of ``edition``, or of everything in it when ``as_recorded``.

    The running time is the sum of what is kept plus one crossfade for each splice.
    """
    spans: list[Span] = []
    at = fade_in = 0
    runs = edition.runs(struck=as_recorded)
    for index, (recording, start, end, laid) in enumerate(runs):
        fade_out = _crossfade(edition.crossfade, runs[index], runs[index + 1]) if index + 1 < len(runs) else 0
        spans.append(Span(recording, start - fade_in, end + fade_out, at, laid, fade_in, fade_out))
        at += end - start + fade_in
        fade_in = fade_out
    return Plan(tuple(spans))


def _crossfade(wanted: Ticks, before: Run, after: Run) -> Ticks:
    taken_out = after.start - before.end
    return min(wanted, taken_out) if taken_out > 0 and before.recording == after.recording else wanted


BLOCK: Ticks = 2 * RATE
"""Sound is handed to listeners in blocks that begin at multiples of two seconds of the recording."""


@dataclass(frozen=True, slots=True)
class Block:
    """A stretch of the programme, ``at`` to ``until``, and a ``key`` that only its content decides."""

    at: Ticks
    until: Ticks
    key: str


def blocks(plan: Plan, state: str = "") -> tuple[Block, ...]:
    """The programme cut into blocks whose borders are tied to the recordings.

    ``state`` stands for how the recordings themselves sound, where that may change (the tracks of a session may be shifted).

    A border stands wherever a span plays a multiple of :data:`BLOCK` of its recording outside crossfades, and at the first
    clear place of a span when no border has come for that long. So an edit changes the blocks it touches and leaves the
    keys of all others as they were, although they now play at another time.
    """
    borders = [0]
    for span in plan.spans:
        if span.clear_from - borders[-1] >= BLOCK:
            borders.append(span.clear_from)
        to_recording = span.start - span.at
        first = -(-(span.clear_from + to_recording) // BLOCK) * BLOCK
        borders += [place - to_recording for place in range(first, span.clear_to + to_recording, BLOCK)]
    borders.append(plan.length)
    edges = [border for index, border in enumerate(borders) if not index or border > borders[index - 1]]
    return tuple(Block(a, b, _key(plan, a, b, state)) for a, b in itertools.pairwise(edges))


def _key(plan: Plan, begin: Ticks, end: Ticks, state: str) -> str:
    """A hash of what sounds between two borders, wherever in the programme that is. Borders never stand in crossfades."""
    heard = [
        (
            span.recording,
            span.start + max(0, begin - span.at),
            max(span.at, begin) - begin,
            min(span.until, end) - begin,
            span.fade_in if span.at >= begin else 0,
            span.fade_out if span.until <= end else 0,
        )
        for span in plan.between(begin, end)
    ]
    return hashlib.sha256(f"{state}{heard!r}".encode()).hexdigest()[:24]


def heard(plan: Plan, begin: Ticks, end: Ticks) -> tuple[Ticks, Ticks] | None:
    """From-to in the programme of what lies between two laid times, or None where none of it sounds.

    Crossfades do not count: they are made of what was taken out.
    """
    first = max(0, bisect_right(plan.spans, begin, key=lambda span: span.laid) - 1)
    found: list[tuple[Ticks, Ticks]] = []
    for span in plan.spans[first:]:
        if span.laid >= end:
            break
        to_programme = span.clear_from - span.laid
        stretch = max(begin + to_programme, span.clear_from), min(end + to_programme, span.clear_to)
        if stretch[0] < stretch[1]:
            found.append(stretch)
    return (found[0][0], found[-1][1]) if found else None
