"""Everything that is stored, opened together."""

from __future__ import annotations

from jaskel.settings import Settings
from jaskel.store.database import Database
from jaskel.store.editions import Editions
from jaskel.store.transcripts import Transcripts
from jaskel.store.vault import Vault


class Home:
    """Database, vault and repositories of one data folder."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.database = Database(settings.database)
        self.vault = Vault(settings.vault)
        self.transcripts = Transcripts()
        self.editions = Editions(self.transcripts)

    def close(self) -> None:
        self.database.close()
