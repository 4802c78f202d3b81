"""What is deleted stays for a while, so that it can be brought back: exports, texts that were brought, takes."""

from __future__ import annotations

from datetime import timedelta
from typing import TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.store.models import BroughtText, Export, Take, now
from jaskel.store.vault import Vault

KEPT = timedelta(days=7)

Row = TypeVar("Row", Export, BroughtText, Take)


def found(session: Session, table: type[Row], id: str) -> Row | None:
    """A row that is not deleted."""
    row = session.get(table, id)
    return None if row is None or row.deleted else row


def sweep(session: Session, vault: Vault) -> None:
    """Forget for good what was deleted more than a week ago, and its files."""
    long_ago = now() - KEPT
    for export in session.scalars(select(Export).where(Export.deleted < long_ago)):
        vault.export(export.id).unlink(missing_ok=True)
        session.delete(export)
    for take in session.scalars(select(Take).where(Take.deleted < long_ago)):
        vault.take(take.id).unlink(missing_ok=True)
        session.delete(take)
    for text in session.scalars(select(BroughtText).where(BroughtText.deleted < long_ago)):
        session.delete(text)
