"""The second language of captions: what is read in it while words are said."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.marks.anchor import Stretch
from jaskel.core.marks.mark import Mark, Marks, StretchMark, mark
from jaskel.core.timebase import Ticks


@mark
@dataclass(frozen=True)
class CaptionSecond(StretchMark):
    """``text`` says in ``language`` (a code of BCP 47) what the words of a stretch say."""

    kind: ClassVar[str] = "caption second"
    text: str
    language: str


def second_language(marks: Marks) -> str:
    """The second language of an edition's captions; empty where there is none."""
    known = marks.all(CaptionSecond)
    return known[0].language if known else ""


def set_second(marks: Marks, wanted: Sequence[tuple[str, Ticks, Ticks, str]], language: str) -> dict[str, Mark | None]:
    """The changes that give captions texts (recording, start, end, text) in a second language instead of any they had."""
    changes: dict[str, Mark | None] = {each.id: None for each in marks.all(CaptionSecond)}
    for recording, start, end, text in wanted:
        id = marks.free_id(f"caption second.{recording}.{start}")
        changes[id] = CaptionSecond(id, (Stretch(recording, start, end),), text, language)
    return changes
