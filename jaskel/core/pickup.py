"""A line said again (a pickup): what takes the place of words, and where the same words were said elsewhere.

The line is a recording of its own. On the page it stands among the words it belongs to, as a piece of
:class:`jaskel.core.source.SaidAgain`; what it takes the place of is struck and can be put back.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import exp, log2
from typing import Literal

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Stretch
from jaskel.core.operations import Insert, Lift, Operation, PutBack, Strike, Together
from jaskel.core.operations.base import Range, joined
from jaskel.core.places import Places
from jaskel.core.problem import Problem
from jaskel.core.source import Recorded, SaidAgain
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript, Word

How = Literal["borrowed", "recorded", "spoken"]
"""Said elsewhere by the same voice, recorded anew, or spoken by a machine."""

SAID_AGAIN = "said again"
"""Why words are struck whose place a line has taken."""

PAD: Ticks = RATE // 20
"""So much of the room stands in a line's recording before its first word and after its last: splices are made of it."""

LONGEST: Ticks = 30 * RATE


@dataclass(frozen=True, slots=True)
class Spot:
    """Words whose place a line can take: ``start`` to ``end`` of ``home``, a recording or session, said by ``voice``."""

    home: str
    start: Ticks
    end: Ticks
    voice: str | None


def spot_at(edition: Edition, said: Mapping[str, Transcript], begin: Ticks, end: Ticks) -> Spot:
    """The spot between two laid times. Where a line stands there already, it is the spot of that line.

    Raises
    ------
    Problem
        ``no-spot`` where that is not a stretch of one recording with words of one voice.
    """
    found: list[tuple[str, Ticks, Ticks]] = []
    for run in edition.runs:
        first, last = max(begin, run.laid), min(end, run.laid + run.end - run.start)
        if first >= last or not isinstance(run.source, Recorded):
            continue
        if isinstance(run.source, SaidAgain):
            found.append((run.source.home, run.source.start, run.source.end))
        else:
            found.append((run.source.recording, run.start + first - run.laid, run.start + last - run.laid))
    if not found or len({home for home, _, _ in found}) > 1:
        raise Problem("no-spot", "Select words of one recording to have them said again.")
    home, start, until = found[0][0], min(each[1] for each in found), max(each[2] for each in found)
    if until - start > LONGEST:
        raise Problem("too-long", f"At most {LONGEST // RATE} seconds can be said again at once. Select fewer words.")
    transcript = said.get(home)
    voices = {word.voice for word in transcript.words if word.end > start and word.start < until} if transcript else set()
    if len(voices) != 1:
        raise Problem("no-spot", "Select words of one voice to have them said again.")
    return Spot(home, start, until, voices.pop())


@dataclass(frozen=True, slots=True)
class Manner:
    """How words are said: ``pitch`` in hertz (0 where none is heard), ``pace`` in letters a second, ``loudness`` in LUFS."""

    pitch: float
    pace: float
    loudness: float | None


@dataclass(frozen=True, slots=True)
class Neighbours:
    """What stands around words: those before and after, empty where there is a rest; whether a sentence ends with them."""

    before: str
    after: str
    ends_sentence: bool


REST: Ticks = RATE * 15 // 100


def neighbours_of(words: Sequence[Word], first: int, last: int) -> Neighbours:
    """What stands around the words from index ``first`` up to ``last``."""
    before = words[first - 1] if first else None
    after = words[last] if last < len(words) else None
    return Neighbours(
        _bare(before.text) if before and words[first].start - before.end < REST else "",
        _bare(after.text) if after and after.start - words[last - 1].end < REST else "",
        words[last - 1].ends_sentence,
    )


def _bare(text: str) -> str:
    return "".join(each for each in text.casefold() if each.isalnum())


@dataclass(frozen=True, slots=True)
class Fit:
    """How well words said elsewhere fit a spot, from 0 to 1, and what was found."""

    score: float
    why: tuple[str, ...]


SEMITONES, OCTAVES_OF_PACE, DECIBELS = 5.0, 0.6, 14.0
"""Words whose pitch, pace or level is off by so much fit a third (1/e) as well; level least, for it is set anyway."""


