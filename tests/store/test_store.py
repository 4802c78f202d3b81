"""The vault, the log of operations, transcripts and notices in real files and a real database."""

from __future__ import annotations

import hashlib
import os
from io import BytesIO
from threading import Thread

import pytest
from conftest import RATE
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError

from jaskel.core.operations import Append, PutBack, Strike, Telling
from jaskel.core.problem import Problem, Stale
from jaskel.core.transcript import Word
from jaskel.store import library
from jaskel.store.database import Database
from jaskel.store.editions import SNAPSHOT_EVERY, Editions
from jaskel.store.models import EditionRow, Episode, LogEntry, Recording, Snapshot
from jaskel.store.notices import KEPT, newest, post, since
from jaskel.store.vault import Vault

no_words = Telling(lambda _range: "")


@pytest.fixture
def edition(home) -> str:
    with home.database.write() as session:
        row = library.new_episode(session, library.new_show(session, "Ropewalk"), "The dry hull").editions[0]
        home.editions.arrive(session, row.id, Append("a", 100 * RATE))
        return row.id


def read(home, edition, editions=None):
    with home.database.read() as session:
        return (editions or home.editions).open(session, edition)


def perform(home, edition, operation, revision=None):
    with home.database.write() as session:
        revision = home.editions.open(session, edition).revision if revision is None else revision
        return home.editions.perform(session, edition, revision, operation, no_words)


