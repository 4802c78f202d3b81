"""Shorter wordings: what captions say instead of the words that are said. The transcript stays as it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.marks.anchor import Stretch
from jaskel.core.marks.mark import Mark, Marks, StretchMark, mark
from jaskel.core.timebase import Ticks


@mark
@dataclass(frozen=True)
class CaptionWording(StretchMark):
    """``text`` is read instead of the words of a stretch, as long as these are ``instead_of``.

    Where one of them is struck or corrected, captions say what is said again: nobody has seen whether the wording still fits.
    """

    kind: ClassVar[str] = "caption wording"
    text: str
    instead_of: str


def set_wording(marks: Marks, wanted: Sequence[tuple[str, Ticks, Ticks, str]], text: str) -> dict[str, Mark | None]:
    """The changes that let captions say ``text`` instead of words (recording, start, end, text) that follow one another.

    An empty ``text`` takes off what was said instead of them.
    """
    changes: dict[str, Mark | None] = {}
    for recording, start, end, _ in wanted:
        for known in marks.within(CaptionWording, recording, start, end):
            if known.end > start and known.start < end:
                changes[known.id] = None
    if text and wanted:
        recording, start = wanted[0][0], wanted[0][1]
        id = marks.free_id(f"caption wording.{recording}.{start}")
        said = " ".join(word for *_, word in wanted)
        stretch = Stretch(recording, start, wanted[-1][2])
        if [
            (each.stretch, each.text, each.instead_of) for each in map(marks.get, changes) if isinstance(each, CaptionWording)
        ] == [(stretch, text, said)]:
            return {}
        changes[id] = CaptionWording(id, (stretch,), text, said)
    return changes
