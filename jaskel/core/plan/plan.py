"""The plan: compiled from an edition and its material by one pure function.

Where two spans meet is a *splice*. Its crossfade is made of the sound that was taken out: the span before plays on for the
length of the crossfade while the next one fades in ahead of its first word. So the words on both sides keep every sample of
their own, and a splice adds its crossfade to the running time, but never more than was taken out there. A splice may be set by
hand: longer, of another shape, further into what was taken out, or with the picture going over earlier or later than the sound.

All that is made is made from the plan: :meth:`Plan.sound` and :meth:`Plan.picture` give slices of it, :attr:`Plan.cues` the
captions. A slice has a digest, which only changes when what is in it does.
"""

from __future__ import annotations

import hashlib
import itertools
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from jaskel.core.captions.cues import NOBODY, Cue, cues
from jaskel.core.captions.look import Look
from jaskel.core.captions.rules import Rules
from jaskel.core.captions.screens import Moment, screens
from jaskel.core.captions.second import Texts, in_texts, with_second
from jaskel.core.captions.words import ProgrammeWord, programme_words
from jaskel.core.edition import Edition, Run
from jaskel.core.marks.bed import Bed
from jaskel.core.marks.bleep import Bleep
from jaskel.core.marks.caption_look import looks_in
from jaskel.core.marks.caption_second import CaptionSecond
from jaskel.core.marks.captions import caption_rules
from jaskel.core.marks.chain import ChainHere, ChainMark, chains, chains_wanted
from jaskel.core.marks.cutaway import Cutaway
from jaskel.core.marks.graphic import cards_of
from jaskel.core.marks.level import Fader, Level, Pan, faders, pans
from jaskel.core.marks.loudness import loudness_of
from jaskel.core.marks.mark import NO_MARKS, Mark
from jaskel.core.marks.splice import CROSSFADE, Splice, SpliceMark, by_place
from jaskel.core.picture.closer import Closer
from jaskel.core.picture.framing import Box
from jaskel.core.picture.graphic import Overlay
from jaskel.core.picture.shots import Shot
from jaskel.core.plan.beds import PlacedBed, ducked, moved, placed_beds, spans_of, spoken
from jaskel.core.plan.cameras import aims_in
from jaskel.core.plan.clear import clear_of, faces_seen
from jaskel.core.plan.cutaways import PlacedCutaway, cutaways_in, sounds_of
from jaskel.core.plan.graphics import overlays_of
from jaskel.core.plan.joins import PlacedJoin, joins_in, with_joins
from jaskel.core.plan.layers import frame_of, layers_of, with_looks
from jaskel.core.plan.material import BARE, Material
from jaskel.core.plan.picture import AS_IT_COMES, Frame, Layer, Outlet, PictureSlice
from jaskel.core.plan.scenes import Over
from jaskel.core.plan.shots import closer_in, parted, shots_in
from jaskel.core.plan.sound import Desk, SoundSlice, TrackSpan
from jaskel.core.plan.sound_picture import with_sound_picture
from jaskel.core.plan.span import Span
from jaskel.core.sound.bus import REACH, Bus
from jaskel.core.sound.processor import by_words
from jaskel.core.sound.ride import Ride, between
from jaskel.core.timebase import RATE, Ticks

NOTHING = Edition()

SOUNDING: tuple[type[Mark], ...] = (Level, Fader, Pan, ChainMark, ChainHere, Bleep, Bed, Cutaway)
"""Marks that change how something sounds; splices are in the spans."""


