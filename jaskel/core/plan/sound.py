"""What is heard in a stretch of the programme: spans of sound, track by track.

A slice holds all that decides how it sounds, with times relative to its beginning. So its digest, made from everything in it,
names its sound wherever in the programme it comes to stand.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from jaskel.core.marks.level import LEVEL_FADE, Level
from jaskel.core.marks.mark import Marks
from jaskel.core.marks.splice import Shape
from jaskel.core.plan.material import Material
from jaskel.core.plan.span import Span
from jaskel.core.sound.processor import AS_IT_IS, Chain, heard, name_of
from jaskel.core.source import Recorded, RoomTone
from jaskel.core.timebase import Ticks


@dataclass(frozen=True, slots=True)
class Feed:
    """A sound that is read: a recording's own, its clock's drift corrected, having gone through a chain; or its room tone."""

    recording: str
    drift: float = 0.0
    chain: Chain = AS_IT_IS
    tone: bool = False


@dataclass(frozen=True, slots=True)
class Envelope:
    """From ``begin`` to ``end`` of a slice a track is at ``decibels``; it goes over to what is around outside of that."""

    begin: Ticks
    end: Ticks
    decibels: float


@dataclass(frozen=True, slots=True)
class TrackSpan:
    """A stretch of one track that sounds.

    Attributes
    ----------
    feed, start
        What sounds, and from where on in it; there is silence before it begins and after it ends.
    at, length
        Where that falls in the slice; it may begin before the slice where a crossfade is cut through.
    fade_in, fade_out, shape_in, shape_out
        Length and form of the crossfades at its ends, 0 where there is none within the slice.
    decibels
        The level of the whole track.
    envelope
        Stretches of other levels.
    """

    feed: Feed
    start: Ticks
    at: Ticks
    length: Ticks
    fade_in: Ticks = 0
    fade_out: Ticks = 0
    shape_in: Shape = "equal power"
    shape_out: Shape = "equal power"
    decibels: float = 0.0
    envelope: tuple[Envelope, ...] = ()

    @property
    def until(self) -> Ticks:
        return self.at + self.length


@dataclass(frozen=True)
class SoundSlice:
    """All that is heard in so many ticks."""

    length: Ticks
    spans: tuple[TrackSpan, ...]

    @cached_property
    def digest(self) -> str:
        """A name that only its sound decides."""
        return hashlib.sha256(repr((self.length, self.spans)).encode()).hexdigest()[:24]


@dataclass(frozen=True)
class Desk:
    """How tracks are fed and levelled in a programme."""

    material: Material
    marks: Marks
    faders: Mapping[str, float]
    chains: Mapping[str, Chain]

    def slice(self, spans: Sequence[Span], begin: Ticks, end: Ticks) -> SoundSlice:
        """What is heard from ``begin`` to ``end`` of the programme of ``spans``, those that touch it."""
        return SoundSlice(end - begin, tuple(part for span in spans for part in self._parts(span, begin, end)))

    def _parts(self, span: Span, begin: Ticks, end: Ticks) -> Iterator[TrackSpan]:
        # A crossfade that is cut through stays whole, for its form depends on all of it.
        fade_in = span.fade_in if span.clear_from > begin else 0
        fade_out = span.fade_out if span.clear_to < end else 0
        at = span.at if fade_in else max(span.at, begin)
        until = span.until if fade_out else min(span.until, end)
        if at >= until:
            return
        shapes = span.shape_in if fade_in else "equal power", span.shape_out if fade_out else "equal power"
        place = at - begin, until - at, fade_in, fade_out, *shapes
        start = span.start + at - span.at
        match span.source:
            case Recorded(name):
                for track in self.material.sounding(name):
                    feed = Feed(track.recording, track.drift, self._chain(track.recording))
                    envelope = tuple(self._envelope(name, track.recording, span, start, until - at, begin))
                    yield TrackSpan(feed, start - track.offset, *place, self.faders.get(track.recording, 0.0), envelope)
            case RoomTone(name):
                for track in self.material.sounding(name):
                    yield TrackSpan(Feed(track.recording, tone=True), start, *place)

    def _chain(self, recording: str) -> Chain:
        chain = self.chains.get(recording, AS_IT_IS)
        return heard(chain) if (recording, name_of(chain)) in self.material.processed else AS_IT_IS

    def _envelope(self, name: str, track: str, span: Span, start: Ticks, length: Ticks, begin: Ticks) -> Iterator[Envelope]:
        to_slice = span.at - span.start - begin
        for level in self.marks.within(Level, name, start - LEVEL_FADE, start + length + LEVEL_FADE):
            if level.track == track:
                yield Envelope(level.start + to_slice, level.end + to_slice, level.decibels)
