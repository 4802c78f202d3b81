"""Levels, and the chains of tracks."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from jaskel.core.marks.chain import set_chain
from jaskel.core.marks.level import LOUDEST, MUTED, Setting, set_fader, set_levels, told_levels
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.problem import Problem
from jaskel.core.sound.processor import Gain
from jaskel.core.source import Recorded
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
        """One level for each stretch of the range that is of a recording with that track."""
        edition = floor.opened.edition
        wanted = [
            Setting(run.source.recording, track, run.start + begin - run.laid, run.start + end - run.laid, self.decibels)
            for run in edition.runs
            if isinstance(run.source, Recorded)
            for begin, end in [(max(self.begin, run.laid), min(self.end, run.laid + run.end - run.start))]
            if begin < end
            for track in ([self.track] if self.track else tracks_of(floor.session, run.source.recording))
        ]
        if not wanted:
            raise Problem("no-track", "Nothing of that track is heard in the range. Select again and repeat it.")
        return SetMarks.of(set_levels(edition.marks, wanted), told_levels(wanted))


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