@dataclass(frozen=True)
class Plan:
    """Spans in order of the programme; each overlaps the next by exactly the crossfade they share.

    Attributes
    ----------
    placed
        The beds: what begins before the first span, or goes on after the last, makes the programme longer.
    outlet
        What the place it goes to asks of its pictures.
    """

    spans: tuple[Span, ...] = ()
    edition: Edition = NOTHING
    material: Material = BARE
    placed: tuple[PlacedBed, ...] = ()
    outlet: Outlet = AS_IT_COMES

    @property
    def begins(self) -> Ticks:
        """Where the first span begins: later than zero where a bed begins before it."""
        return self.spans[0].at if self.spans else 0

    @property
    def ends(self) -> Ticks:
        """Where the last span ends."""
        return self.spans[-1].until if self.spans else 0

    @cached_property
    def length(self) -> Ticks:
        """Running time of the programme."""
        return max((self.ends, *(each.until for each in self.placed))) if self.spans else 0

    @cached_property
    def _starts(self) -> list[Ticks]:
        return [span.at for span in self.spans]

    @cached_property
    def _handovers(self) -> list[Ticks]:
        return [span.handover for span in self.spans]

    @cached_property
    def _laid(self) -> list[Ticks]:
        return [span.laid for span in self.spans]

    def between(self, begin: Ticks, end: Ticks) -> tuple[Span, ...]:
        """The spans that sound in a stretch of the programme."""
        first = max(0, bisect_right(self._starts, begin) - 2)
        return tuple(s for s in self.spans[first : bisect_right(self._starts, end)] if s.at < end and s.until > begin)

    def span_at(self, at: Ticks) -> Span | None:
        """The span that leads at ``at``: crossfades hand over in their middle. None outside the programme."""
        index = bisect_right(self._handovers, at) - 1
        return self.spans[index] if 0 <= at < self.ends and index >= 0 else None

    def splices(self) -> tuple[Ticks, ...]:
        """Places in the programme where two spans meet."""
        return tuple(self._handovers[1:])

    def heard(self, begin: Ticks, end: Ticks) -> tuple[Ticks, Ticks] | None:
        """From-to in the programme of what lies between two laid times, or None where none of it sounds.

        Crossfades do not count: they are made of what was taken out.
        """
        first = max(0, bisect_right(self._laid, begin) - 1)
        found: list[tuple[Ticks, Ticks]] = []
        for span in self.spans[first : bisect_left(self._laid, end)]:
            to_programme = span.clear_from - span.laid
            stretch = max(begin + to_programme, span.clear_from), min(end + to_programme, span.clear_to)
            if stretch[0] < stretch[1]:
                found.append(stretch)
        return (found[0][0], found[-1][1]) if found else None

    def heard_in_order(self) -> Callable[[Ticks, Ticks], tuple[Ticks, Ticks] | None]:
        """What :meth:`heard` says of stretches that begin one after the other; quicker for many."""
        edges = [(span.laid, span.laid + span.clear_to - span.clear_from, span.clear_from) for span in self.spans]
        at = 0

        def heard(begin: Ticks, end: Ticks) -> tuple[Ticks, Ticks] | None:
            nonlocal at
            while at < len(edges) and edges[at][1] <= begin:
                at += 1
            if at == len(edges) or end <= edges[at][0]:
                return None
            laid, until, clear = edges[at]
            if laid <= begin and end <= until:
                return clear + begin - laid, clear + end - laid
            return self.heard(begin, end)

        return heard

    def programme_at(self, laid: Ticks) -> Ticks:
        """Where in the programme a laid time sounds; for what does not sound, where the next that does begins."""
        index = bisect_right(self._laid, laid) - 1
        if index >= 0 and laid < (span := self.spans[index]).laid + span.until - span.at:
            return span.at + laid - span.laid
        return self.spans[index + 1].at if index + 1 < len(self.spans) else self.ends

    def laid_at(self, at: Ticks) -> Ticks:
        """The laid time that sounds at a place of the programme."""
        span = self.span_at(max(self.begins, min(at, self.ends - 1)))
        return span.laid + at - span.at if span else 0

    @cached_property
    def _desk(self) -> Desk:
        marks = self.edition.marks
        return Desk(self.material, marks, faders(marks), pans(marks), chains(marks))

    @cached_property
    def beds(self) -> tuple[TrackSpan, ...]:
        """What sounds under the words, in the programme's time."""
        music = (span for each in self.placed for span in spans_of(each, self.material, self._spoken))
        return (*music, *sounds_of(self.cutaways))

    @cached_property
    def _spoken(self) -> list[tuple[Ticks, Ticks]]:
        """Stretches of the programme under whose words beds go down."""
        words = self.words if any(each.bed.duck for each in self.placed) else ()
        return spoken([(word.start, word.end) for word in words])

    def ridden(self, placed: PlacedBed) -> Ride:
        """How a bed is ridden from its beginning to its end: places in the programme, and decibels."""
        return between(ducked(self._spoken, placed.bed), placed.at, placed.until, 0) if placed.bed.duck else ()

    @property
    def bus(self) -> Bus | None:
        """What the mix goes through."""
        loudness = loudness_of(self.edition.marks)
        return loudness.bus if loudness else None

    def sound(self, begin: Ticks, end: Ticks) -> SoundSlice:
        """What is heard from ``begin`` to ``end``."""
        bus = self.bus
        return self.mixed(begin, end, bus, REACH if bus else 0)

    def mixed(self, begin: Ticks, end: Ticks, bus: Bus | None = None, around: Ticks = 0) -> SoundSlice:
        """The same, through another bus or none."""
        first, last = begin - around, end + around
        words = self._desk.parts(self.between(first, last), first, last)
        under = tuple(part for span in self.beds if (part := span.part(first, last)))
        return SoundSlice(end - begin, words + under, bus, around)

    @cached_property
    def unlevelled(self) -> str:
        """A name for all that is heard before the bus: what was measured of a sound holds as long as its name is this.

        It is made from all that the sound is made from, much more quickly than all its slices would be.
        """
        name = hashlib.sha256()
        sources = {source: str(number) for number, source in enumerate(self.edition.sources)}
        name.update(repr([*sources]).encode())
        for span in self.spans:
            fades = f"{span.fade_in} {span.fade_out} {span.shape_in} {span.shape_out}"
            name.update(f"{sources[span.source]} {span.start} {span.end} {span.at} {fades};".encode())
        marks = self.edition.marks
        name.update(repr([marks.all(kind) for kind in SOUNDING]).encode())
        tracks = [(each, self.material.sounding(each)) for each in self.edition.used]
        name.update(repr((tracks, sorted(self.material.processed), self.placed, self._spoken, self._ridden_by)).encode())
        return name.hexdigest()[:24]

    @property
    def _ridden_by(self) -> list[tuple[str, list[tuple[Ticks, Ticks, str | None]]]]:
        """The words by which tracks are ridden, or that say whose turn it is in one of several voices."""
        marks = self.edition.marks
        voiced = any(each.voice for kind in (ChainMark, Fader, Pan) for each in marks.all(kind))
        if not voiced and not any(by_words(chain) for _, chain in chains_wanted(marks)):
            return []
        said = self.material.transcripts
        return [(name, [(word.start, word.end, word.voice) for word in said[name].words]) for name in sorted(said)]

    @cached_property
    def layers(self) -> tuple[Layer, ...]:
        """What is seen, one after the other, from the first tick to the last."""
        return tuple(with_joins(self.cuts, self.joins)) if self.joins else self.cuts

    @cached_property
    def cuts(self) -> tuple[Layer, ...]:
        """The same where every picture is cut to the next."""
        over = Over(self.closer, self.cutaways, aims_in(self.edition, self.heard))
        shots = parted(self.shots, over.edges)
        found = layers_of(self.spans, self.material, self.length, self.frame, shots, self.edition.marks, over)
        if self.material.style.draws_voices:
            found = tuple(with_sound_picture(found, self.spans, self.words, self.material, self.material.numbers))
        looks = cards_of(self.edition.marks)
        return tuple(with_looks(found, looks)) if looks else found

    @cached_property
    def joins(self) -> tuple[PlacedJoin, ...]:
        """Where pictures go over into one another."""
        return joins_in(self.edition, self.cuts, self.programme_at, self.frame)

    @cached_property
    def cutaways(self) -> tuple[PlacedCutaway, ...]:
        """What lies over the picture of who speaks."""
        return tuple(cutaways_in(self.edition, self.material, self.programme_at))

    @cached_property
    def shots(self) -> tuple[Shot, ...]:
        """Who is seen, from the first tick to the last."""
        return shots_in(self.edition, lambda: self.words, self.heard, self.length)

    @cached_property
    def closer(self) -> tuple[Closer, ...]:
        """Where the picture comes closer."""
        return closer_in(self.edition, self.heard)

    @cached_property
    def frame(self) -> Frame:
        """Size, shape and rate of the picture."""
        return self.outlet.of(frame_of(self.spans, self.edition.shape, self.material), self.edition.shape)

    @cached_property
    def overlays(self) -> tuple[Overlay, ...]:
        """What is drawn over the picture, later ones over earlier ones."""
        return overlays_of(
            self.edition, self.material, self.heard, self.layers, self.frame, self.shots, self.cutaways, self.length
        )

    def layer_at(self, at: Ticks) -> Layer | None:
        """What is seen at ``at``; None outside the programme."""
        index = bisect_right(self.layers, at, key=lambda layer: layer.begin) - 1
        return self.layers[index] if 0 <= at < self.length else None

    def picture(self, begin: Ticks, end: Ticks) -> PictureSlice:
        """What is seen from ``begin`` to ``end``."""
        first = max(0, bisect_right(self.layers, begin, key=lambda layer: layer.begin) - 1)
        last = bisect_left(self.layers, end, key=lambda layer: layer.begin)
        return PictureSlice(end - begin, self.frame, tuple(each.part(begin, end) for each in self.layers[first:last]))

    @cached_property
    def words(self) -> tuple[ProgrammeWord, ...]:
        """The words that are heard; one whose voice is muted through all of it is not."""
        return self.words_with(muted=False)

    def words_with(self, *, muted: bool) -> tuple[ProgrammeWord, ...]:
        """The words that are heard, or with those that are ``muted``."""
        carriers = None if muted else self.material.carriers
        return programme_words(self.edition, self.material.transcripts, self.heard_in_order(), carriers)

    @cached_property
    def cues(self) -> tuple[Cue, ...]:
        """The captions, without names of voices."""
        return self.captions()

    def captions(self, names: Mapping[str, str] = NOBODY, *, muted: bool = False) -> tuple[Cue, ...]:
        """The captions by the edition's rules; ``names`` are those of voices, ``muted`` words count only if asked for."""
        words = self.words_with(muted=True) if muted else self.words
        made = cues(words, self.length, self.caption_rules, names, self.caption_look)
        return with_second(made, self.caption_rules) if self.edition.marks.all(CaptionSecond) else made

    @property
    def caption_rules(self) -> Rules:
        """The rules that captions keep: the edition's, or else those of its show."""
        return caption_rules(self.edition.marks, self.material.captions.rules)

    @property
    def caption_look(self) -> Look:
        """The look of captions that have no other: the edition's, or else that of its show."""
        return looks_in(self.edition.marks).all or self.material.captions.look

    def screens(self, names: Mapping[str, str] = NOBODY, texts: Texts = "both") -> tuple[Moment, ...]:
        """What is drawn of the captions, from when on, in the looks and languages of the edition."""
        return tuple(screens(in_texts(self.clear(self.captions(names)), texts)))

    def clear(self, cues: Sequence[Cue]) -> tuple[Cue, ...]:
        """Captions where they hide neither lower thirds nor, if there is room elsewhere, faces."""
        return clear_of(cues, self.overlays, self.frame.width / self.frame.height, self.faces_at)

    def faces_at(self, at: Ticks) -> tuple[Box, ...]:
        """Where faces are in the frame at a place of the programme."""
        return tuple(faces_seen(self.layer_at(at), at, self.material.faces)) if self.material.faces else ()

    @cached_property
    def blocks(self) -> tuple[Block, ...]:
        """The programme cut into blocks, see :func:`blocks_of`."""
        return blocks_of(self)


