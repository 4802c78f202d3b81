"""Data of earlier forms open with all that is in them, and an update that fails leaves them as they were."""

from __future__ import annotations

import json
import shutil
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from pathlib import Path

import pytest
from alembic import op
from conftest import RATE, Jaskel
from sqlalchemy import select

from jaskel.settings import Settings
from jaskel.store.check import check
from jaskel.store.database import MIGRATIONS, Database
from jaskel.store.models import Account

FIXTURES = Path(__file__).resolve().parents[1] / "fixtures"
FORM = FIXTURES / "form_0033"
NEWEST = max(path.name[:4] for path in (MIGRATIONS / "versions").glob("[0-9]*.py"))


@pytest.fixture
def data(tmp_path):
    shutil.copytree(FORM / "data", tmp_path / "data")
    return tmp_path / "data"


def holds(known: object, today: object, where: str = "") -> None:
    """What was told then is told today, beside what was not told yet."""
    if isinstance(known, dict):
        assert isinstance(today, dict), where
        for name, value in known.items():
            assert name in today, f"{where} {name}"
            holds(value, today[name], f"{where} {name}")
    elif isinstance(known, list):
        assert isinstance(today, list) and len(known) == len(today), where
        if all(isinstance(each, str) for each in known):  # what somebody may do has no order
            known, today = sorted(known), sorted(today)
        for number, (one, other) in enumerate(zip(known, today, strict=True)):
            holds(one, other, f"{where} {number}")
    else:
        assert known == today, where


def test_what_an_earlier_version_told_is_told_today(data):
    jaskel = Jaskel(Settings(data))
    for path, known in json.loads((FORM / "expected.json").read_text()).items():
        holds(known, jaskel.get(path), path)
    assert [fault.told for fault in check(jaskel.workshop.home)] == []
    with jaskel.workshop.home.database.read() as session:
        assert session.scalar(select(Account.name)) == "Orla Quist"
    edition = next(path.split("/")[3] for path in json.loads((FORM / "expected.json").read_text()) if path.endswith("/page"))
    before = jaskel.get(f"/api/editions/{edition}")["running_time"]
    strike = {"kind": "strike", "ranges": [{"begin": 4 * RATE, "end": 5 * RATE}], "why": "by hand"}
    head = jaskel.get(f"/api/editions/{edition}")["revision"]
    jaskel.post(f"/api/editions/{edition}/operations", {"revision": head, "operation": strike})
    assert jaskel.get(f"/api/editions/{edition}")["running_time"] < before
    jaskel.workshop.close()


def dumped(file: Path) -> list[str]:
    with closing(sqlite3.connect(file)) as known:
        return [*known.iterdump()]


@pytest.mark.parametrize("form", ["first_form", "form_0033"])
@pytest.mark.parametrize("place", ["its first", "its last"])
def test_an_update_that_fails_leaves_the_old_state(tmp_path, monkeypatch, form, place):
    """Each form goes through all later ones: it fails at the first table that is altered, or at the last."""
    file = tmp_path / "jaskel.db"
    shutil.copy(FIXTURES / form / "data" / "jaskel.db", file)
    before = dumped(file)
    calls: list[str] = []
    real, fails_at = op.batch_alter_table, 0

    def altered(name, *more, **how):
        calls.append(name)
        if len(calls) == fails_at:
            raise OSError("the disk is gone")
        return real(name, *more, **how)

    monkeypatch.setattr(op, "batch_alter_table", altered)
    shutil.copy(file, tmp_path / "another.db")
    migrated(tmp_path / "another.db")
    fails_at = 1 if place == "its first" else len(calls)
    calls.clear()
    with pytest.raises(OSError, match="the disk is gone"):
        migrated(file)
    assert dumped(file) == before
    calls.clear()
    fails_at = 0
    migrated(file)
    assert tables(file) == tables(tmp_path / "another.db")


def tables(file: Path) -> list[str]:
    return sorted(line.partition(" (")[0] for line in dumped(file) if line.startswith("CREATE"))


def migrated(file: Path) -> None:
    database = Database(file)
    try:
        database.migrate()
    finally:
        database.close()


SLOWLY = """
import sys, time
from pathlib import Path
from alembic import op
from jaskel.store.database import Database
real = op.batch_alter_table
def slowly(*what, **how):
    time.sleep(0.15)
    return real(*what, **how)
op.batch_alter_table = slowly
print("begun", flush=True)
Database(Path(sys.argv[1])).migrate()
"""


@pytest.mark.parametrize("after", [0.15, 0.4, 0.6])
def test_one_that_is_killed_leaves_the_old_state_or_the_new(tmp_path, after):
    file = tmp_path / "jaskel.db"
    shutil.copy(FIXTURES / "first_form" / "data" / "jaskel.db", file)
    before = dumped(file)
    with subprocess.Popen([sys.executable, "-c", SLOWLY, str(file)], stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout
        process.stdout.readline()
        time.sleep(after)
        process.kill()
    with closing(sqlite3.connect(file)) as known:
        assert known.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
        (version,) = known.execute("SELECT version_num FROM alembic_version").fetchone()
    assert version == NEWEST or dumped(file) == before
    migrated(file)
    assert f"'{NEWEST}'" in "\n".join(dumped(file))
