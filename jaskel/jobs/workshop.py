"""What a process has open to work on a data folder: the stores, and the sound of recordings."""

from __future__ import annotations

from pathlib import Path
from threading import Lock

import numpy as np
from cachetools import LRUCache

from jaskel.core.picture.style import Style
from jaskel.core.plan import Feed, Material
from jaskel.core.sound.processor import name_of
from jaskel.core.source import Recorded, Source, home_of
from jaskel.core.timebase import Ticks
from jaskel.media.graphics import Artist
from jaskel.media.room_tone import make_room_tone
from jaskel.media.sound import Shelf, sound_of, to_mono_16k
from jaskel.media.typefaces import Typefaces
from jaskel.settings import Settings
from jaskel.store.home import Home
from jaskel.store.models import Recording
from jaskel.store.sessions import session_in


class Workshop:
    """Opened once in the server and once in the worker; safe to use from several threads."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.home = Home(settings)
        self._making = Lock()
        self._digests: LRUCache[str, str] = LRUCache(4096)
        self.sound = Shelf(self.file_of)
        self.faces = Typefaces(settings.fonts)

    def artist(self, titles: tuple[str, str], style: Style) -> Artist:
        """What draws the cards and graphics of an episode, by the titles of it and its show."""
        return Artist(*titles, style, self.faces, self.settings.logos.joinpath)

    def file_of(self, feed: Feed) -> Path:
        """The file of a feed; room tone is made when it is first wanted."""
        vault = self.home.vault
        digest = self._digests.get(feed.recording)
        if digest is None:
            with self.home.database.read() as session:
                # A recording's original never changes: another file is another recording.
                digest = self._digests[feed.recording] = session.get_one(Recording, feed.recording).digest
        return self._tone(digest, feed) if feed.tone else vault.sound(digest, feed.drift, name_of(feed.chain))

    def heard(self, source: Source, start: Ticks, end: Ticks) -> np.ndarray:
        """What a source sounds like by itself between two of its ticks, all tracks of a session together, as stereo."""
        sessions = {}
        if isinstance(source, Recorded):
            names = {source.recording, home_of(source) or ""}
            with self.home.database.read() as session:
                sessions = {name: known for name in names if (known := session_in(session, name))}
        return sound_of(source, start, end, self.sound.read, Material(sessions))

    def heard_16k(self, name: str, start: Ticks, end: Ticks) -> np.ndarray:
        """The same of a recording or session, as the recogniser wants it: float32 mono at 16 kHz."""
        return to_mono_16k(lambda a, b: self.heard(Recorded(name), a, b), start, end)

    def _tone(self, digest: str, feed: Feed) -> Path:
        """The room tone of an original, as its chain leaves it; made when it is first wanted."""
        vault, chain = self.home.vault, name_of(feed.chain)
        tone = vault.tone(digest, chain)
        with self._making:
            if tone.exists():
                return tone
            with vault.making(tone) as new:
                make_room_tone(vault.sound(digest, feed.drift, chain), vault.peaks(digest), new)
        return tone

    def close(self) -> None:
        self.sound.close()
        self.home.close()
