"""Cutaways: a picture or film over the words."""

from __future__ import annotations

from typing import Any, Literal

from jaskel.core.marks.cutaway import Cutaway
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.picture.framing import Box
from jaskel.core.problem import Problem
from jaskel.store.models import Recording
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.asked.beds import tie_of
from jaskel.web.asked.shots import known_framing
from jaskel.web.schemas.common import TicksField
from jaskel.web.schemas.cutaways import CutawayFields
from jaskel.web.schemas.sound import TieField


@asked
class CutawayIn(CutawayFields, Asked):
    """Lay a picture or film over the words of a range, or change how one lies there (by its ``id``)."""

    kind: Literal["cutaway"]
    id: str | None = None
    recording: str
    begin: TicksField
    end: TicksField

    def operation(self, floor: Floor) -> Operation:
        recording, edition = floor.session.get(Recording, self.recording), floor.opened.edition
        if recording is None or recording.state != "ready":
            raise Problem("no-recording", "This picture is not here, or not ready yet. Choose another.")
        if not recording.info.get("picture"):
            raise Problem("no-picture", f"“{recording.name}” has no picture, so it cannot be seen over the words.")
        if self.begin >= self.end:
            raise Problem("no-words", "Select the words that the picture is to be seen over.")
        if recording.length and self.place >= recording.length:
            raise Problem("past-its-end", f"“{recording.name}” is not as long as that. Let it begin earlier.")
        known_framing(floor, self.framing)
        known = edition.marks.get(self.id) if self.id else None
        if self.id and not isinstance(known, Cutaway):
            raise Problem("no-cutaway", "This cutaway is not there any more; it may have been taken off meanwhile.")
        ties = ((self.begin, False), (self.end, True))
        anchors = tuple(tie_of(edition, TieField(to="word", at=at), ends=ends) for at, ends in ties)
        try:
            new = Cutaway(
                self.id or edition.marks.free_id(f"cutaway.{self.recording}"), anchors, self.recording, self.place,
                self.framing, Box(*self.first), Box(*self.last), self.decibels, self.on,
            )  # fmt: skip
        except ValueError as error:
            raise Problem("no-part", "A part of the picture reaches beyond its edges. Draw it anew.") from error
        if new == known:
            raise Problem("nothing-changed", "That changes nothing: it is so already.")
        told = f"changed the cutaway “{recording.name}”" if known else f"laid “{recording.name}” over the words"
        if isinstance(known, Cutaway) and known.on != self.on:
            told = f"turned “{recording.name}” {'on' if self.on else 'off'}"
        return SetMarks.of({new.id: new}, told)


@asked
class CutawayOffIn(Asked):
    """Take a cutaway off: who speaks is seen again. The recording stays with the episode."""

    kind: Literal["cutaway off"]
    id: str

    def carried(self, _since: Any) -> CutawayOffIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        if not isinstance(floor.opened.edition.marks.get(self.id), Cutaway):
            raise Problem("no-cutaway", "This cutaway is not there any more; it may have been taken off meanwhile.")
        return SetMarks.of({self.id: None}, "took a cutaway off")
