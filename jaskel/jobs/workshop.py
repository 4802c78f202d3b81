"""What a process has open to work on a data folder: the stores, and the sound of recordings."""

from __future__ import annotations

from pathlib import Path

from jaskel.media.sound import Shelf
from jaskel.settings import Settings
from jaskel.store.home import Home
from jaskel.store.models import Recording


class Workshop:
    """Opened once in the server and once in the worker; safe to use from several threads."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.home = Home(settings)
        self.sound = Shelf(self._sound_of)

    def _sound_of(self, recording_id: str) -> Path:
        with self.home.database.read() as session:
            return self.home.vault.sound(session.get_one(Recording, recording_id).digest)

    def close(self) -> None:
        self.sound.close()
        self.home.close()
