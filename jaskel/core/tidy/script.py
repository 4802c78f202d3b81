"""What was said against what was meant to be said: the sentences of a script, with the takes of each."""

from __future__ import annotations

from bisect import bisect_right
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import accumulate, takewhile, zip_longest

from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import Take, plain
from jaskel.core.tidy.retakes import CUES
from jaskel.core.transcript import Word

ENDS = (".", "?", "!", "…")

IN_A_ROW = 3
"""So many words of the script in a row begin a reading of it; fewer are there by chance."""

SLIPS = 4
"""Within a reading so many words may be left out, or read otherwise, before it is over."""

COMPLETE = 0.8
"""A take has read its sentence that has so much of it."""

LONGEST = 8
"""More words in a row than these tell no better where a reading begins."""

LATER = 0.001
"""Of takes that read as much, a later one is worth a little more."""

ASIDE = 2
"""More words in a row than these that are not in the script are said off it."""


@dataclass(frozen=True)
class Line:
    """A sentence of the script.

    Attributes
    ----------
    text
        As the script has it.
    takes
        How it was read, in order of time; none where it was never said.
    pick
        The take that reads it best and stands in the order of the script; None where none does.
    """

    text: str
    takes: tuple[Take, ...]
    pick: int | None


@dataclass(frozen=True)
class Followed:
    """The lines of a script, and what was said ``off`` it."""

    lines: tuple[Line, ...] = ()
    off: tuple[Take, ...] = ()


@dataclass(frozen=True)
class _Reading:
    """Words ``first`` up to ``last`` (exclusive) read ``count`` words of line ``line``; or say what is in none.

    What is read lies from ``begin`` up to ``until`` (exclusive) among the words of the script.
    """

    first: int
    last: int
    line: int | None
    count: int = 0
    begin: int = 0
    until: int = 0


def follow(words: Sequence[Word], script: Sequence[str]) -> Followed:
    """Lay what was said, in order of time, beside the words of a script.

    A word or two between two readings, and what says that one is begun again ("sorry, again"), go with the one before.
    """
    texts = _sentences(script)
    if not texts or not words:
        return Followed()
    lines = [[plain(text) for text in sentence if plain(text)] for sentence in texts]
    readings = _readings(words, lines)
    takes: dict[int, list[tuple[_Reading, Take]]] = defaultdict(list)
    off: list[Take] = []
    for reading, following in zip_longest(readings, readings[1:]):
        said = words[reading.first : reading.last]
        # A take goes on until the next begins; the last one ends with its words.
        end = words[following.first].start if following else said[-1].end
        take = Take(said[0].start, end, " ".join(word.text for word in said))
        if reading.line is None:
            off.append(replace(take, end=said[-1].end))
        else:
            takes[reading.line].append((reading, take))
    picks = _in_order_of_script(takes, lines)
    told = [
        Line(
            " ".join(text),
            tuple(_told(take, reading, lines[number]) for reading, take in takes[number]),
            picks.get(number),
        )
        for number, text in enumerate(texts)
    ]
    return Followed(tuple(told), tuple(off))


def _sentences(script: Sequence[str]) -> list[list[str]]:
    sentences: list[list[str]] = [[]]
    for text in script:
        sentences[-1].append(text)
        if text.rstrip("\"'”’)").endswith(ENDS):
            sentences.append([])
    return [sentence for sentence in sentences if any(map(plain, sentence))]


def _share(reading: _Reading, line: Sequence[str]) -> float:
    share = reading.count / len(line)
    return 1.0 if share >= COMPLETE else round(share, 1)


def _told(take: Take, reading: _Reading, line: Sequence[str]) -> Take:
    share = reading.count / len(line)
    return replace(take, why=("complete" if share >= COMPLETE else f"{share:.0%} of it",))


def _readings(words: Sequence[Word], lines: Sequence[Sequence[str]]) -> list[_Reading]:
    """What was said in order: readings of lines, and between them what is in none of them."""
    said = [(index, text) for index, word in enumerate(words) if (text := plain(word.text)) and text not in FILLERS]
    places = _places([text for _, text in said], [text for line in lines for text in line])
    found = _runs(places, [number for number, line in enumerate(lines) for _ in line], lines)
    out: list[_Reading] = []
    read_up_to = 0
    for run in found:
        first = said[run.first][0]
        if _aside(said[read_up_to : run.first]):
            # It begins after the last word that was read, with the hesitations before its own first word.
            out.append(_Reading(said[read_up_to - 1][0] + 1 if read_up_to else 0, first, None))
        elif out:
            out[-1] = replace(out[-1], last=first)
        out.append(_Reading(first, said[run.last - 1][0] + 1, run.line, run.count))
        read_up_to = run.last
    if _aside(said[read_up_to:]):
        out.append(_Reading(said[read_up_to - 1][0] + 1 if read_up_to else 0, len(words), None))
    return out