def compile_plan(edition: Edition, material: Material = BARE, *, as_recorded: bool = False) -> Plan:
    """The plan of ``edition``, or of everything in it, as it was recorded.

    The running time is the sum of what is kept plus one crossfade for each splice, and what splices set by hand reach further.

    Examples
    --------
    >>> from jaskel.core.edition import Piece
    >>> from jaskel.core.source import Recorded
    >>> sound = Recorded("a")
    >>> struck = Piece(sound, 96_000, 144_000, kept=False)
    >>> edition = Edition.of([Piece(sound, 0, 96_000), struck, Piece(sound, 144_000, 240_000)])
    >>> compile_plan(edition).length  # four seconds, and a crossfade of 10 ms
    192480
    """
    spans: list[Span] = []
    at = 0
    if as_recorded:
        edition = replace(edition, marks=NO_MARKS)
    runs = edition.runs if as_recorded else edition.kept_runs
    by_hand = edition.marks.derived(SpliceMark, by_place)
    start_of = Splice(crossfade=0)
    for index, (source, start, end, laid) in enumerate(runs):
        end_of = _splice(edition, by_hand, runs[index], runs[index + 1]) if index + 1 < len(runs) else Splice(crossfade=0)
        begin, until = start - start_of.after - start_of.crossfade, end + end_of.before + end_of.crossfade
        spans.append(
            Span(
                source, begin, until, at, laid - start_of.after, start_of.crossfade, end_of.crossfade,
                start_of.shape, end_of.shape, start_of.lead,
            )
        )  # fmt: skip
        at += until - begin - end_of.crossfade
        start_of = end_of
    plan = Plan(tuple(spans), edition, material)
    return plan if as_recorded or not spans or not edition.marks.all(Bed) else _with_beds(plan)


