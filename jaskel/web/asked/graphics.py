"""What is drawn over the picture: lower thirds, titles, logo and bar."""

from __future__ import annotations

from typing import Any, Literal

from jaskel.core.marks.anchor import Stretch
from jaskel.core.marks.graphic import LowerThird, TitleHere, set_card, set_dressing
from jaskel.core.marks.mark import Mark
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.picture.card import CardLook, WhichCard
from jaskel.core.picture.graphic import TitlePlace
from jaskel.core.places import Places
from jaskel.core.plan import Plan
from jaskel.core.plan.picture import Carded
from jaskel.core.problem import Problem
from jaskel.core.source import Card, Drawn
from jaskel.core.timebase import RATE, Ticks
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.asked.shots import places_in
from jaskel.web.context import show_of
from jaskel.web.schemas.common import TicksField
from jaskel.web.schemas.graphics import CardLookField, NameField, TitleField


class _OverWords(Asked):
    """What is drawn over the words of a range, or a change of it by its ``id``."""

    id: str | None = None
    begin: TicksField
    end: TicksField

    def anchors(self, floor: Floor) -> tuple[Stretch, ...]:
        """The words of the range; of several recordings those of the first."""
        return (Stretch(*places_in(floor, self.begin, self.end)[0]),)

    def known(self, floor: Floor, kind: type[Mark]) -> Mark | None:
        found = floor.opened.edition.marks.get(self.id) if self.id else None
        if self.id and not isinstance(found, kind):
            raise Problem("no-graphic", "This is not there any more; it may have been taken off meanwhile.")
        return found

    def put(self, new: Mark, known: Mark | None, told: str) -> Operation:
        if new == known:
            raise Problem("nothing-changed", "That changes nothing: it is so already.")
        return SetMarks.of({new.id: new}, told)


@asked
class LowerThirdIn(_OverWords):
    """Show who speaks over the words of a range: a ``voice``, under its own name and role unless others are given."""

    kind: Literal["lower third"]
    voice: NameField = ""
    name: NameField = ""
    role: NameField = ""

    def operation(self, floor: Floor) -> Operation:
        known = self.known(floor, LowerThird)
        if not self.voice and not self.name:
            raise Problem("no-name", "A lower third needs a voice or a name. Type who it is.")
        id = self.id or floor.opened.edition.marks.free_id("lower third")
        new = LowerThird(id, self.anchors(floor), self.voice, self.name, self.role)
        return self.put(new, known, "changed a lower third" if known else "put in a lower third")


@asked
class TitleIn(_OverWords):
    """Write words over the picture of a range."""

    kind: Literal["title"]
    text: TitleField
    down: TitlePlace = "middle"

    def operation(self, floor: Floor) -> Operation:
        known = self.known(floor, TitleHere)
        id = self.id or floor.opened.edition.marks.free_id("title")
        new = TitleHere(id, self.anchors(floor), self.text, self.down)
        return self.put(new, known, f"changed the title “{self.text}”" if known else f"wrote “{self.text}” over the picture")


STRAP: Ticks = 5 * RATE
"""A lower third stands so long, where its voice speaks as long."""

PART: Ticks = RATE
"""A rest or card at least so long begins another part of the programme, where nothing else is said in it."""


@asked
class LowerThirdsIn(Asked):
    """Show the name and role of every voice that has a name, where it first speaks in each part; cards part a programme."""

    kind: Literal["lower thirds"]

    def carried(self, _since: Any) -> LowerThirdsIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        marks, plan = floor.opened.edition.marks, floor.context.plan(floor.session, floor.opened)
        changes: dict[str, Mark | None] = {each.id: None for each in marks.all(LowerThird)}
        places = Places(floor.opened.edition)
        named = {voice.id for voice in show_of(floor.session, floor.opened).voices if voice.name}
        for voice, begin, end in _first_words(plan, named):
            recording, start, until = places_in(floor, plan.laid_at(begin), plan.laid_at(end - 1) + 1)[0]
            if places.whole(recording, start, until):
                id = marks.changed(changes).free_id(f"lower third.{voice}")
                changes[id] = LowerThird(id, (Stretch(recording, start, until),), voice)
        changes = {id: mark for id, mark in changes.items() if mark or marks.get(id)}
        if not any(changes.values()):
            raise Problem("no-voices", "Nobody who speaks here has a name yet. Name the voices under Read first.")
        same = {_bare(each) for each in marks.all(LowerThird)} == {_bare(each) for each in changes.values() if each}
        if same:
            raise Problem("nothing-changed", "That changes nothing: everybody has a lower third already.")
        count = sum(mark is not None for mark in changes.values())
        return SetMarks.of(changes, f"put in {count} lower third{'' if count == 1 else 's'}")


def _bare(mark: Mark) -> tuple[Any, ...]:
    assert isinstance(mark, LowerThird)
    return mark.anchors, mark.voice, mark.name, mark.role


def _first_words(plan: Plan, named: set[str]) -> list[tuple[str, Ticks, Ticks]]:
    """Each of the ``named`` voices, and from-to in the programme of what it says first in each part of it."""
    long = [layer for layer in plan.layers if layer.until - layer.begin >= PART]
    cards = [layer.begin for layer in long if isinstance(layer.shown, Card | Drawn | Carded)]
    out: list[tuple[str, Ticks, Ticks]] = []
    seen: set[tuple[str, int]] = set()
    words = plan.words
    for number, word in enumerate(words):
        part = sum(at <= word.start for at in cards)
        voice = word.word.voice or ""
        if voice not in named or (voice, part) in seen:
            continue
        seen.add((voice, part))
        end = word.end
        for later in words[number + 1 :]:
            if later.word.voice != word.word.voice or later.end - word.start > STRAP:
                break
            end = later.end
        out.append((voice, word.start, end))
    return out


@asked
class GraphicOffIn(Asked):
    """Take a lower third or a title off; with no ``id``, all lower thirds."""

    kind: Literal["graphic off"]
    id: str | None = None

    def carried(self, _since: Any) -> GraphicOffIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        marks = floor.opened.edition.marks
        if self.id is None:
            ids = [each.id for each in marks.all(LowerThird)]
        else:
            ids = [self.id] if isinstance(marks.get(self.id), LowerThird | TitleHere) else []
        if not ids:
            raise Problem("no-graphic", "This is not there any more; it may have been taken off meanwhile.")
        return SetMarks.of(dict.fromkeys(ids), "took what was drawn over the picture off")


@asked
class CardLookIn(Asked):
    """Let one of an edition's cards look so."""

    kind: Literal["card look"]
    which: WhichCard
    look: CardLookField

    def carried(self, _since: Any) -> CardLookIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        look = CardLook(**{name: getattr(self.look, name) for name in CardLookField.model_fields})
        changes = set_card(floor.opened.edition.marks, self.which, look)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: the card looks so already.")
        return SetMarks.of(changes, "changed how a card looks")


@asked
class DressingIn(Asked):
    """Let the logo and the bar be seen in this edition or not; null is as the show has it."""

    kind: Literal["dressing"]
    logo: bool | None = None
    bar: bool | None = None

    def carried(self, _since: Any) -> DressingIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        changes = set_dressing(floor.opened.edition.marks, self.logo, self.bar)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: it is so already.")
        return SetMarks.of(changes, "changed what is drawn over every picture")