def _aside(said: Sequence[tuple[int, str]]) -> bool:
    return sum(text not in CUES for _, text in said) > ASIDE


def _runs(places: Sequence[int | None], line_of: Sequence[int], lines: Sequence[Sequence[str]]) -> list[_Reading]:
    """Who reads goes on in the line, or begins it again. From-to among the words that count."""
    runs: list[_Reading] = []
    reached = -1
    for index, place in enumerate(places):
        if place is None:
            continue
        line = line_of[place]
        if runs and runs[-1].line == line and place > reached and index - runs[-1].last < SLIPS:
            runs[-1] = replace(runs[-1], last=index + 1, count=runs[-1].count + 1, until=place + 1)
        else:
            runs.append(_Reading(index, index + 1, line, 1, place, place + 1))
        reached = place
    ends = [end for line, end in zip(lines, accumulate(map(len, lines)), strict=True) for _ in line]
    return [run for run in _mended(runs, ends) if run.line is None or run.count >= min(IN_A_ROW, len(lines[run.line]))]


def _mended(runs: Sequence[_Reading], ends: Sequence[int]) -> list[_Reading]:
    """Readings, with those as one that went back within their line before its end: neither part is a take of it."""
    out: list[_Reading] = []
    for run in runs:
        before = out[-1] if out else None
        follows = before and run.line == before.line and run.first - before.last < SLIPS
        if before and follows and before.begin < run.begin <= before.until < ends[before.begin]:
            again = min(before.until, run.until) - run.begin
            until = max(before.until, run.until)
            out[-1] = replace(before, last=run.last, count=before.count + run.count - again, until=until)
        else:
            out.append(run)
    return out


def _places(said: Sequence[str], script: Sequence[str]) -> list[int | None]:
    """Where in the script each word was read; None where it was not.

    A reading goes on with the next word, or leaves some out; it begins elsewhere where several words in a row are the same.
    """
    where: dict[str, list[int]] = defaultdict(list)
    rows: dict[tuple[str, ...], list[int]] = defaultdict(list)
    for number, text in enumerate(script):
        where[text].append(number)
        rows[tuple(script[number : number + IN_A_ROW])].append(number)
    out: list[int | None] = []
    at, missed = -1, SLIPS + 1
    for index, text in enumerate(said):
        place = _goes_on(where[text], at, missed)
        following = said[index : index + LONGEST]
        begun = _begins(following, script, rows[tuple(following[:IN_A_ROW])], at)
        goes_on = place is not None and place <= at + 1
        # "… until the. The greenhouse …": a word that would go on may as well begin anew, if more words follow there.
        if begun is not None and not (goes_on and _same(following, script, place) >= _same(following, script, begun)):
            place = begun
        out.append(place)
        missed = missed + 1 if place is None else 0
        at = at if place is None else place
    return out


def _goes_on(places: Sequence[int], at: int, missed: int) -> int | None:
    if missed > SLIPS:
        return None
    following = bisect_right(places, at)
    return places[following] if following < len(places) and places[following] <= at + 1 + missed + SLIPS else None


def _begins(said: Sequence[str], script: Sequence[str], places: Sequence[int], at: int) -> int | None:
    """The one of ``places`` from which most words in a row are the same, the nearest of several."""

    def worth(place: int) -> tuple[int, int]:
        return _same(said, script, place), -abs(place - at - 1)

    return max(places, key=worth, default=None) if len(said) >= IN_A_ROW else None


def _same(said: Sequence[str], script: Sequence[str], place: int | None) -> int:
    """How many words in a row are those of the script from a place on."""
    if place is None:
        return 0
    pairs = zip(said, script[place : place + len(said)], strict=False)
    return sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], pairs))


def _in_order_of_script(takes: Mapping[int, Sequence[tuple[_Reading, Take]]], lines: Sequence[Sequence[str]]) -> dict[int, int]:
    """For each line the number of the take that stays: together the most of the script, read in its order.

    Of several that read as much, or are complete, the last one stays. (It is the heaviest increasing subsequence,
    found with a Fenwick tree.)
    """
    readings = sorted(
        (reading.first, line, number, _share(reading, lines[line]) + number * LATER)
        for line, mine in takes.items()
        for number, (reading, _) in enumerate(mine)
    )
    nothing = 0.0, -1
    best, before, total = [nothing] * (len(lines) + 1), list[int](), nothing
    for index, (_, line, _, weight) in enumerate(readings):
        so_far, place = nothing, line  # the lines before this one
        while place:
            so_far = max(so_far, best[place])
            place &= place - 1
        before.append(so_far[1])
        reached, place = (so_far[0] + weight, index), line + 1
        total = max(total, reached)
        while place <= len(lines):
            best[place] = max(best[place], reached)
            place += place & -place
    picks: dict[int, int] = {}
    index = total[1]
    while index >= 0:
        _, line, number, _ = readings[index]
        picks[line], index = number, before[index]
    return picks