def _with_beds(plan: Plan) -> Plan:
    """The plan with what lies under its words; it begins earlier where that does."""
    beds = placed_beds(plan.edition, plan.material, plan.programme_at, plan.ends)
    earlier = max(0, -min((each.at for each in beds), default=0))
    if not earlier:
        return replace(plan, placed=tuple(beds))
    later = tuple(span._replace(at=span.at + earlier) for span in plan.spans)
    return replace(plan, spans=later, placed=tuple(moved(each, earlier) for each in beds))


def _splice(edition: Edition, by_hand: Mapping[tuple[Ticks, Ticks], list[SpliceMark]], before: Run, after: Run) -> Splice:
    """How two runs are joined: as it was set, as far as what was taken out there allows."""
    wanted: Splice | None = None
    for each in by_hand.get((before.end, after.start), ()) if by_hand else ():
        if each.meeting.before == before.source and each.meeting.after == after.source:
            wanted = each.splice
    taken_out = after.start - before.end
    bound = taken_out >= 0 and (before.source is after.source or before.source == after.source)
    if wanted is None:
        if not bound or taken_out >= edition.crossfade:
            return _BY_ITSELF if edition.crossfade == CROSSFADE else Splice(edition.crossfade)
        return Splice(taken_out)
    if not bound:
        return wanted
    if wanted.crossfade + wanted.before + wanted.after <= taken_out:
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
    """A stretch of the programme that is listened to as one."""

    at: Ticks
    until: Ticks


def blocks_of(plan: Plan) -> tuple[Block, ...]:
    """The programme cut into blocks whose borders are tied to the recordings.

    A border stands wherever a span plays a multiple of :data:`BLOCK` of its recording outside crossfades, and at the first
    clear place of a span when no border has come for that long. So an edit changes the blocks it touches and leaves the
    sound of all others, and with it their digest, as they were, although they now play at another time.
    """
    borders = [0, *range(plan.begins % BLOCK, plan.begins, BLOCK)]
    for span in plan.spans:
        clear_from, clear_to = span.clear_from, span.clear_to
        if clear_from - borders[-1] >= BLOCK:
            borders.append(clear_from)
        to_recording = span.start - span.at
        first = -(-(clear_from + to_recording) // BLOCK) * BLOCK
        borders += range(first - to_recording, clear_to, BLOCK)
    borders += [*range(plan.ends, plan.length, BLOCK), plan.length]
    edges = [border for index, border in enumerate(borders) if not index or border > borders[index - 1]]
    return tuple(itertools.starmap(Block, itertools.pairwise(edges)))
