"""The moving drawing of the voice, in its colour: on the episode's card where nothing was filmed, or in a framing."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.plan.material import Material
from jaskel.core.plan.picture import Layer, Said, Scene, SoundPicture
from jaskel.core.plan.span import Span
from jaskel.core.source import OPENING, Recorded, SaidAgain
from jaskel.core.timebase import RATE, Ticks

PEAK: Ticks = RATE // 100
"""Envelopes of recordings have a value so often."""

EVERY: Ticks = RATE // 25
"""The drawing changes so often."""

PART: Ticks = 10 * RATE
"""So long is a layer of it at most: the monitor shows each as a short film."""

SILENT = b"\0"


def with_sound_picture(
    layers: Sequence[Layer],
    spans: Sequence[Span],
    words: Sequence[ProgrammeWord],
    material: Material,
    voices: Mapping[str, int],
) -> Iterator[Layer]:
    """The layers with a drawing of the voice: where the card is seen because nothing was filmed, and in framings that want it.

    ``voices`` are the numbers by which voices have their colours.
    """
    handovers = [span.handover for span in spans]
    said = [*_said(words, material, voices)]
    begins = [each.at for each in said]
    for layer in layers:
        span = spans[max(0, bisect_right(handovers, layer.begin) - 1)] if spans else None
        shown = layer.shown
        framed = isinstance(shown, Scene) and shown.voice is not None
        alone = shown == OPENING and material.style.pulse != "none"
        if not (framed or alone) or span is None or not isinstance(span.source, Recorded):
            yield layer
            continue
        for begin in range(layer.begin, layer.until, PART):
            until = min(layer.until, begin + PART)
            first = max(0, bisect_right(begins, begin) - 1)
            here = tuple(each._replace(at=each.at - begin) for each in said[first : bisect_right(begins, until)])
            drawn = SoundPicture(material.style.pulse, levels_of(span, begin, until, material), here)
            if isinstance(shown, Scene) and shown.voice:
                box, bare = shown.voice
                moved = shown.later(begin - layer.begin)
                yield Layer(begin, until, replace(moved, voice=(box, replace(drawn, form=bare.form))))
            else:
                yield Layer(begin, until, drawn)


def levels_of(span: Span, begin: Ticks, until: Ticks, material: Material) -> bytes:
    """How loud a span is from place to place of the programme, every :data:`EVERY`, as envelopes have it."""
    source = span.source
    assert isinstance(source, Recorded)
    start = span.start + begin - span.at
    count = -(-(until - begin) // EVERY)
    found = SILENT * count
    step = EVERY // PEAK
    for track in material.sounding(source.recording):
        peaks = material.envelopes.get(track.recording, b"")
        first = (start if isinstance(source, SaidAgain) else track.to_recording(start)) // PEAK
        part = (SILENT * min(count, max(0, -first // step)) + peaks[max(0, first) :: step][:count])[:count].ljust(count, SILENT)
        found = bytes(map(max, found, part))
    return found


def _said(words: Sequence[ProgrammeWord], material: Material, voices: Mapping[str, int]) -> Iterator[Said]:
    """Who speaks from when on."""
    last: str | None = None
    for each in words:
        voice = each.word.voice or ""
        if voice != last:
            yield Said(each.start, voices.get(voice, 0), material.people.get(voice, ("", ""))[0])
            last = voice
