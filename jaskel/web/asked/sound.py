"""Levels, and the chains of tracks."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints

from jaskel.core.marks.bleep import set_bleeps
from jaskel.core.marks.chain import chains, set_chain, set_chain_here
from jaskel.core.marks.level import LOUDEST, MUTED, set_fader, set_pan
from jaskel.core.marks.loudness import set_loudness
from jaskel.core.marks.mark import Mark, strip_parts
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.operations.marks import levelled
from jaskel.core.problem import Problem
from jaskel.core.sound.chains import OWN, called
from jaskel.core.sound.processor import AS_IT_IS
from jaskel.core.source import Recorded
from jaskel.store.models import Recording
from jaskel.store.sessions import tracks_of
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.schemas.common import OneLine, TicksField
from jaskel.web.schemas.sound import ChainField, chain_of

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
class PanIn(Asked):
    """Place a whole track, from -1 (left) to 1 (right)."""

    kind: Literal["pan"]
    track: str
    place: Annotated[float, Field(ge=-1, le=1)]

    def carried(self, _since: Any) -> PanIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        _known(floor, self.track)
        told = "in the middle" if not self.place else f"{abs(self.place):.0%} to the {'left' if self.place < 0 else 'right'}"
        return SetMarks.of(set_pan(floor.opened.edition.marks, self.track, self.place), f"placed a track {told}")


@asked
class ProcessorsIn(Asked):
    """Send a whole track through a chain of processors before it is cut; through none with an empty one."""

    kind: Literal["processors"]
    track: str
    chain: ChainField
    told: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120), OneLine] = ""

    def carried(self, _since: Any) -> ProcessorsIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        _known(floor, self.track)
        marks, chain = floor.opened.edition.marks, chain_of(self.chain)
        if chains(marks).get(self.track, AS_IT_IS) == chain:
            raise Problem("nothing-changed", "That changes nothing: it is so already.")
        name = called(chain)
        told = f"sent a track through “{name}”" if name != OWN else "changed the chain of a track"
        return SetMarks.of(
            set_chain(marks, self.track, chain), self.told or (told if chain else "took a track out of its chain")
        )


@asked
class ProcessorsHereIn(Asked):
    """Send a range of a track through another chain than the rest of it; with null through that of the whole track."""

    kind: Literal["processors here"]
    track: str
    begin: TicksField
    end: TicksField
    chain: ChainField | None
    told: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120), OneLine] = ""

    def operation(self, floor: Floor) -> Operation:
        _known(floor, self.track)
        marks = floor.opened.edition.marks
        chain = None if self.chain is None else chain_of(self.chain)
        changes: dict[str, Mark | None] = {}
        for recording, track, start, end in _stretches(floor, self.begin, self.end, self.track):
            changes |= set_chain_here(marks, recording, track, start, end, chain)
        if not changes:
            raise Problem("nothing-changed", "That changes nothing: it is so already.")
        return SetMarks.of(
            changes, self.told or ("gave some words a chain of their own" if chain else "gave some words the chain of all")
        )


@asked
class BleepIn(Asked):
    """Put a tone over a range of one track, or with null of all; with ``on`` false take it off."""

    kind: Literal["bleep"]
    begin: TicksField
    end: TicksField
    track: str | None = None
    on: bool = True

    def operation(self, floor: Floor) -> Operation:
        marks = floor.opened.edition.marks
        changes = set_bleeps(marks, [*_stretches(floor, self.begin, self.end, self.track)], on=self.on)
        if not changes:
            raise Problem("nothing-changed", "There is no bleep there.")
        return SetMarks.of(changes, "bleeped some words" if self.on else "took a bleep off")


def _stretches(floor: Floor, begin: int, end: int, wanted: str | None) -> Iterator[tuple[str, str, int, int]]:
    """The stretches of tracks in a range of laid time: recording or session, track, start and end.

    Raises
    ------
    Problem
        ``no-track``.
    """
    found = [
        (name, track, run.start + first - run.laid, run.start + last - run.laid)
        for run in floor.opened.edition.runs
        if isinstance(run.source, Recorded)
        for first, last in [(max(begin, run.laid), min(end, run.laid + run.end - run.start))]
        if first < last
        for name in [run.source.recording]
        for track in tracks_of(floor.session, name)
        if wanted is None or track == wanted
    ]
    if not found:
        raise Problem("no-track", "Nothing of that track is heard in the range. Select again and repeat it.")
    yield from found


def _known(floor: Floor, strip: str) -> None:
    if floor.session.get(Recording, strip_parts(strip)[0]) is None:
        raise Problem("no-track", "This track is not here any more. Choose another.")


@asked
class LoudnessIn(Asked):
    """Bring the edition to a loudness in LUFS, held under a true peak in dBTP; with null it is as loud as it is mixed.

    ``mono`` makes it the same on both sides, and files of sound one channel, which the loudness is then that of.
    """

    kind: Literal["loudness"]
    target: Annotated[float, Field(ge=-60, le=-5)] | None
    peak: Annotated[float, Field(ge=-20, le=0)] = -1.0
    mono: bool = False

    def carried(self, _since: Any) -> LoudnessIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        told = (
            "left the programme as loud as it is mixed" if self.target is None else f"set the loudness to {self.target:g} LUFS"
        )
        return SetMarks.of(set_loudness(floor.opened.edition.marks, self.target, self.peak, mono=self.mono), told)
