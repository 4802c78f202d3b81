"""The rules of captions, and where they break."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import Field

from jaskel.core.captions.brought import BroughtCue, taken_over
from jaskel.core.captions.second import Unit, placed
from jaskel.core.marks.caption_look import set_look, set_look_here
from jaskel.core.marks.caption_second import set_second
from jaskel.core.marks.caption_wording import set_wording
from jaskel.core.marks.captions import set_caption_break, set_caption_rules
from jaskel.core.marks.mark import Mark
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.page import laid_words
from jaskel.core.problem import Problem
from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import plain
from jaskel.core.timebase import RATE, Ticks
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.schemas.captions import BroughtCueField, CaptionRulesField, LookField, SecondUnit
from jaskel.web.schemas.common import TicksField


@asked
class CaptionRulesIn(Asked):
    """Let the captions of the edition keep to rules of its own; with null ``rules``, to those of its show again."""

    kind: Literal["caption rules"]
    rules: CaptionRulesField | None

    def carried(self, _since: Any) -> CaptionRulesIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        marks, rules = floor.opened.edition.marks, self.rules.rules if self.rules else None
        changes = set_caption_rules(marks, rules)
        if not changes or (rules and floor.context.plan(floor.session, floor.opened).caption_rules == rules):
            raise Problem("nothing-changed", "That changes nothing: the captions keep to these rules already.")
        return SetMarks.of(changes, "changed the rules of captions")


@asked
class CaptionLookIn(Asked):
    """Give captions a look: all of them, those of a ``voice``, or the words of a range; null takes it off again."""

    kind: Literal["caption look"]
    look: LookField | None
    voice: str = ""
    begin: TicksField | None = None
    end: TicksField | None = None

    def operation(self, floor: Floor) -> Operation:
        marks, look = floor.opened.edition.marks, self.look.look if self.look else None
        if self.begin is None or self.end is None:
            changes = set_look(marks, look, self.voice)
        else:
            changes = set_look_here(marks, _words(floor, self.begin, self.end), look)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: the captions look so already, or nothing is said there.")
        return SetMarks.of(changes, f"gave captions the look “{look.name}”" if look else "took a look off captions")


@asked
class CaptionWordingIn(Asked):
    """Let captions read ``text`` instead of the words of a range, which stay as they are; empty, what is said again."""

    kind: Literal["caption wording"]
    begin: TicksField
    end: TicksField
    text: Annotated[str, Field(max_length=1000)]

    def operation(self, floor: Floor) -> Operation:
        said = _said(floor, self.begin, self.end)
        text = " ".join(self.text.split())
        if len({name for name, *_ in said}) > 1:
            raise Problem("two-recordings", "These words are of two recordings. Reword those of each by themselves.")
        if text == " ".join(word for *_, word in said):
            text = ""
        changes = set_wording(floor.opened.edition.marks, said, text)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: captions say this already, or nothing is said there.")
        return SetMarks.of(changes, "reworded a caption" if text else "let captions say what is said")


TOLD = {
    "cue": "let a caption begin",
    "line": "let a line begin",
    "together": "kept captions together",
    "": "let captions break by the rules",
}


@asked
class CaptionBreakIn(Asked):
    """Break captions before the word at a place: a ``cue`` or a ``line`` begins with it, ``together`` none, or by the rules.

    With ``instead``, the break before the word at that place moves to this one.
    """

    kind: Literal["caption break"]
    at: TicksField
    before: Literal["cue", "line", "together", ""]
    instead: TicksField | None = None
    places = ("at", "instead")

    def operation(self, floor: Floor) -> Operation:
        words = _word(floor, self.at)
        changes: dict[str, Mark | None] = {}
        if self.instead is not None and words:
            for name, start, end in _word(floor, self.instead):
                changes |= set_caption_break(floor.opened.edition.marks, name, start, end, "together")
        for name, start, end in words:
            changes |= set_caption_break(floor.opened.edition.marks, name, start, end, self.before)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: it breaks so already, or no word is said there.")
        return SetMarks.of(changes, TOLD[self.before] if self.instead is None else "moved a break of captions")


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


@asked
class CaptionFileIn(Asked):
    """Break and word captions as those of a file do, in one step."""

    kind: Literal["caption file"]
    cues: Annotated[list[BroughtCueField], Field(min_length=1, max_length=20_000)]

    def operation(self, floor: Floor) -> Operation:
        plan = floor.context.plan(floor.session, floor.opened)
        theirs = [BroughtCue(cue.start, cue.end, tuple(cue.lines)) for cue in self.cues]
        marks = plan.edition.marks
        changes: dict[str, Mark | None] = {}
        for wanted in taken_over(theirs, plan.words):
            said = [(item.recording, item.word.start, item.word.end, item.word.text) for item in wanted.words]
            for (name, start, end, _), before in zip(said, wanted.breaks, strict=True):
                changes |= set_caption_break(marks, name, start, end, before)
            if wanted.text and len({name for name, *_ in said}) == 1:
                changes |= set_wording(marks, said, wanted.text)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: captions break and read so already.")
        return SetMarks.of(changes, "broke and worded captions as a file does")


@asked
class CaptionSecondIn(Asked):
    """Give captions a second language, in place of any they have; without ``units`` it is taken off."""

    kind: Literal["caption second"]
    language: Annotated[str, Field(pattern=r"^[A-Za-z]{2,3}([-_][A-Za-z0-9]{2,8}){0,3}$")] = "und"
    units: Annotated[list[SecondUnit], Field(max_length=20_000)]

    def operation(self, floor: Floor) -> Operation:
        plan = floor.context.plan(floor.session, floor.opened)
        marks, cues = plan.edition.marks, plan.captions()
        wanted = []
        for first, until, text in placed([Unit(each.text, each.start, each.end) for each in self.units], cues):
            said = [item for cue in cues[first:until] for item in cue.words]
            home = [item.word for item in said if item.recording == said[0].recording]
            start, end = min(word.start for word in home), max(word.end for word in home)
            wanted.append((said[0].recording, start, end, text))
        changes = set_second(marks, wanted, self.language)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: nothing is captioned here, or there is no second language.")
        return SetMarks.of(changes, "gave captions a second language" if wanted else "took the second language off captions")


def _said(floor: Floor, begin: int, end: int) -> list[tuple[str, int, int, str]]:
    """The words between two laid times that captions have: recording, where each is said there, and its text.

    Struck ones and fillers are not among them.
    """

    def found() -> Iterator[tuple[str, int, int, str]]:
        plan = floor.context.plan(floor.session, floor.opened)
        for name, word, laid in laid_words(plan.edition, plan.material.transcripts):
            length = word.end - word.start
            if laid < end and laid + length > begin and plain(word.text) not in FILLERS:
                heard = plan.heard(laid, laid + length)
                if heard and 2 * (heard[1] - heard[0]) >= length:
                    yield name, word.start, word.end, word.text

    return [*found()]


GAP: Ticks = RATE
"""A word on the page begins with the short gap before it; no gap that long is part of one."""


def _word(floor: Floor, at: int) -> list[tuple[str, int, int]]:
    """The word on the page at a laid time."""
    return _words(floor, at, at + GAP)[:1]


def _words(floor: Floor, begin: int, end: int) -> list[tuple[str, int, int]]:
    """The same without their text."""
    return [(name, start, until) for name, start, until, _ in _said(floor, begin, end)]
