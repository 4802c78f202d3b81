"""What accepting findings does to an edition."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

from jaskel.core.operations import Range, joined
from jaskel.core.tidy.finding import Finding, Stretch
from jaskel.core.tidy.heard import NOTHING, Heard, breaths_between, clear_of_breaths
from jaskel.core.tidy.settings import Rhythm, rhythm_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

RING: Ticks = RATE * 4 // 100
"""Of a rest that goes, 40 ms stay beside each word, for its sound to end and the next one's to begin."""

REACH: Ticks = RATE * 6 // 100
"""What goes is heard up to 60 ms before and after the edges that were found for it, and as far as its voice goes: so far the
cut reaches into a rest."""

BESIDE: Ticks = RATE // 10
"""Voice up to 100 ms before a word is its beginning, and up to 100 ms after one its end."""

SENTENCES, CLAUSES = 1.0, 0.5
"""Between sentences a speaker leaves about their median rest, after a comma half of it."""


@dataclass(frozen=True)
class Gap:
    """The words around something that goes (None at the ends of the recording).

    What is heard before it is over at ``closes``, it is heard from ``start`` to ``end``, and what comes after ``opens`` then.
    """

    before: Word | None
    after: Word | None
    closes: Ticks
    start: Ticks
    end: Ticks
    opens: Ticks


def ranges_of(findings: Sequence[Finding], words: Sequence[Word], heard: Heard = NOTHING) -> tuple[Range, ...]:
    """From-to of what goes when findings are accepted as they are proposed, in order and not overlapping."""
    return stretches_of([(finding, part) for finding in findings for part in finding.gone()], words, heard)


def stretches_of(
    parts: Sequence[tuple[Finding, Stretch]], words: Sequence[Word], heard: Heard = NOTHING, short_rest: Ticks = 0
) -> tuple[Range, ...]:
    """From-to of what goes of the silence around, too, in order and not overlapping.

    A hesitation stands between two rests. Of these the longer one stays: with both, the gap would be as long as before, and
    with none, the words would follow more closely than the speaker lets them. What is said again goes with the rest before
    that, as far as the speaker needs none of it there. ``short_rest`` is what is to stay at least. No breath is cut off in its
    middle.
    """
    if not any(finding.kind in SPOKEN for finding, _ in parts):
        return joined([part for _, part in parts])
    gone = {(finding.start, finding.end) for finding, _ in parts if finding.kind in ALONE}
    spoken = [word for word in words if (word.start, word.end) not in gone]
    starts, ends = [word.start for word in spoken], [word.end for word in spoken]
    rhythm = rhythm_of(words)
    breaths = list(breaths_between(words, heard.breaths))

    def around(finding: Finding, start: Ticks, end: Ticks) -> Gap:
        last, following = bisect_right(ends, start), bisect_left(starts, end)
        before = spoken[last - 1] if last else None
        after = spoken[following] if following < len(spoken) else None
        if after and following > last and finding.kind in AGAIN:
            # It goes up to where it is said again, the rest before that included: how much of this does is told below.
            end = max(spoken[following - 1].end, _silent_from(heard.voice, after.start))
        closes = _still_heard(heard.voice, before.end, start) if before else 0
        opens = _heard_already(heard.voice, end, after.start) if after else end + REACH + RING
        return Gap(before, after, closes, *_audible(start, end, closes, opens, heard.voice), opens)

    ranges = [
        (finding, _range(finding, around(finding, *part), rhythm, short_rest) if finding.kind in SPOKEN else part)
        for finding, part in parts
    ]
    return joined([_clear(each, breaths) if finding.kind in SPOKEN else each for finding, each in ranges])


ALONE = ("filler", "voice without words", "empty word")
"""Kinds that stand between two rests of their own."""

AGAIN = ("doubled", "retake")
"""Kinds that are said again."""

SPOKEN = (*ALONE, *AGAIN, "chatter")
"""Kinds of which something is heard."""


def _range(finding: Finding, gap: Gap, rhythm: Rhythm, short_rest: Ticks) -> Range:
    first = gap.start - gap.closes if gap.before else 0
    second = gap.opens - gap.end if gap.after else 0
    needed = min(first + second, max(short_rest, _usual(gap, rhythm)))
    if finding.kind not in ALONE:
        # How long somebody paused before they began again says nothing of how long they pause there.
        at_the_end = finding.kind == "chatter" and not (gap.before and gap.after)
        return gap.start, gap.end + (0 if at_the_end else max(0, min(second - RING, first + second - max(first, needed))))
    stays = max(first, second, needed)
    # The shorter of the two rests goes as far as what stays allows.
    goes = min(first + second - stays, max(0, min(first, second) - RING))
    return (gap.start - goes, gap.end) if first <= second else (gap.start, gap.end + goes)


def _audible(start: Ticks, end: Ticks, earliest: Ticks, latest: Ticks, voice: Sequence[Stretch]) -> Stretch:
    """From-to of what is to be heard of something that has no more room than this."""
    first, last = start - REACH, end + REACH
    near = voice[max(0, bisect_left(voice, (start,)) - 1) : bisect_left(voice, (end,))]
    for begun, until in near:
        if earliest <= begun < start < until:
            first = min(first, begun)
        if begun < end < until <= latest:
            last = max(last, until)
    return min(start, max(first, earliest + RING)), max(end, min(last, latest - RING))


def _silent_from(voice: Sequence[Stretch], start: Ticks) -> Ticks:
    """Where the last voice ends that is over before ``start``; 0 where there is none."""
    last = bisect_left(voice, (start - BESIDE,))
    return voice[last - 1][1] if last and voice[last - 1][1] < start - BESIDE else 0


def _still_heard(voice: Sequence[Stretch], end: Ticks, until: Ticks) -> Ticks:
    """Where what is heard at the ``end`` of a word is over: later where something is said that is not written."""
    last = bisect_left(voice, (end,))
    over = voice[last - 1][1] if last else end
    return over if end + BESIDE < over < until else end


def _heard_already(voice: Sequence[Stretch], after: Ticks, start: Ticks) -> Ticks:
    """Where what is heard at the ``start`` of a word has begun: earlier where something is said that is not written."""
    last = bisect_left(voice, (start,))
    begun, over = voice[last - 1] if last else (start, start)
    return begun if after < begun < start - BESIDE and over >= start else start


def _clear(part: Range, breaths: Sequence[Stretch]) -> Range:
    last = bisect_left(breaths, (part[1],))
    return clear_of_breaths(part, breaths[max(0, bisect_left(breaths, (part[0],)) - 1) : last])


def _usual(gap: Gap, rhythm: Rhythm) -> Ticks:
    """How much silence the speaker leaves between two such words."""
    if gap.before is None:
        return 0
    rest = rhythm.get(gap.before.voice, rhythm[None])
    if gap.before.ends_sentence:
        return round(SENTENCES * rest)
    return round(CLAUSES * rest) if gap.before.text[-1:] in ",;:–" else RING
