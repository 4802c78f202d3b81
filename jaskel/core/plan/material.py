"""What an edition is compiled against: the tracks of its recordings, with clocks and pictures, and what is said in them."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from types import MappingProxyType

from jaskel.core.captions.house import USUAL_HOUSE, HouseCaptions
from jaskel.core.muted import Carriers
from jaskel.core.picture.faces import Faces
from jaskel.core.picture.style import USUAL_STYLE, Style
from jaskel.core.session import Picture, Session, Track
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript


@dataclass(frozen=True, slots=True)
class Footage:
    """A picture or film that can lie over the words; a still picture has no length."""

    picture: Picture
    length: Ticks = 0
    sounds: bool = False


EMPTY: Mapping[str, Session] = MappingProxyType({})
NOTHING_SAID: Mapping[str, Transcript] = MappingProxyType({})
NO_FACES: Mapping[str, Faces] = MappingProxyType({})
NO_ENVELOPES: Mapping[str, bytes] = MappingProxyType({})
NO_NUMBERS: Mapping[str, int] = MappingProxyType({})
NO_FOOTAGE: Mapping[str, Footage] = MappingProxyType({})
NO_LENGTHS: Mapping[str, Ticks] = MappingProxyType({})
NOBODY: Mapping[str, tuple[str, str]] = MappingProxyType({})
UNMEASURED: Mapping[str, Sequence[float]] = MappingProxyType({})


@dataclass(frozen=True)
class Material:
    """Recordings and sessions by their ids.

    Attributes
    ----------
    sessions
        The tracks that play together under an id. A recording alone is a session of one; what is not named is one, too.
    transcripts
        What is said in each.
    processed
        Tracks whose sound has been through the chain of that name (:func:`jaskel.core.sound.processor.name_of`). Until it has,
        a track is heard as it is.
    lengths
        Of the recordings that lie under the words as beds.
    loudness
        Of strips that are ridden by it: the mean square of the weighted sound every :data:`jaskel.core.sound.ride.STEP`.
    captions
        The rules and the look that the show wants.
    faces
        Of recordings in whose pictures they were looked for.
    style
        The house style of the show's pictures.
    footage
        Of the recordings that lie over the words as cutaways.
    envelopes
        How loud recordings are, a byte for each 10 ms; only where that is drawn.
    numbers
        The numbers of voices, by which they have their colours.
    titles
        Of the episode and its show, as cards have them.
    people
        The names and roles of voices, by their ids.
    """

    sessions: Mapping[str, Session] = field(default_factory=lambda: EMPTY)
    transcripts: Mapping[str, Transcript] = field(default_factory=lambda: NOTHING_SAID)
    processed: frozenset[tuple[str, str]] = frozenset()
    lengths: Mapping[str, Ticks] = field(default_factory=lambda: NO_LENGTHS)
    loudness: Mapping[str, Sequence[float]] = field(default_factory=lambda: UNMEASURED)
    captions: HouseCaptions = USUAL_HOUSE
    faces: Mapping[str, Faces] = field(default_factory=lambda: NO_FACES)
    style: Style = USUAL_STYLE
    people: Mapping[str, tuple[str, str]] = field(default_factory=lambda: NOBODY)
    footage: Mapping[str, Footage] = field(default_factory=lambda: NO_FOOTAGE)
    envelopes: Mapping[str, bytes] = field(default_factory=lambda: NO_ENVELOPES)
    numbers: Mapping[str, int] = field(default_factory=lambda: NO_NUMBERS)
    titles: tuple[str, str] = ("", "")

    def tracks(self, name: str) -> tuple[Track, ...]:
        """The tracks that play under an id."""
        known = self.sessions.get(name)
        return known.tracks if known else (Track(name, 0),)

    def sounding(self, name: str) -> tuple[Track, ...]:
        """Those of them that are heard."""
        return tuple(track for track in self.tracks(name) if track.sounds)

    def camera(self, name: str, voice: str = "") -> Track | None:
        """The track that is seen: the first with a picture, or of those the first that shows a ``voice``."""
        return next((track for track in self.tracks(name) if track.picture and (not voice or track.voice == voice)), None)

    @property
    def carriers(self) -> Carriers:
        """Which tracks carry which voice. One recording alone carries all that is said in it."""
        found: dict[str, dict[str | None, list[str]]] = {}
        for name in {*self.sessions, *self.transcripts}:
            mine = found.setdefault(name, {})
            for track in self.sounding(name):
                mine.setdefault(track.voice if track.recording != name else None, []).append(track.recording)
        return found


class Later(Mapping[str, Transcript]):
    """Transcripts that are only put together when somebody looks into them: most edits never do."""

    def __init__(self, make: Callable[[], Mapping[str, Transcript]]) -> None:
        self._make = make

    @cached_property
    def _made(self) -> Mapping[str, Transcript]:
        return self._make()

    def __getitem__(self, name: str) -> Transcript:
        return self._made[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._made)

    def __len__(self) -> int:
        return len(self._made)


BARE = Material()
"""Nothing is known but the names of recordings, each of which plays alone."""
