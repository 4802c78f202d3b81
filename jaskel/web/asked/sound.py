"""Levels, and the chains of tracks."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from jaskel.core.marks.chain import set_chain
from jaskel.core.marks.level import LOUDEST, MUTED, set_fader
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.operations.marks import levelled
from jaskel.core.problem import Problem
from jaskel.core.sound.processor import Gain
from jaskel.store.models import Recording
from jaskel.store.sessions import tracks_of
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.schemas.common import TicksField

Decibels = Annotated[float, Field(ge=MUTED, le=LOUDEST)]


@asked
class AdjustIn(Asked):
    """Set the level of one track, or with null of all, in a range, in decibels to what was recorded; -120 is silence."""

    kind: Literal["adjust"]
    begin: TicksField
    end: TicksField
    track: str | None
    decibels: Decibels

    def operation(self, floor: Floor) -> Operation:
        session, edition = floor.session, floor.opened.edition

        def tracks(recording: str) -> list[str]:
            return [self.track] if self.track else tracks_of(session, recording)

        return levelled(edition, (self.begin, self.end), self.decibels, tracks)


@asked
class TrackLevelIn(Asked):
    """Set the level of a whole track."""

    kind: Literal["track level"]
    track: str
    decibels: Decibels

    def carried(self, _since: Any) -> TrackLevelIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        changes = set_fader(floor.opened.edition.marks, self.track, self.decibels)
        return SetMarks.of(changes, f"set a track to {self.decibels:+.1f} dB")


@asked
class GainIn(Asked):
    """Make a whole track louder before it is cut and processed, in decibels: for one that was recorded too quietly."""

    kind: Literal["gain"]
    track: str
    decibels: Annotated[float, Field(ge=-LOUDEST, le=2 * LOUDEST)]

    def carried(self, _since: Any) -> GainIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        if floor.session.get(Recording, self.track) is None:
            raise Problem("no-track", "This track is not here any more. Choose another.")
        chain = (Gain(decibels=self.decibels),) if self.decibels else ()
        return SetMarks.of(
            set_chain(floor.opened.edition.marks, self.track, chain), f"gave a track {self.decibels:+.1f} dB of gain"
        )
