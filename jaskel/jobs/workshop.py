"""What a process has open to work on a data folder: the stores, and the sound of recordings."""

from __future__ import annotations

from pathlib import Path
from threading import Lock

from jaskel.core.edition import ROOM_TONE
from jaskel.media.sound import Shelf, Sounding, alone
from jaskel.media.tone import make_room_tone
from jaskel.settings import Settings
from jaskel.store.home import Home
from jaskel.store.models import Recording, SessionRow
from jaskel.store.sessions import sounding_digests


class Workshop:
    """Opened once in the server and once in the worker; safe to use from several threads."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.home = Home(settings)
        self._making = Lock()
        self._known: dict[str, tuple[Sounding, ...]] = {}
        self.sound = Shelf(self._sound_of)

    def _sound_of(self, name: str) -> tuple[Sounding, ...]:
        """The files that sound under the id of a recording or session, or as the room tone of one."""
        if name in self._known:
            return self._known[name]
        vault = self.home.vault
        with self.home.database.read() as session:
            if name.startswith(ROOM_TONE):
                return tuple(Sounding(self._tone(digest)) for digest in sounding_digests(session, name[len(ROOM_TONE) :]))
            if row := session.get(SessionRow, name):
                return tuple(
                    Sounding(vault.sound(track.recording.digest, track.drift), track.offset, track.recording_id)
                    for track in row.tracks
                    if track.sounds
                )
            # What a recording sounds like never changes; a session may be shifted.
            return self._known.setdefault(name, alone(vault.sound(session.get_one(Recording, name).digest)))

    def _tone(self, digest: str) -> Path:
        """The room tone of an original, made when it is first wanted."""
        tone = self.home.vault.tone(digest)
        with self._making:
            if tone.exists():
                return tone
            with self.home.vault.making(tone) as new:
                make_room_tone(self.home.vault.sound(digest), self.home.vault.peaks(digest), new)
        return tone

    def close(self) -> None:
        self.sound.close()
        self.home.close()
