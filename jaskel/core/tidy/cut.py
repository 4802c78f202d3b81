"""What accepting findings does to an edition."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence

from jaskel.core.operations import Range, joined
from jaskel.core.tidy.finding import Finding
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

RING: Ticks = RATE * 4 // 100
"""Of a rest that goes, 40 ms stay beside each word, for its sound to end and the next one's to begin."""


def ranges_of(findings: Sequence[Finding], words: Sequence[Word]) -> tuple[Range, ...]:
    """From-to of what goes when findings are accepted, in order and not overlapping.

    A hesitation stands between two rests. Of these the longer one stays: with both, the gap would be as long as before, and
    with none, the words would follow more closely than the speaker lets them.
    """
    gone = {(finding.start, finding.end) for finding in findings}
    spoken = [word for word in words if (word.start, word.end) not in gone]
    starts, ends = [word.start for word in spoken], [word.end for word in spoken]
    return joined([_range(finding, starts, ends) for finding in findings])


def _range(finding: Finding, starts: Sequence[Ticks], ends: Sequence[Ticks]) -> Range:
    if finding.kind not in ("filler", "voice without words"):
        return finding.start, finding.end
    last, following = bisect_right(ends, finding.start), bisect_left(starts, finding.end)
    before = ends[last - 1] if last else 0
    after = starts[following] if following < len(starts) else finding.end
    first, second = finding.start - before, after - finding.end
    if first <= second:
        return finding.start - max(0, first - RING), finding.end
    return finding.start, finding.end + max(0, second - RING)
