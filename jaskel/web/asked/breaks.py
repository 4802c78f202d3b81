"""Breaks for advertising."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from jaskel.core.breaks import LONGEST, LONGEST_FADE, SHORTEST, LaidWord, put_in, take_out
from jaskel.core.marks.ad_break import AdBreak
from jaskel.core.operations import Operation
from jaskel.core.page import laid_words
from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE
from jaskel.store.models import Recording
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.schemas.common import TicksField


@asked
class BreakIn(Asked):
    """Put a break of silence in before a word; what is heard fades around it, and a recording may sound there."""

    kind: Literal["break"]
    at: TicksField
    length: Annotated[int, Field(ge=SHORTEST, le=LONGEST)] = 2 * RATE
    fade: Annotated[int, Field(ge=0, le=LONGEST_FADE)] = RATE // 2
    sting: str = ""
    places = ("at",)

    def operation(self, floor: Floor) -> Operation:
        edition = floor.opened.edition
        known = floor.session.get(Recording, self.sting) if self.sting else None
        if self.sting and (known is None or not known.length):
            raise Problem("no-recording", "The sound for the break is not here, or not ready yet. Choose another.")
        said = laid_words(edition, floor.context.transcripts(floor.session, floor.opened))
        words = [LaidWord(laid, laid + word.end - word.start) for _, word, laid in said]
        return put_in(edition, words, self.at, self.length, self.fade, self.sting)


@asked
class BreakOffIn(Asked):
    """Take a break out."""

    kind: Literal["break off"]
    id: str

    def carried(self, _since: Any) -> BreakOffIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        found = floor.opened.edition.marks.get(self.id)
        if not isinstance(found, AdBreak):
            raise Problem("no-break", "This break is not there any more; it may have been taken out meanwhile.")
        return take_out(floor.opened.edition, found)