def fit_of(mine: Manner, mine_beside: Neighbours, wanted: Manner, beside: Neighbours) -> Fit:
    """How well words said elsewhere fit a spot.

    Examples
    --------
    >>> alike = Manner(120.0, 14.0, -20.0)
    >>> fit_of(alike, Neighbours("the", "", True), alike, Neighbours("the", "", True)).score
    1.0
    >>> fit_of(Manner(240.0, 14.0, -20.0), Neighbours("", "", False), alike, Neighbours("the", "", True)).why
    ('12.0 semitones higher', 'follows a rest there', 'in mid-sentence there')
    """
    penalty, why = 0.0, []
    if mine.pitch and wanted.pitch:
        off = 12 * log2(mine.pitch / wanted.pitch)
        penalty += abs(off) / SEMITONES
        if abs(off) >= 0.5:
            why.append(f"{abs(off):.1f} semitones {'higher' if off > 0 else 'lower'}")
    if mine.pace and wanted.pace:
        off = log2(mine.pace / wanted.pace)
        penalty += abs(off) / OCTAVES_OF_PACE
        if abs(off) >= 0.1:
            why.append(f"{abs(2**off - 1):.0%} {'quicker' if off > 0 else 'slower'}")
    if mine.loudness is not None and wanted.loudness is not None:
        penalty += abs(mine.loudness - wanted.loudness) / DECIBELS
        if abs(mine.loudness - wanted.loudness) >= 3:
            why.append(
                f"{abs(mine.loudness - wanted.loudness):.0f} dB {'louder' if mine.loudness > wanted.loudness else 'quieter'}"
            )
    for here, there, told in (
        (mine_beside.before, beside.before, "follows a rest there"),
        (mine_beside.after, beside.after, "comes before a rest there"),
    ):
        if here == there and here:
            why.append(f"beside the same “{here}”")
        elif bool(here) != bool(there):
            penalty += 0.2
            if there:
                why.append(told)
        elif here != there:
            penalty += 0.1
    if mine_beside.ends_sentence != beside.ends_sentence:
        penalty += 0.3
        why.append("ends a sentence there" if mine_beside.ends_sentence else "in mid-sentence there")
    return Fit(exp(-penalty), tuple(why))


def put_in_line(edition: Edition, begin: Ticks, end: Ticks, line: SaidAgain, length: Ticks, told: str) -> Operation:
    """Let a line take the place of what stands between two laid times; a line that stood there is lifted.

    ``length`` is that of the line's recording, the room around its words included.
    """
    piece = Piece(line, PAD // 2, length - PAD // 2)
    inside = _pieces_in(edition, begin, end)
    lines = joined(place for place, each in inside if isinstance(each.source, SaidAgain))
    words = joined(place for place, each in inside if not isinstance(each.source, SaidAgain))
    operations: list[Operation] = [Insert(end, (piece,), told)]
    if words:
        operations.append(Strike(words, SAID_AGAIN))
    if lines:
        operations.append(Lift(lines, SAID_AGAIN))
    return Together(tuple(operations))


def take_off_line(edition: Edition, line: str) -> Operation:
    """Take a line out of sight, and put back what was said before.

    Raises
    ------
    Problem
        ``no-line`` where it does not stand in the edition.
    """
    found = [(place, each) for place, each in _pieces_in(edition, 0, edition.length) if _is_line(each, line) and each.kept]
    if not found:
        raise Problem("no-line", "This line does not stand on the page any more.")
    source = found[0][1].source
    assert isinstance(source, SaidAgain)
    home = Places(edition).of(Stretch(source.home, source.start, source.end))
    was = joined(
        place
        for begin, end in home
        for place, each in _pieces_in(edition, begin, end)
        if not each.kept and each.why == SAID_AGAIN and not isinstance(each.source, SaidAgain)
    )
    lift = Lift(joined(place for place, _ in found), SAID_AGAIN)
    return Together((PutBack(was), lift)) if was else lift


def _is_line(piece: Piece, line: str) -> bool:
    return isinstance(piece.source, SaidAgain) and piece.source.recording == line


def _pieces_in(edition: Edition, begin: Ticks, end: Ticks) -> list[tuple[Range, Piece]]:
    """The pieces between two laid times, each with where it lies, clipped to them."""
    found: list[tuple[Range, Piece]] = []
    at = begin
    for piece in edition.cut_out(begin, end):
        found.append(((at, at + piece.length), piece))
        at += piece.length
    return found


def lines_in(edition: Edition) -> list[SaidAgain]:
    """The lines said again that are heard in an edition, in order."""
    kept = (piece.source for piece in edition.pieces if piece.kept)
    return list(dict.fromkeys(source for source in kept if isinstance(source, SaidAgain)))
