"""What stands in ranges of an edition, as stretches of the material."""

from __future__ import annotations

from collections.abc import Sequence

from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Stretch
from jaskel.core.operations.base import Range
from jaskel.core.source import Recorded


def kept_stretches(edition: Edition, ranges: Sequence[Range]) -> tuple[Stretch, ...]:
    """The stretches of recordings and sessions that are kept in ranges of laid time."""
    return tuple(
        Stretch(run.source.recording, start, end)
        for begin, until in ranges
        for run in edition.kept_runs
        if isinstance(run.source, Recorded)
        for start in [run.start + max(0, begin - run.laid)]
        for end in [min(run.end, run.start + until - run.laid)]
        if start < end
    )
