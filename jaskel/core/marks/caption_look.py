"""The looks of captions: of all in an edition, of those of one voice, and of single words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from jaskel.core.captions.look import Look
from jaskel.core.marks.anchor import Beginning, End, Stretch
from jaskel.core.marks.mark import Mark, Marks, StretchMark, mark
from jaskel.core.timebase import Ticks


@mark
@dataclass(frozen=True)
class CaptionLook(Mark):
    """The look of all captions, or of those of a ``voice``."""

    kind: ClassVar[str] = "caption look"
    look: Look
    voice: str = ""


@mark
@dataclass(frozen=True)
class CaptionLookHere(StretchMark):
    """The look of the words of a stretch."""

    kind: ClassVar[str] = "caption look here"
    look: Look


@dataclass(frozen=True)
class Looks:
    """Which look captions have: that of single words goes before that of their voice, and this before that of all."""

    marks: Marks
    voices: Mapping[str, Look]

    @property
    def all(self) -> Look | None:
        """The look of captions that have no other; None where it is that of the show."""
        return self.voices.get("")

    def of(self, recording: str, start: Ticks, end: Ticks, voice: str | None) -> Look | None:
        """The look of a word, None where it is that of all."""
        here = next(self.marks.within(CaptionLookHere, recording, start, end), None)
        return here.look if here else self.voices.get(voice) if voice else None


def looks_in(marks: Marks) -> Looks:
    """The looks of an edition."""
    return Looks(marks, marks.derived(CaptionLook, _by_voice))


def _by_voice(marks: Sequence[CaptionLook]) -> Mapping[str, Look]:
    return {each.voice: each.look for each in marks}


def has_own_looks(marks: Marks) -> bool:
    """Whether some captions look otherwise than the rest."""
    return bool(marks.all(CaptionLookHere)) or any(each.voice for each in marks.all(CaptionLook))


def set_look(marks: Marks, look: Look | None, voice: str = "") -> dict[str, Mark | None]:
    """The changes that give all captions, or those of a ``voice``, a look; None takes it off again."""
    known = next((each for each in marks.all(CaptionLook) if each.voice == voice), None)
    if look is None:
        return {known.id: None} if known else {}
    if known:
        return {known.id: replace(known, look=look)} if known.look != look else {}
    id = marks.free_id(f"caption look.{voice}" if voice else "caption look")
    return {id: CaptionLook(id, (Beginning(), End()), look, voice)}


def set_look_here(marks: Marks, wanted: Sequence[tuple[str, Ticks, Ticks]], look: Look | None) -> dict[str, Mark | None]:
    """The changes that give the words of stretches (recording, start, end) a look; None takes off what they had."""
    changes: dict[str, Mark | None] = {}
    for recording, start, end in wanted:
        for known in marks.within(CaptionLookHere, recording, start, end):
            if known.end > start and known.start < end:
                changes[known.id] = None
        if look:
            id = marks.free_id(f"caption look.{recording}.{start}")
            changes[id] = CaptionLookHere(id, (Stretch(recording, start, end),), look)
    return changes
