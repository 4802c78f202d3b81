"""Who is seen in the programme: shots that follow the voices, with those that somebody chose in their places."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from itertools import pairwise

from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.edition import Edition
from jaskel.core.marks.mark import StretchMark
from jaskel.core.marks.shot import PunchIn, ShotHere, shot_rules
from jaskel.core.picture.closer import Closer
from jaskel.core.picture.shots import Shot, follow, overruled
from jaskel.core.places import Places
from jaskel.core.timebase import RATE, Ticks

Heard = Callable[[Ticks, Ticks], tuple[Ticks, Ticks] | None]
"""Where in the programme something sounds that lies between two laid times."""


def shots_in(edition: Edition, words: Callable[[], Sequence[ProgrammeWord]], heard: Heard, length: Ticks) -> tuple[Shot, ...]:
    """The shots of a programme, from its first tick to its last; ``words`` are only asked for where shots follow them."""
    rules, by_hand = shot_rules(edition.marks), edition.marks.all(ShotHere)
    derived = follow(words(), length, rules) if rules.follow else (Shot(0, length),)
    if not by_hand:
        return derived
    places = Places(edition)
    chosen = [
        Shot(*found, mark.framing, mark.voices, by_hand=True) for mark in by_hand for found in heard_of(places, mark, heard)
    ]
    return overruled(derived, _joined(chosen), rules.shortest)


def closer_in(edition: Edition, heard: Heard) -> tuple[Closer, ...]:
    """Where the picture comes closer, in order."""
    marks = edition.marks.all(PunchIn)
    if not marks:
        return ()
    places = Places(edition)
    found = [Closer(*place, mark.percent / 100, mark.slowly) for mark in marks for place in heard_of(places, mark, heard)]
    return tuple(sorted(found))


def parted(shots: Sequence[Shot], edges: Iterable[Ticks]) -> tuple[Shot, ...]:
    """Shots parted at edges, where the picture comes closer or a cutaway begins or ends."""
    edges = sorted({*edges})
    if not edges:
        return tuple(shots)
    out = []
    for shot in shots:
        inside = [shot.begin, *(edge for edge in edges if shot.begin < edge < shot.until), shot.until]
        out += [Shot(a, b, shot.framing, shot.voices, shot.by_hand) for a, b in pairwise(inside)]
    return tuple(out)


def heard_of(places: Places, mark: StretchMark, heard: Heard) -> list[tuple[Ticks, Ticks]]:
    """Where in the programme the stretch of a mark is heard, in order of the page."""
    return [found for laid in places.of(mark.stretch) if (found := heard(*laid))]


def _joined(shots: Sequence[Shot]) -> list[Shot]:
    """Shots that show the same, and between which only a crossfade lies, as one."""
    out: list[Shot] = []
    for shot in sorted(shots, key=lambda each: each.begin):
        last = out[-1] if out else None
        if last and (last.framing, last.voices) == (shot.framing, shot.voices) and shot.begin - last.until <= NEAR:
            out[-1] = Shot(last.begin, shot.until, shot.framing, shot.voices, by_hand=True)
        else:
            out.append(shot)
    return out


NEAR: Ticks = RATE // 10
"""What crossfades take between two stretches that follow each other."""
