"""The rules of captions, and where they break."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Literal

from jaskel.core.marks.captions import caption_rules, set_caption_break, set_caption_rules
from jaskel.core.marks.mark import Mark
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.page import laid_words
from jaskel.core.problem import Problem
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.schemas.captions import CaptionRulesField
from jaskel.web.schemas.common import TicksField


@asked
class CaptionRulesIn(Asked):
    """Let the captions of the edition keep to other rules."""

    kind: Literal["caption rules"]
    rules: CaptionRulesField

    def carried(self, _since: Any) -> CaptionRulesIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        marks, rules = floor.opened.edition.marks, self.rules.rules
        if caption_rules(marks) == rules:
            raise Problem("nothing-changed", "That changes nothing: the captions keep to these rules already.")
        return SetMarks.of(set_caption_rules(marks, rules), "changed the rules of captions")


TOLD = {
    "cue": "let a caption begin",
    "line": "let a line begin",
    "together": "kept captions together",
    "": "let captions break by the rules",
}


@asked
class CaptionBreakIn(Asked):
    """Break captions before the word at a place: a ``cue`` or a ``line`` begins with it, ``together`` none, or by the rules."""

    kind: Literal["caption break"]
    at: TicksField
    before: Literal["cue", "line", "together", ""]
    places = ("at",)

    def operation(self, floor: Floor) -> Operation:
        words = _words(floor, self.at, self.at + 1)
        changes: dict[str, Mark | None] = {}
        for name, start, end in words:
            changes |= set_caption_break(floor.opened.edition.marks, name, start, end, self.before)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: it breaks so already, or no word is said there.")
        return SetMarks.of(changes, TOLD[self.before])


@asked
class CaptionAloneIn(Asked):
    """Let the words of a range stand on a screen of their own; with ``on`` false they break by the rules again."""

    kind: Literal["caption alone"]
    begin: TicksField
    end: TicksField
    on: bool = True

    def operation(self, floor: Floor) -> Operation:
        inside = _words(floor, self.begin, self.end)
        after = _words(floor, self.end, floor.opened.edition.length)[:1]
        marks, changes = floor.opened.edition.marks, dict[str, Mark | None]()
        for number, (name, start, end) in enumerate(inside):
            before: Literal["cue", "together", ""] = ("cue" if number == 0 else "together") if self.on else ""
            changes |= set_caption_break(marks, name, start, end, before)
        for name, start, end in after:
            changes |= set_caption_break(marks, name, start, end, "cue" if self.on else "")
        if not inside or not changes:
            raise Problem("nothing-changed", "That changes nothing: it is so already, or nothing is said there.")
        return SetMarks.of(changes, "gave words a screen of their own" if self.on else TOLD[""])


def _words(floor: Floor, begin: int, end: int) -> list[tuple[str, int, int]]:
    """The words between two laid times: those that have some of it, each with its recording and where it is said there."""

    def found() -> Iterator[tuple[str, int, int]]:
        for name, word, laid in laid_words(floor.opened.edition, floor.context.transcripts(floor.session, floor.opened)):
            if laid < end and laid + word.end - word.start > begin:
                yield name, word.start, word.end

    return [*found()]
