"""Everything in a PostgreSQL that machines share, moved there and back; tests of the library once more, on that."""

from __future__ import annotations

import threading

import pytest
from conftest import RATE, Jaskel, tone, write_media
from sqlalchemy import select
from test_library import *  # noqa: F403
from test_retyping import operate

from jaskel.cli import main
from jaskel.core.problem import Problem
from jaskel.core.transcript import Word
from jaskel.settings import Settings
from jaskel.store.backup import back_up, restore
from jaskel.store.check import check
from jaskel.store.database import Database
from jaskel.store.models import Base, Job
from jaskel.store.move import copy_rows


@pytest.fixture
def settings(postgresql, tmp_path):
    return Settings(tmp_path / "data", shared_database=postgresql.database())


def strike(jaskel, episode, second):
    ranges = [{"begin": second * RATE, "end": second * RATE + RATE // 2}]
    operate(jaskel, episode["editions"][0]["id"], kind="strike", ranges=ranges, reason="by hand")


def faults(jaskel):
    return [each.told for each in check(jaskel.workshop.home)]


def rows_of(database: Database) -> dict[str, list[tuple[object, ...]]]:
    with database.read() as session:
        return {
            table.name: sorted((tuple(row) for row in session.execute(select(table))), key=repr)
            for table in Base.metadata.sorted_tables
        }


@pytest.fixture
def filled(tmp_path):
    """Jaskel on a file, with an episode that has a history, words, and a row of each kind that is numbered."""
    made = Jaskel(Settings(tmp_path / "file"))
    known = made.episode()
    recording = made.upload(known["id"], write_media(tmp_path / "a.flac", tone(60)))["id"]
    made.work()
    made.words(recording, [Word(f"naïve{n}", n * RATE, n * RATE + 9000, 0.5) for n in range(40)])
    for second in range(50):
        strike(made, known, second)
    yield made, known
    made.workshop.close()


def test_all_moves_there_and_back(postgresql, filled, tmp_path, capsys):
    made, known = filled
    address, data = postgresql.database(), made.settings.data
    before = rows_of(made.workshop.home.database)
    assert main(["move", "--into", address, "--data", str(data)]) == 0
    assert "each is the same" in capsys.readouterr().out
    shared = Jaskel(Settings(data, shared_database=address))
    assert rows_of(shared.workshop.home.database) == before
    edition = known["editions"][0]["id"]
    for path in (f"/api/editions/{edition}", f"/api/editions/{edition}/history", "/api/search?words=naïve7"):
        assert shared.get(path) == made.get(path)
    # What is numbered goes on counting, and edits go on.
    strike(shared, known, 55)
    assert faults(shared) == []
    after = rows_of(shared.workshop.home.database)
    shared.workshop.close()
    there = tmp_path / "there"
    assert main(["move", "--out-of", address, "--data", str(there)]) == 0
    back = Database(Settings(there).database)
    assert rows_of(back) == after
    back.close()
    assert main(["move", "--into", address, "--data", str(data)]) == 2
    assert "empty database" in capsys.readouterr().err


def test_a_backup_has_the_form_of_the_file(postgresql, filled, tmp_path):
    made, _known = filled
    shared = Settings(made.settings.data, shared_database=postgresql.database())
    database = Database(shared.shared_database)
    copy_rows(made.workshop.home.database, database)
    back_up(shared, tmp_path / "copy")
    for restored in (Settings(tmp_path / "one"), Settings(tmp_path / "two", shared_database=postgresql.database())):
        restore(tmp_path / "copy", restored)
        there = Jaskel(restored)
        assert rows_of(there.workshop.home.database) == rows_of(database)
        assert faults(there) == []
        there.workshop.close()
    database.close()


def test_other_addresses_are_refused(monkeypatch, tmp_path):
    monkeypatch.setenv("JASKEL_DATABASE", "mysql://x:secret@y/z")
    with pytest.raises(Problem) as refused:
        Settings.from_environment(tmp_path)
    assert "secret" not in refused.value.sentence


def test_one_writes_at_a_time_and_nothing_is_lost(settings):
    made = Jaskel(settings)
    show = made.post("/api/shows", {"name": "Ropewalk", "about": ""}, 201)["id"]

    def count() -> None:
        for _ in range(20):
            with made.workshop.home.database.write() as session:
                row = session.get(Job, "counted") or Job(id="counted", kind="count", subject=show)
                row.total = (row.total or 0) + 1
                session.add(row)

    threads = [threading.Thread(target=count) for _ in range(4)]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    with made.workshop.home.database.read() as session:
        assert session.get_one(Job, "counted").total == 80
    made.workshop.close()


def test_who_reads_sees_one_moment(settings):
    made = Jaskel(settings)
    made.post("/api/shows", {"name": "Ropewalk", "about": ""}, 201)
    with made.workshop.home.database.read() as session:
        before = session.scalars(select(Job)).all()
        with made.workshop.home.database.write() as other:
            other.add(Job(kind="count", subject="x"))
        assert session.scalars(select(Job)).all() == before
    made.workshop.close()
