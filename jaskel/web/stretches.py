"""What stands in ranges of an edition, as stretches of the material."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from jaskel.core.edition import Run
from jaskel.core.marks.anchor import Stretch
from jaskel.core.operations.base import Range
from jaskel.core.source import Recorded


def stretches_in(runs: Iterable[Run], ranges: Sequence[Range]) -> tuple[Stretch, ...]:
    """The stretches of recordings and sessions that ``runs`` of an edition have in ranges of laid time."""
    known = list(runs)
    return tuple(
        Stretch(run.source.recording, start, end)
        for begin, until in ranges
        for run in known
        if isinstance(run.source, Recorded)
        for start in [run.start + max(0, begin - run.laid)]
        for end in [min(run.end, run.start + until - run.laid)]
        if start < end
    )
