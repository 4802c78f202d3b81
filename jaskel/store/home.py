"""Everything that is stored, opened together."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.exc import DBAPIError

from jaskel.settings import Settings
from jaskel.store import deleted
from jaskel.store.database import Database, problem_of
from jaskel.store.editions import Editions
from jaskel.store.models import Recording
from jaskel.store.scanner import Scanner
from jaskel.store.transcripts import Transcripts
from jaskel.store.vault import Vault


class Home:
    """Database, vault and repositories of one data folder."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.database = Database(settings.shared_database or settings.database)
        self.scanner = Scanner(settings.scanner)
        self.vault = Vault(settings.vault, settings.originals, self.scanner)
        if not self.vault.is_there and self._is_new():
            self.vault.begin()
        self.transcripts = Transcripts()
        self.editions = Editions(self.transcripts)

    def _is_new(self) -> bool:
        """Whether there are no media yet: where there are some, a folder that is missing is away and not to be made anew."""
        if self.database.is_file and not self.settings.database.exists():
            return True
        try:
            with self.database.read() as session:
                return session.scalar(select(Recording.id).limit(1)) is None
        except DBAPIError as error:
            return problem_of(error) is None  # it answers, but has no tables yet

    def sweep(self) -> None:
        """Delete what an earlier run left half made, and what was deleted long ago. Only while nothing else uses the folder."""
        if not self.vault.is_there:
            return
        with self.database.write() as session:
            deleted.sweep(session, self.vault)
        with self.database.read() as session:
            self.vault.sweep(lambda digest: session.scalar(select(Recording.id).where(Recording.digest == digest)) is not None)

    def close(self) -> None:
        self.database.close()
