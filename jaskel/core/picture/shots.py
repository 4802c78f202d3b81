"""Shots that follow who speaks, derived from the words and their voices, never from levels.

The programme is parted at long rests, and the shots of each part are chosen by themselves: a cut derives them anew only between
the rests around it. Within a part they are the cheapest way through its turns of speech that keeps every shot at least so long
(dynamic programming): it costs that somebody speaks unseen, less that both are shown while one speaks, and something to change.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import accumulate, groupby, pairwise
from math import inf
from typing import NamedTuple

from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.picture.framing import SINGLE, FramingName
from jaskel.core.picture.rules import ShotRules
from jaskel.core.timebase import RATE, Ticks

LONG_REST: Ticks = RATE * 3 // 2
"""The programme is parted at rests this long."""

SHORT_TURN: Ticks = RATE
"""Nobody needs to be seen for a "yes"."""

BRIEF, TOGETHER, CHANGE = 0.2, 0.35, 0.5
"""What costs: a second of a short turn unseen, a second of one of both who are shown together, and a change, where a second of
somebody who speaks unseen costs 1."""

QUICK_TURNS, QUICK_WITHIN = 4, 6 * RATE
"""So many turns in so long a time are quick: both are shown."""

HELD: Ticks = 22 * RATE
"""A shot that would be longer is broken by a reaction."""

REACTION: Ticks = RATE * 5 // 2


@dataclass(frozen=True, slots=True)
class Shot:
    """Who is seen from ``begin`` to ``until`` of the programme, and how; without ``voices`` it is the first camera."""

    begin: Ticks
    until: Ticks
    framing: FramingName = SINGLE
    voices: tuple[str, ...] = ()
    by_hand: bool = False


class Turn(NamedTuple):
    """Somebody speaks; ``laughs`` where it is laughter."""

    voice: str
    begin: Ticks
    end: Ticks
    laughs: bool = False


def turns_of(words: Sequence[ProgrammeWord]) -> list[Turn]:
    """Words of one voice after the other, parted where another speaks, laughs, or nobody does for long."""
    turns: list[Turn] = []
    for item in words:
        laughs = item.word.is_sound
        if laughs and "laugh" not in item.word.text.lower():
            continue
        last = turns[-1] if turns else None
        voice = item.word.voice or ""
        if last and (last.voice, last.laughs) == (voice, laughs) and item.start - last.end < LONG_REST:
            turns[-1] = last._replace(end=max(last.end, item.end))
        else:
            turns.append(Turn(voice, item.start, item.end, laughs))
    return turns


def follow(words: Sequence[ProgrammeWord], length: Ticks, rules: ShotRules) -> tuple[Shot, ...]:
    """The shots of a programme, from its first tick to its last."""
    turns = turns_of(words)
    if not turns:
        return (Shot(0, length),)
    made: list[Shot] = []
    parts = [*_parts(turns, length, rules)]
    for begin, until, part in parts:
        relative = tuple(turn._replace(begin=turn.begin - begin, end=turn.end - begin) for turn in part)
        for shot in _chosen(relative, until - begin, rules):
            shot = replace(shot, begin=shot.begin + begin, until=shot.until + begin)
            if made and (made[-1].framing, made[-1].voices) == (shot.framing, shot.voices):
                made[-1] = replace(made[-1], until=shot.until)
            else:
                made.append(shot)
    return tuple(_with_reactions(made, words, rules)) if rules.reactions else tuple(made)


def _parts(turns: Sequence[Turn], length: Ticks, rules: ShotRules) -> Iterator[tuple[Ticks, Ticks, list[Turn]]]:
    """The programme parted at long rests, no part shorter than a shot."""
    begin, part = 0, [turns[0]]
    for before, after in pairwise(turns):
        at = _change(before, after, rules)
        if after.begin - before.end >= LONG_REST and at - begin >= rules.shortest and length - at >= rules.shortest:
            yield begin, at, part
            begin, part = at, []
        part.append(after)
    yield begin, length, part


def _change(before: Turn, after: Turn, rules: ShotRules) -> Ticks:
    """Where a shot goes over from one who speaks to the next."""
    return after.begin - max(0, min(rules.lead, after.begin - before.end))


@lru_cache(4096)
def _chosen(turns: tuple[Turn, ...], length: Ticks, rules: ShotRules) -> tuple[Shot, ...]:
    """The shots of a part of the programme."""
    edges = [0, *(_change(a, b, rules) for a, b in pairwise(turns)), length]
    for number in range(1, len(edges)):
        edges[number] = min(length, max(edges[number], edges[number - 1]))
    voices = [*dict.fromkeys(turn.voice for turn in turns)]
    states: list[str | None] = [*voices, *([None] if rules.together and len(voices) > 1 else [])]
    quick = _quick(turns)
    sums = [[0.0, *accumulate(_cost(turn, state, q) for turn, q in zip(turns, quick, strict=True))] for state in states]
    shots = []
    for shown, group in groupby(_cheapest(edges, sums, rules.shortest), key=lambda each: each[2]):
        run = [*group]
        i, j = run[0][0], run[-1][1]
        shots.append(_shot(states[shown], turns[i:j], edges[i], edges[j], voices, rules))
    return tuple(shots)


def _cheapest(edges: Sequence[Ticks], sums: Sequence[Sequence[float]], shortest: Ticks) -> list[tuple[int, int, int]]:
    """The cheapest way through turns as (first edge, last edge, what is shown).

    ``sums`` are the costs of showing something up to an edge. No stretch is shorter than ``shortest``, but for one of all.
    """
    count, states = len(edges) - 1, range(len(sums))
    # What it costs up to an edge with something shown last, where that began, and what was shown before.
    best: list[list[tuple[float, int, int]]] = [[(0.0, 0, s) for s in states]]
    for j in range(1, count + 1):
        row = [(inf, 0, 0)] * len(states)
        for i in range(j - 1, -1, -1):
            lasts = edges[j] - edges[i]
            if lasts < shortest and (i, j) != (0, count):
                continue
            before, last = min((cost, s) for s, (cost, _, _) in enumerate(best[i]))
            for s in states:
                goes_on = best[i][s][0]
                cost, previous = (goes_on, s) if goes_on <= before + CHANGE else (before + CHANGE, last)
                row[s] = min(row[s], (cost + sums[s][j] - sums[s][i], i, previous))
            # What shows the same as before goes on at no cost: nothing longer has to be looked at as one.
            if lasts > 3 * shortest and min(row)[0] < inf:
                break
        best.append(row)
    j, shown = count, min(states, key=lambda s: best[count][s][0])
    way = []
    while j > 0:
        _, i, previous = best[j][shown]
        way.append((i, j, shown))
        j, shown = i, previous
    return way[::-1]


def _shot(
    state: str | None, turns: Sequence[Turn], begin: Ticks, until: Ticks, voices: Sequence[str], rules: ShotRules
) -> Shot:
    if state is not None:
        return Shot(begin, until, SINGLE, (state,) if state else ())
    seen = {turn.voice for turn in turns} - {""}
    others = [voice for voice in voices if voice and voice not in seen]
    wanted = [voice for voice in voices if voice in seen or voice in others[: max(0, 2 - len(seen))]]
    return Shot(begin, until, rules.framing, tuple(wanted))


def _cost(turn: Turn, shown: str | None, is_quick: bool) -> float:
    """What it costs to show somebody, or with None both, during a turn."""
    seconds = (turn.end - turn.begin) / RATE
    if turn.laughs:
        return 0.0 if shown is None else max(1.5, 2 * seconds)
    if shown is None:
        return 0.0 if is_quick else TOGETHER * seconds
    if is_quick:
        return (0.6 if shown == turn.voice else 1.0) * seconds
    if shown == turn.voice:
        return 0.0
    return (BRIEF if turn.end - turn.begin < SHORT_TURN else 1.0) * seconds


def _quick(turns: Sequence[Turn]) -> list[bool]:
    """Which turns belong to a quick exchange."""
    quick = [False] * len(turns)
    for number in range(len(turns) - QUICK_TURNS + 1):
        some = turns[number : number + QUICK_TURNS]
        if some[-1].end - some[0].begin <= QUICK_WITHIN and all(a.voice != b.voice for a, b in pairwise(some)):
            quick[number : number + QUICK_TURNS] = [True] * QUICK_TURNS
    return quick


def _with_reactions(shots: Sequence[Shot], words: Sequence[ProgrammeWord], rules: ShotRules) -> Iterator[Shot]:
    """The same, long ones of somebody broken by a moment of whoever spoke before."""
    lasts = max(REACTION, rules.shortest)
    word = 0
    other: tuple[str, ...] = ()
    singles = [shot.voices for shot in shots if shot.framing == SINGLE and shot.voices]
    for shot in shots:
        listens = other or next((voices for voices in singles if voices != shot.voices), ())
        if shot.framing != SINGLE or not shot.voices or not listens or listens == shot.voices:
            yield shot
        else:
            begin = shot.begin
            while shot.until - begin > HELD:
                while word < len(words) and words[word].start < begin + HELD // 2:
                    word += 1
                near = [
                    n for n in range(max(1, word - 12), min(word + 12, len(words))) if begin + rules.shortest < words[n].start
                ]
                if not near:
                    break
                at = words[max(near, key=lambda n: words[n].start - words[n - 1].end)].start
                if shot.until - at - lasts < rules.shortest:
                    break
                yield replace(shot, begin=begin, until=at)
                yield Shot(at, at + lasts, SINGLE, listens)
                begin = at + lasts
            yield replace(shot, begin=begin)
        if shot.framing == SINGLE and shot.voices:
            other = shot.voices


def overruled(shots: Sequence[Shot], by_hand: Sequence[Shot], shortest: Ticks) -> tuple[Shot, ...]:
    """Shots with those that somebody chose in their places. What is left of others and too short to be seen goes with them."""
    out = [*shots]
    for wanted in sorted(by_hand, key=lambda shot: shot.begin):
        kept: list[Shot] = []
        for shot in out:
            if shot.until <= wanted.begin or shot.begin >= wanted.until:
                kept.append(shot)
                continue
            if shot.begin < wanted.begin:
                kept.append(replace(shot, until=wanted.begin))
            if shot.until > wanted.until:
                kept.append(replace(shot, begin=wanted.until))
        out = sorted([*kept, wanted], key=lambda shot: shot.begin)
    return tuple(_without_slivers(out, shortest))


def _without_slivers(shots: Sequence[Shot], shortest: Ticks) -> Iterator[Shot]:
    """The same without what is left of a derived shot beside one by hand, where that is too short to be seen."""
    out: list[Shot] = []
    for shot in shots:
        last = out[-1] if out else None
        if last and not shot.by_hand and last.by_hand and shot.until - shot.begin < shortest:
            out[-1] = replace(last, until=shot.until)
        elif last and shot.by_hand and not last.by_hand and last.until - last.begin < shortest:
            out.pop()
            if out:
                out[-1] = replace(out[-1], until=shot.begin)
                out.append(shot)
            else:
                out.append(replace(shot, begin=last.begin))
        elif last and (last.framing, last.voices, last.by_hand) == (shot.framing, shot.voices, shot.by_hand):
            out[-1] = replace(last, until=shot.until)
        else:
            out.append(shot)
    yield from out