class TestLog:
    def test_the_log_read_anew_is_the_edition(self, home, edition):
        for i in range(2 * SNAPSHOT_EVERY + 5):
            perform(home, edition, Strike(((i * RATE, i * RATE + RATE // 2),)))
        assert read(home, edition, Editions(home.transcripts)) == read(home, edition)
        with home.database.read() as session:
            assert session.scalar(select(func.count()).select_from(Snapshot)) == 2

    @settings(max_examples=20, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
    @given(st.lists(st.sampled_from(["strike", "put back", "undo", "redo"]), min_size=1, max_size=25), st.randoms())
    def test_any_course_of_edits_is_the_same_after_a_restart(self, home, edition, steps, random):
        for step in steps:
            try:
                with home.database.write() as session:
                    revision = home.editions.open(session, edition).revision
                    begin = random.randrange(0, 90 * RATE)
                    ranges = ((begin, begin + random.randrange(1, 10 * RATE)),)
                    match step:
                        case "strike":
                            home.editions.perform(session, edition, revision, Strike(ranges), no_words)
                        case "put back":
                            home.editions.perform(session, edition, revision, PutBack(ranges), no_words)
                        case "undo":
                            home.editions.undo(session, edition, revision)
                        case "redo":
                            home.editions.redo(session, edition, revision)
            except Problem as problem:
                assert problem.code in ("nothing-changed", "nothing-to-undo", "nothing-to-redo")  # noqa: PT017
        assert read(home, edition, Editions(home.transcripts)) == read(home, edition)

    def test_undoing_passes_over_material_that_arrived(self, home, edition):
        perform(home, edition, Strike(((0, RATE),)))
        with home.database.write() as session:
            home.editions.arrive(session, edition, Append("b", 5 * RATE))
        with home.database.write() as session:
            opened = home.editions.undo(session, edition, 3)
        assert opened.edition.struck_ranges == ()
        assert opened.edition.length == 105 * RATE
        assert opened.history.undoable == ()

    def test_a_refused_edit_leaves_nothing(self, home, edition):
        perform(home, edition, Strike(((0, RATE),)))
        with pytest.raises(Stale) as caught:
            perform(home, edition, Strike(((5, RATE),)), revision=1)
        assert caught.value.facts["revision"] == 2
        with pytest.raises(Problem, match="changes nothing"):
            perform(home, edition, Strike(((0, RATE),)))
        with home.database.read() as session:
            assert session.scalar(select(func.count()).select_from(LogEntry)) == 2
        assert read(home, edition).revision == 2

    def test_what_is_not_stored_is_not_remembered(self, home, edition):
        class Interruption(Exception):
            pass

        with pytest.raises(Interruption), home.database.write() as session:
            home.editions.perform(session, edition, 1, Strike(((0, RATE),)), no_words)
            raise Interruption
        assert read(home, edition).edition.struck_ranges == ()

    def test_of_many_at_once_on_one_revision_one_wins(self, home, edition):
        outcomes = []

        def try_it(second):
            try:
                perform(home, edition, Strike(((second * RATE, second * RATE + 99),)), revision=1)
                outcomes.append("done")
            except Stale:
                outcomes.append("stale")

        threads = [Thread(target=try_it, args=(second,)) for second in range(8)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        assert sorted(outcomes) == ["done"] + ["stale"] * 7
        assert read(home, edition).revision == 2


class TestDatabase:
    def test_foreign_keys_hold(self, home):
        with pytest.raises(IntegrityError), home.database.write() as session:
            session.add(Episode(title="No show", show_id="nothing"))
            session.flush()

    def test_tables_match_the_models(self, home):
        from alembic.autogenerate import compare_metadata
        from alembic.migration import MigrationContext

        from jaskel.store.models import Base

        def of_ours(name, kind, _parents):
            return not (kind == "table" and name.split("_")[0] == "spoken" and name != "spoken_parts")  # the full-text index

        with home.database.engine.connect() as connection:
            options = {"include_name": of_ours}
            assert compare_metadata(MigrationContext.configure(connection, opts=options), Base.metadata) == []

    def test_it_runs_with_a_write_ahead_log(self, home):
        with home.database.engine.connect() as connection:
            assert connection.exec_driver_sql("PRAGMA journal_mode").scalar() == "wal"
            assert connection.exec_driver_sql("PRAGMA synchronous").scalar() == 2

    def test_what_an_older_version_stored_is_kept(self, settings):
        database = Database(settings.database)
        database.migrate("0001")
        rows = {
            "shows": {"id": "s", "name": "Ropewalk", "about": "", "created": "2026-01-01 00:00:00"},
            "episodes": {"id": "e", "show_id": "s", "title": "The dry hull", "created": "2026-01-01 00:00:00"},
            "recordings": {
                "id": "r", "episode_id": "e", "name": "a", "digest": "0", "size": 1, "info": "{}", "state": "ready",
                "length": 9, "missing": 0, "trouble": "", "has_working_copy": 0, "language": "en", "transcript_state": "done",
                "transcript_trouble": "", "transcript_revision": 1, "created": "2026-01-01 00:00:00",
            },
            "transcript_parts": {"recording_id": "r", "start": 0, "end": 9, "words": '[["so", 0, 9, 0.5, null]]'},
        }  # fmt: skip
        with database.engine.begin() as connection:
            for table, values in rows.items():
                names = ", ".join(f'"{name}"' for name in values)
                places = ", ".join("?" * len(values))
                connection.exec_driver_sql(f"INSERT INTO {table} ({names}) VALUES ({places})", tuple(values.values()))
        database.migrate()
        with database.engine.connect() as connection:
            for table in rows:
                assert connection.exec_driver_sql(f"SELECT count(*) FROM {table}").scalar() == 1
            assert connection.exec_driver_sql("PRAGMA foreign_key_check").all() == []
            assert connection.exec_driver_sql("PRAGMA foreign_keys").scalar() == 1
        database.close()

    def test_migrating_twice_changes_nothing(self, home, edition):
        home.database.migrate()
        assert read(home, edition).revision == 1


class TestTranscripts:
    def test_parts_grow_and_say_how_far_they_reach(self, home, edition):
        with home.database.write() as session:
            row = session.get_one(EditionRow, edition)
            recording = Recording(episode_id=row.episode_id, name="a", digest="0", size=1, info={}, length=60 * RATE)
            session.add(recording)
            session.flush()
            home.transcripts.extend(session, recording, 0, 20 * RATE, [Word("so", 0, 99, 0.5)])
        with home.database.write() as session:
            recording = session.get_one(Recording, recording.id)
            assert home.transcripts.of(session, recording).reached == 20 * RATE
            home.transcripts.extend(session, recording, 20 * RATE, 60 * RATE, [Word("it", 21 * RATE, 22 * RATE)])
            assert [w.text for w in home.transcripts.of(session, recording).words] == ["so", "it"]
            assert home.transcripts.reached(session, recording.id) == 60 * RATE
            home.transcripts.clear(session, recording)
            assert home.transcripts.of(session, recording).words == ()


class TestNotices:
    def test_they_are_seen_in_order_and_old_ones_go(self, home):
        with home.database.write() as session:
            for i in range(KEPT + 500):
                post(session, "job", "e", id=i)
        with home.database.read() as session:
            assert newest(session) == KEPT + 500
            assert [n.facts["id"] for n, _ in since(session, KEPT + 497)] == [KEPT + 497, KEPT + 498, KEPT + 499]
            assert since(session, 0)[0][0].id > 300


class TestVault:
    @pytest.fixture
    def vault(self, tmp_path) -> Vault:
        made = Vault(tmp_path / "vault")
        made.begin()
        return made

    def files(self, vault):
        return [path for path in vault.root.rglob("*") if path.is_file()]

    def test_a_file_is_stored_once_by_what_is_in_it(self, vault):
        for _ in range(2):
            with vault.receive(BytesIO(b"sound" * 9), "a.wav", 45) as received:
                vault.keep(received)
        vault.claim(received.digest)
        assert [path.read_bytes() for path in self.files(vault)] == [b"sound" * 9]
        assert vault.original(received.digest).stat().st_mode & 0o222 == 0

    def test_what_is_not_kept_is_gone(self, vault):
        with vault.receive(BytesIO(b"x"), "a.wav"):
            pass
        assert self.files(vault) == []

    def test_files_are_whole_or_not_there(self, vault):
        place = vault.sound("ab")
        with pytest.raises(ValueError, match="stop"), vault.making(place) as partial:
            partial.write_bytes(b"half")
            assert not place.exists()
            raise ValueError("stop")
        assert self.files(vault) == []
        with vault.making(place) as partial:
            partial.write_bytes(b"whole")
        assert place.read_bytes() == b"whole"

    def test_leftovers_of_the_killed_are_cleared_by_the_next_try(self, vault):
        place = vault.export("job1")
        with vault.making(place) as partial:
            partial.write_bytes(b"whole")
        dead = partial.with_name(partial.name.replace(f"-{os.getpid()}-", "-999999-"))
        dead.write_bytes(b"half")
        with vault.making(place) as partial:
            partial.write_bytes(b"new")
        assert not dead.exists()
        dead.write_bytes(b"half")
        vault.sweep(lambda _: False)
        assert not dead.exists()

    def test_an_original_whose_upload_was_killed_is_swept_and_no_other(self, vault):
        for content in (b"wanted", b"orphan", b"settled"):
            with vault.receive(BytesIO(content), "a.wav") as received:
                vault.keep(received)
            if content == b"settled":
                vault.claim(received.digest)
        wanted = hashlib.sha256(b"wanted").hexdigest()
        vault.sweep(lambda digest: digest == wanted)
        assert sorted(path.read_bytes() for path in self.files(vault)) == [b"settled", b"wanted"]

    def test_dropping_takes_what_was_derived_along(self, vault):
        with vault.receive(BytesIO(b"x"), "a.wav") as received:
            vault.keep(received)
        with vault.making(vault.peaks(received.digest)) as partial:
            partial.write_bytes(b"p")
        vault.drop_original(received.digest)
        assert self.files(vault) == []
