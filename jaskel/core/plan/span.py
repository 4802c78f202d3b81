"""Spans: the stretches that follow one another in the programme."""

from __future__ import annotations

from typing import NamedTuple

from jaskel.core.marks.splice import Shape
from jaskel.core.source import Source
from jaskel.core.timebase import Ticks


class Span(NamedTuple):
    """A stretch of a source that plays. A plain tuple: there are thousands of them in every plan.

    Attributes
    ----------
    source, start, end
        What plays, in ticks of it, crossfades included. ``start`` may lie before a recording begins and ``end`` after it
        ends; there is silence there.
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

    source: Source
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
        return self.at + self.end - self.start

    @property
    def clear_from(self) -> Ticks:
        """Where in the programme the fade in is over."""
        return self.at + self.fade_in

    @property
    def clear_to(self) -> Ticks:
        """Where in the programme the fade out begins."""
        return self.at + self.end - self.start - self.fade_out

    @property
    def handover(self) -> Ticks:
        """Where in the programme this span takes over from the one before: the middle of the crossfade."""
        return self.at + self.fade_in // 2
