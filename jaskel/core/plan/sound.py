"""What is heard in a stretch of the programme: spans of sound, track by track.

A slice holds all that decides how it sounds, with times relative to its beginning. So its digest, made from everything in it,
names its sound wherever in the programme it comes to stand.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Literal

from jaskel.core.marks.bleep import Bleep
from jaskel.core.marks.chain import ChainHere
from jaskel.core.marks.level import LEVEL_FADE, MUTED, Level
from jaskel.core.marks.mark import Marks, strip_name, strip_parts
from jaskel.core.marks.splice import Shape
from jaskel.core.plan.material import Material
from jaskel.core.plan.span import Span
from jaskel.core.session import Track
from jaskel.core.sound.bus import Bus
from jaskel.core.sound.processor import AS_IT_IS, Chain, before_the_cut, by_words, name_of
from jaskel.core.sound.ride import Ride, between, ride_of, shared
from jaskel.core.sound.turns import Turn, turns, without
from jaskel.core.source import Recorded, RoomTone, SaidAgain
from jaskel.core.timebase import Ticks

FadeShape = Shape | Literal["as levels do"]
"""The shape of a crossfade, or that by which levels go over into one another, along a raised cosine."""

LEVELLED: FadeShape = "as levels do"
"""What takes the place of a stretch fades in as that fades out."""


@dataclass(frozen=True, slots=True)
class Feed:
    """A sound that is read: a recording's own, its clock's drift corrected, after a chain; or the room tone of that.

    With ``hertz`` it is nobody's: a steady tone of that pitch.
    """

    recording: str
    drift: float = 0.0
    chain: Chain = AS_IT_IS
    tone: bool = False
    hertz: float = 0.0


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
    pan
        From -1 (left) to 1 (right).
    envelope
        Stretches of other levels.
    ride
        Places in the slice and decibels, between which the level moves in straight lines; what was ridden by words.
    """

    feed: Feed
    start: Ticks
    at: Ticks
    length: Ticks
    fade_in: Ticks = 0
    fade_out: Ticks = 0
    shape_in: FadeShape = "equal power"
    shape_out: FadeShape = "equal power"
    decibels: float = 0.0
    pan: float = 0.0
    envelope: tuple[Envelope, ...] = ()
    ride: Ride = ()

    @property
    def until(self) -> Ticks:
        return self.at + self.length

    def part(self, begin: Ticks, end: Ticks) -> TrackSpan | None:
        """What of it sounds between two places, counted from the first of them; None where nothing does.

        A fade that is cut through stays whole, for its form depends on all of it.
        """
        fade_in = self.fade_in if self.at + self.fade_in > begin else 0
        fade_out = self.fade_out if self.until - self.fade_out < end else 0
        at = self.at if fade_in else max(self.at, begin)
        until = self.until if fade_out else min(self.until, end)
        if at >= until or self.at >= end or self.until <= begin:
            return None
        return replace(
            self,
            start=self.start + at - self.at,
            at=at - begin,
            length=until - at,
            fade_in=fade_in,
            fade_out=fade_out,
            envelope=(),
            ride=between(self.ride, at, until, -begin),
        )


@dataclass(frozen=True)
class SoundSlice:
    """All that is heard in so many ticks; ``around`` as many before and after count, too, for the limiter of the ``bus``."""

    length: Ticks
    spans: tuple[TrackSpan, ...]
    bus: Bus | None = None
    around: Ticks = 0

    @cached_property
    def digest(self) -> str:
        """A name that only its sound decides."""
        return hashlib.sha256(repr((self.length, self.spans, self.bus, self.around)).encode()).hexdigest()[:24]


Place = tuple[Ticks, Ticks, Ticks, Ticks, FadeShape, FadeShape]
"""Where a span falls in a slice: its beginning and length, and its fades with their shapes."""


BLEEP_HERTZ, BLEEP_LEVEL = 1000.0, -20.0
BLEEP_FADE: Ticks = LEVEL_FADE // 4


def _instead(patch: TrackSpan, whole: TrackSpan) -> Envelope:
    """Nothing is heard of a track where a patch is heard."""
    begin = patch.at + (LEVEL_FADE if patch.shape_in == LEVELLED else 0)
    end = patch.until - (LEVEL_FADE if patch.shape_out == LEVELLED else 0)
    # Where a patch goes on to the end of its span, no fade begins there.
    first, last = patch.at == whole.at, patch.until == whole.until
    return Envelope(begin - (LEVEL_FADE if first else 0), end + (LEVEL_FADE if last else 0), MUTED)


