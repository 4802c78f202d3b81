"""What a process has open to work on a data folder: the stores, and the sound of recordings."""

from __future__ import annotations

from jaskel.media.sound import Shelf, Sounding, alone
from jaskel.settings import Settings
from jaskel.store.home import Home
from jaskel.store.models import Recording, SessionRow


class Workshop:
    """Opened once in the server and once in the worker; safe to use from several threads."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.home = Home(settings)
        self._known: dict[str, tuple[Sounding, ...]] = {}
        self.sound = Shelf(self._sound_of)

    def _sound_of(self, name: str) -> tuple[Sounding, ...]:
        """The files that sound under the id of a recording or session."""
        if name in self._known:
            return self._known[name]
        vault = self.home.vault
        with self.home.database.read() as session:
            if row := session.get(SessionRow, name):
                return tuple(
                    Sounding(vault.sound(track.recording.digest, track.drift), track.offset)
                    for track in row.tracks
                    if track.sounds
                )
            # What a recording sounds like never changes; a session may be shifted.
            return self._known.setdefault(name, alone(vault.sound(session.get_one(Recording, name).digest)))

    def close(self) -> None:
        self.sound.close()
        self.home.close()
