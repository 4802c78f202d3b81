"""The plan: what is really played, rendered and captioned, compiled from an edition by one pure function.

A *span* is a stretch of one recording with its place in the programme. Where two spans meet is a *splice*. Its crossfade is
made of the sound that was taken out: the span before plays on for the length of the crossfade while the next one fades in
ahead of its first word. So the words on both sides keep every sample of their own, and a splice adds its crossfade to the
running time, but never more than was taken out there. A splice may be set by hand: longer, of another shape, further into what
was taken out, or with the picture going over earlier or later than the sound.
"""

from __future__ import annotations

import hashlib
import itertools
from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from jaskel.core.edition import CARD, Edition, Run, is_rest
from jaskel.core.levels import AS_RECORDED, LEVEL_FADE, Level, Levels
from jaskel.core.splice import CROSSFADE, Meeting, Shape, Splice
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
    shape_in, shape_out
        How it fades.
    lead
        By how much its sound comes before its picture.
    """

    recording: str
    start: Ticks
    end: Ticks
    at: Ticks
    laid: Ticks
    fade_in: Ticks = 0
    fade_out: Ticks = 0
    shape_in: Shape = "equal power"
    shape_out: Shape = "equal power"
    lead: Ticks = 0

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
    levels: Levels = AS_RECORDED

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

    @cached_property
    def _shown(self) -> tuple[list[Ticks], list[Span]]:
        """From where on each span's picture is shown, and those spans: rests that were put in have none, but cards have."""
        starts: list[Ticks] = []
        spans: list[Span] = []
        for span in self.spans:
            if span.recording == CARD or not is_rest(span.recording):
                starts.append(max(span.handover + span.lead, starts[-1]) if starts else 0)
                spans.append(span)
        return starts, spans

    def picture_at(self, at: Ticks) -> tuple[str, Ticks] | None:
        """What is seen at a place of the programme: a recording and a place in it, None where there is nothing but the card.

        In a rest that was put in, the picture before it stands still.
        """
        starts, spans = self._shown
        index = max(0, bisect_right(starts, at) - 1)
        if not (0 <= at < self.length and spans):
            return None
        span = spans[index]
        if span.recording == CARD:
            return None
        heard = self.span_at(at)
        still = heard is not None and is_rest(heard.recording) and heard.at >= span.at
        place = min(at, span.clear_to) if still else at
        return span.recording, max(0, span.start + place - span.at)

    def splices(self) -> tuple[Ticks, ...]:
        """Places in the programme where two spans meet."""
        return tuple(self._handovers[1:])


def compile_plan(edition: Edition, *, as_recorded: bool = False) -> Plan:
    """The plan of ``edition``, or of everything in it when ``as_recorded``.

    The running time is the sum of what is kept plus one crossfade for each splice, and what splices set by hand reach further.
    """
    spans: list[Span] = []
    at = 0
    runs = edition.runs(struck=True) if as_recorded else edition.kept_runs
    by_hand = {} if as_recorded else edition.by_meeting
    start_of = Splice(crossfade=0)
    for index, (recording, start, end, laid) in enumerate(runs):
        end_of = _splice(edition, by_hand, runs[index], runs[index + 1]) if index + 1 < len(runs) else Splice(crossfade=0)
        begin, until = start - start_of.after - start_of.crossfade, end + end_of.before + end_of.crossfade
        spans.append(
            Span(
                recording, begin, until, at, laid - start_of.after, start_of.crossfade, end_of.crossfade,
                start_of.shape, end_of.shape, start_of.lead,
            )
        )  # fmt: skip
        at += until - begin - end_of.crossfade
        start_of = end_of
    return Plan(tuple(spans), AS_RECORDED if as_recorded else edition.levels)


def _splice(edition: Edition, by_hand: Mapping[Meeting, Splice], before: Run, after: Run) -> Splice:
    """How two runs are joined: as it was set, as far as what was taken out there allows."""
    wanted = by_hand.get(Meeting(before.recording, before.end, after.recording, after.start)) if by_hand else None
    taken_out = after.start - before.end
    bound = before.recording == after.recording and taken_out >= 0
    if wanted is None:
        if not bound or taken_out >= edition.crossfade:
            return _BY_ITSELF if edition.crossfade == CROSSFADE else Splice(edition.crossfade)
        return Splice(taken_out)
    if not bound:
        return wanted
    crossfade = min(wanted.crossfade, taken_out)
    room = taken_out - crossfade
    reach = min(wanted.before, room)
    return replace(wanted, crossfade=crossfade, before=reach, after=min(wanted.after, room - reach))


_BY_ITSELF = Splice()


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
            span.shape_in if span.fade_in and span.at >= begin else "",
            span.shape_out if span.fade_out and span.until <= end else "",
            *_levels_heard(plan, span, begin, end),
        )
        for span in plan.between(begin, end)
    ]
    if plan.levels.tracks:
        state += repr(plan.levels.tracks)
    return hashlib.sha256(f"{state}{heard!r}".encode()).hexdigest()[:24]


def _levels_heard(plan: Plan, span: Span, begin: Ticks, end: Ticks) -> tuple[Level, ...]:
    start = span.start + max(begin, span.at) - span.at
    until = span.start + min(end, span.until) - span.at
    return tuple(plan.levels.within(span.recording, start - LEVEL_FADE, until + LEVEL_FADE)) if plan.levels.stretches else ()


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