def _stretch(here: TrackSpan, begin: Ticks, end: Ticks, chain: Chain) -> Iterator[TrackSpan]:
    """A stretch of a span after another chain, counted from where the span begins; it is faded into and out of."""
    begin, end = max(here.at, here.at + begin - LEVEL_FADE), min(here.until, here.at + end + LEVEL_FADE)
    if begin >= end:
        return
    into, shape_in = (LEVEL_FADE, LEVELLED) if begin > here.at else (here.fade_in, here.shape_in)
    out_of, shape_out = (LEVEL_FADE, LEVELLED) if end < here.until else (here.fade_out, here.shape_out)
    yield replace(
        here, feed=replace(here.feed, chain=chain), start=here.start + begin - here.at, at=begin, length=end - begin,
        fade_in=into, fade_out=out_of, shape_in=shape_in, shape_out=shape_out,
    )  # fmt: skip


def _muted_in(span: TrackSpan) -> list[tuple[Ticks, Ticks]]:
    return [(each.begin, each.end) for each in span.envelope if each.decibels <= MUTED]


@dataclass(frozen=True)
class Desk:
    """How tracks are fed and levelled in a programme."""

    material: Material
    marks: Marks
    faders: Mapping[str, float]
    pans: Mapping[str, float]
    chains: Mapping[str, Chain]
    _rides: dict[tuple[str, str], Ride] = field(default_factory=dict)
    _turns: dict[tuple[str, str], list[Turn]] = field(default_factory=dict)

    @cached_property
    def _voiced(self) -> dict[str, set[str]]:
        """The voices within tracks that have a strip of their own."""
        found: dict[str, set[str]] = {}
        for strip in (*self.faders, *self.pans, *self.chains):
            track, voice = strip_parts(strip)
            if voice:
                found.setdefault(track, set()).add(voice)
        return found

    def parts(self, spans: Sequence[Span], begin: Ticks, end: Ticks) -> tuple[TrackSpan, ...]:
        """What is heard from ``begin`` to ``end`` of the programme of ``spans``, those that touch it."""
        return tuple(part for span in spans for part in self._parts(span, begin, end))

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
            case SaidAgain(name, home=home, track=strip):
                strip = self._strip_of(name, strip)
                for track in self.material.sounding(name):
                    yield from self._patched(name, track, self._track(name, track, span, start, place, begin, strip), start)
                for other in self.material.sounding(home) if home in self.material.sessions else ():
                    if other.recording != strip_parts(strip)[0]:  # the other microphones stay open
                        yield self._room_span(other, start, place)
            case Recorded(name):
                tracks = [
                    (track, self._track(name, track, span, start, place, begin)) for track in self.material.sounding(name)
                ]
                for track, here in tracks:
                    yield from self._patched(name, track, here, start)
                yield from self._rooms([here for _, here in tracks])
            case RoomTone(name):
                for track in self.material.sounding(name):
                    yield self._room_span(track, start, place)

    def _room_span(self, track: Track, start: Ticks, place: Place) -> TrackSpan:
        level, pan = self._level(track.recording)
        feed = Feed(track.recording, track.drift, self._chain(track.recording, track.recording))
        return TrackSpan(self._room(feed), start, *place, level, pan)

    def _strip_of(self, line: str, track: str) -> str:
        """The strip of a line said again: that of its voice, where it has one within the track."""
        said = self.material.transcripts.get(line) if self._voiced.get(track) else None
        voice = next((word.voice for word in said.words if word.voice), None) if said else None
        return strip_name(track, voice) if voice in self._voiced.get(track, ()) and voice else track

    def _level(self, strip: str) -> tuple[float, float]:
        """Level and place of a strip; the level of a voice is on top of its track's, its place its own or the track's."""
        track, voice = strip_parts(strip)
        level, pan = self.faders.get(track, 0.0), self.pans.get(track, 0.0)
        if not voice:
            return level, pan
        return level + self.faders.get(strip, 0.0), self.pans.get(strip, pan)

    @staticmethod
    def _room(feed: Feed) -> Feed:
        return replace(feed, drift=feed.drift if feed.chain else 0.0, tone=True)

    def _track(
        self, name: str, track: Track, span: Span, start: Ticks, place: Place, begin: Ticks, strip: str | None = None
    ) -> TrackSpan:
        strip = strip or track.recording
        feed = Feed(track.recording, track.drift, self._chain(track.recording, strip))
        level, pan = self._level(strip)
        envelope = tuple(self._envelope(name, track.recording, span, start, place[1], begin))
        ride = between(self._ride(name, track, strip), start, start + place[1], place[0] - start)
        return TrackSpan(feed, start - track.offset, *place, level, pan, envelope, ride)

    def _patched(self, name: str, track: Track, here: TrackSpan, start: Ticks) -> Iterator[TrackSpan]:
        """A track, with what is heard instead of it in some stretches."""
        patches = [*self._patches(name, track, here, start), *self._voices(name, track, here, start)]
        bleeps = [*self._bleeps(name, track, here, start)]
        yield replace(here, envelope=(*here.envelope, *(_instead(each, here) for each in patches)))
        yield from patches
        yield from bleeps

    def _patches(self, name: str, track: Track, here: TrackSpan, start: Ticks) -> Iterator[TrackSpan]:
        """Stretches that go through another chain: they are faded into and out of, while the track itself is faded out."""
        for patch in self.marks.within(ChainHere, name, start - LEVEL_FADE, start + here.length + LEVEL_FADE):
            known = (track.recording, name_of(patch.chain)) in self.material.processed or not name_of(patch.chain)
            if patch.track == track.recording and known:
                yield from _stretch(here, patch.start - start, patch.end - start, before_the_cut(patch.chain))

    def _voices(self, name: str, track: Track, here: TrackSpan, start: Ticks) -> Iterator[TrackSpan]:
        """The turns of voices within a track that have a strip of their own."""
        voices = self._voiced.get(track.recording)
        if not voices:
            return
        key = name, track.recording
        if key not in self._turns:
            self._turns[key] = turns(self.material.transcripts.get(name), voices, LEVEL_FADE)
        others = self.marks.within(ChainHere, name, start - LEVEL_FADE, start + here.length + LEVEL_FADE)
        taken = [(each.start, each.end) for each in others if each.track == track.recording]
        until = start + here.length
        for turn in (each for each in self._turns[key] if each.start < until + LEVEL_FADE and each.end > start - LEVEL_FADE):
            strip = strip_name(track.recording, turn.voice)
            level, pan = self._level(strip)
            for part in without(turn, taken, LEVEL_FADE):
                for each in _stretch(here, part.start - start, part.end - start, self._chain(track.recording, strip)):
                    first = start + each.at - here.at
                    ride = between(self._ride(name, track, strip), first, first + each.length, each.at - first)
                    yield replace(each, decibels=level, pan=pan, ride=ride)

    def _bleeps(self, name: str, track: Track, here: TrackSpan, start: Ticks) -> Iterator[TrackSpan]:
        for bleep in self.marks.within(Bleep, name, start, start + here.length):
            begin, end = max(here.at, here.at + bleep.start - start), min(here.until, here.at + bleep.end - start)
            if bleep.track == track.recording and begin < end:
                fade = min(BLEEP_FADE, (end - begin) // 2)
                tone = Feed("", hertz=BLEEP_HERTZ)
                yield TrackSpan(tone, here.start + begin - here.at, begin, end - begin, fade, fade, decibels=BLEEP_LEVEL)

    def _rooms(self, tracks: Sequence[TrackSpan]) -> Iterator[TrackSpan]:
        """Where all tracks are muted the room of the first goes on: without it the sound drops dead."""
        if not tracks or not all(each.envelope for each in tracks):
            return
        here, *others = tracks
        for begin, end in _muted_in(here):
            for each in others:
                found = [(max(begin, a), min(end, b)) for a, b in _muted_in(each) if a < end and b > begin]
                begin, end = found[0] if found else (0, 0)
            begin, end = max(here.at, begin - LEVEL_FADE), min(here.until, end + LEVEL_FADE)
            if begin >= end:
                continue
            into = LEVEL_FADE if begin > here.at else here.fade_in
            out_of = LEVEL_FADE if end < here.until else here.fade_out
            start = here.start + begin - here.at
            room, fades = self._room(here.feed), (into, out_of)
            yield TrackSpan(room, start, begin, end - begin, *fades, decibels=here.decibels, pan=here.pan)

    def _chain(self, recording: str, strip: str) -> Chain:
        chain = self._whole_chain(strip)
        return before_the_cut(chain) if (recording, name_of(chain)) in self.material.processed else AS_IT_IS

    def _whole_chain(self, strip: str) -> Chain:
        """The chain of a strip; a voice within a track without one goes through the track's."""
        return self.chains.get(strip) or self.chains.get(strip_parts(strip)[0], AS_IT_IS)

    def _ride(self, name: str, track: Track, strip: str) -> Ride:
        """How a track is ridden by what is said in it, on the clock of what it plays in."""
        riders = by_words(self._whole_chain(strip))
        if not riders:
            return ()
        key = name, strip
        if key not in self._rides:
            voice = strip_parts(strip)[1]
            own, others = shared(self.material.transcripts.get(name), replace(track, voice=voice) if voice else track)
            loudness = self.material.loudness.get(strip_name(track.recording, voice))
            self._rides[key] = ride_of(riders, own, others, track, loudness)
        return self._rides[key]

    def _envelope(self, name: str, track: str, span: Span, start: Ticks, length: Ticks, begin: Ticks) -> Iterator[Envelope]:
        to_slice = span.at - span.start - begin
        for level in self.marks.within(Level, name, start - LEVEL_FADE, start + length + LEVEL_FADE):
            if level.track == track:
                yield Envelope(level.start + to_slice, level.end + to_slice, level.decibels)
        for bleep in self.marks.within(Bleep, name, start - LEVEL_FADE, start + length + LEVEL_FADE):
            if bleep.track == track:
                yield Envelope(bleep.start + to_slice, bleep.end + to_slice, MUTED)
