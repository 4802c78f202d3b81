"""Mending words. They belong to recordings; the step is the edition's in which it was asked for."""

from __future__ import annotations

from abc import abstractmethod
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from jaskel.core.operations import Operation
from jaskel.store.corrections import Corrections
from jaskel.store.models import EditionRow, Voice
from jaskel.store.sessions import new_voice
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.schemas.common import OneLine, RangeField, SeveralLines, TicksField


class Correcting(Asked):
    """A request that mends words."""

    def operation(self, floor: Floor) -> Operation:
        corrections = Corrections(floor.session, floor.opened.edition, floor.context.workshop.home.transcripts)
        self.correct(floor, corrections)
        return corrections.operation

    @abstractmethod
    def correct(self, floor: Floor, corrections: Corrections) -> None:
        """Mend them."""


@asked
class RetypeIn(Correcting):
    """Give the words in ranges another text: one for all, so that a word is replaced wherever it was misheard."""

    kind: Literal["retype"]
    ranges: Annotated[list[RangeField], Field(min_length=1, max_length=5_000)]
    text: Annotated[str, StringConstraints(strip_whitespace=True, max_length=20_000), SeveralLines]

    def correct(self, _floor: Floor, corrections: Corrections) -> None:
        for each in self.ranges:
            corrections.retype((each.begin, each.end), self.text)


@asked
class GiveVoiceIn(Correcting):
    """Say whose words these are: an id, or the name of a voice that may be new. ``onward`` goes on to the end."""

    kind: Literal["give voice"]
    begin: TicksField
    end: TicksField
    voice: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80), OneLine]
    onward: bool = False

    def correct(self, floor: Floor, corrections: Corrections) -> None:
        corrections.give_voice((self.begin, self.end), self._voice(floor).id, onward=self.onward)

    def _voice(self, floor: Floor) -> Voice:
        """The voice with an id or a name; a name that nobody has yet makes a new one."""
        show = floor.session.get_one(EditionRow, floor.opened.id).episode.show
        wanted = self.voice.casefold()
        known = next((voice for voice in show.voices if wanted in (voice.id, voice.name.casefold())), None)
        return known or new_voice(floor.session, show.id, self.voice)


@asked
class AcceptIn(Correcting):
    """Say that unsure words are right as they are."""

    kind: Literal["accept"]
    begin: TicksField
    end: TicksField

    def correct(self, _floor: Floor, corrections: Corrections) -> None:
        corrections.accept((self.begin, self.end))


@asked
class PassageIn(Correcting):
    """Let a passage begin with the word at a place, or run on into the one before."""

    kind: Literal["passage"]
    at: TicksField
    begins: bool
    places = ("at",)

    def correct(self, _floor: Floor, corrections: Corrections) -> None:
        corrections.begin_passage(self.at, self.begins)


@asked
class EdgesIn(Correcting):
    """Say where the word at a place begins and ends."""

    kind: Literal["edges"]
    at: TicksField
    begin: TicksField
    end: TicksField
    places = ("at",)

    def correct(self, _floor: Floor, corrections: Corrections) -> None:
        corrections.set_edges(self.at, self.begin, self.end)
