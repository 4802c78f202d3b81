"""Notes: something written beside the words, answered, given to somebody, ticked off; or a cut that is suggested."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from jaskel.core.marks.anchor import Place, Stretch
from jaskel.core.marks.mark import Home, Mark, mark


@dataclass(frozen=True)
class Answer:
    """What ``who`` said to a note; ``by`` names them for good, ``at`` is when, in UTC by ISO 8601."""

    text: str
    who: str = ""
    by: str = ""
    at: str = ""


@mark
@dataclass(frozen=True)
class Note(Mark):
    """A text at a place of the material.

    ``who`` wrote it, where that is known, and ``by`` names them for good: an account, or a guest. ``to`` is the account it was
    given to. ``done`` says that it was ticked off. Where it has stretches for anchors it suggests to cut these.
    """

    kind: ClassVar[str] = "note"
    home: ClassVar[Home] = "episode"
    text: str
    who: str = ""
    by: str = ""
    to: str = ""
    done: bool = False
    answers: tuple[Answer, ...] = ()

    @property
    def cuts(self) -> tuple[Stretch, ...]:
        """What it suggests to cut."""
        return tuple(anchor for anchor in self.anchors if isinstance(anchor, Stretch))

    @property
    def place(self) -> Place:
        """Where it stands."""
        anchor = self.anchors[0]
        return Place(anchor.recording, anchor.start) if isinstance(anchor, Stretch) else _single(anchor)


def _single(anchor: object) -> Place:
    assert isinstance(anchor, Place)
    return anchor
