"""Backups that are taken while editing goes on, put back elsewhere; and looking whether everything is whole."""

from __future__ import annotations

import sqlite3
import threading
from contextlib import closing

import pytest
from conftest import RATE, Jaskel, tone, write_media

from jaskel.cli import main
from jaskel.core.problem import Problem
from jaskel.settings import Settings
from jaskel.store.backup import back_up, restore
from jaskel.store.check import check, digest_of
from jaskel.store.models import EditionRow, LogEntry, Recording, Snapshot


@pytest.fixture
def episode(jaskel, tmp_path):
    """An episode with fifty steps in its history: more than one snapshot's."""
    made = jaskel.episode()
    jaskel.upload(made["id"], write_media(tmp_path / "a.flac", tone(60)))
    jaskel.work()
    for second in range(50):
        strike(jaskel, made, second)
    return made


def strike(jaskel, episode, second):
    edition = episode["editions"][0]["id"]
    revision = jaskel.get(f"/api/editions/{edition}")["revision"]
    operation = {"kind": "strike", "ranges": [{"begin": second * RATE, "end": second * RATE + RATE // 2}], "reason": "by hand"}
    jaskel.post(f"/api/editions/{edition}/operations", {"revision": revision, "operation": operation})


def faults(jaskel, **how):
    return [(each.told, each.mended) for each in check(jaskel.workshop.home, **how)]


def test_a_backup_is_the_same_elsewhere(jaskel, episode, settings, tmp_path):
    done = back_up(settings, tmp_path / "copy")
    assert done.copied > 2 and done.kept == 0
    restored = Settings(tmp_path / "restored")
    restore(tmp_path / "copy", restored)
    there = Jaskel(restored)
    edition = episode["editions"][0]["id"]
    for path in (f"/api/editions/{edition}", f"/api/editions/{edition}/history", f"/api/editions/{edition}/blocks"):
        assert there.get(path) == jaskel.get(path)
    strike(there, episode, 55)  # it goes on there
    assert faults(there) == []
    there.workshop.close()


def test_the_next_one_copies_what_is_new(jaskel, episode, settings, tmp_path):
    back_up(settings, tmp_path / "copy")
    again = back_up(settings, tmp_path / "copy")
    assert (again.copied, again.size) == (0, 0) and again.kept > 2
    jaskel.upload(episode["id"], write_media(tmp_path / "b.flac", tone(3)))
    assert back_up(settings, tmp_path / "copy").copied >= 1
    assert not [*(tmp_path / "copy").rglob(".*")]


def test_it_is_taken_while_people_edit(jaskel, episode, settings, tmp_path):
    going, done = threading.Event(), []

    def edit():
        going.set()
        for number in range(25):
            strike(jaskel, episode, 50 + number % 9 + number / 100)
            done.append(number)

    editing = threading.Thread(target=edit)
    editing.start()
    going.wait()
    for number in range(4):
        back_up(settings, tmp_path / f"copy{number}")
    editing.join()
    assert len(done) == 25
    for number in range(4):
        there = Jaskel(Settings(tmp_path / f"there{number}"))
        there.workshop.close()
        (there.settings.database).unlink()
        restore(tmp_path / f"copy{number}", there.settings)
        there = Jaskel(there.settings)
        assert faults(there) == []
        there.workshop.close()


def test_where_it_cannot_be_taken_or_put_back_is_told(jaskel, episode, settings, tmp_path):
    for to in (settings.data, settings.data / "vault" / "copy", settings.data.parent):
        with pytest.raises(Problem, match="cannot lie within"):
            back_up(settings, to)
    with pytest.raises(Problem, match="no data of Jaskel"):
        back_up(Settings(tmp_path / "nothing"), tmp_path / "copy")
    back_up(settings, tmp_path / "copy")
    with pytest.raises(Problem, match="already"):
        restore(tmp_path / "copy", settings)
    with pytest.raises(Problem, match="no backup"):
        restore(tmp_path / "nothing", Settings(tmp_path / "empty"))


class TestCheck:
    def test_what_is_whole_is_whole(self, jaskel, episode):
        assert faults(jaskel) == []

    def test_a_snapshot_that_disagrees_with_its_log_is_deleted(self, jaskel, episode):
        with jaskel.workshop.home.database.write() as session:
            snapshot = session.query(Snapshot).first()
            snapshot.state = {**snapshot.state, "crossfade": 1}
        ((told, mended),) = faults(jaskel)
        assert "snapshot of step" in told and not mended
        assert faults(jaskel, mend=True) == [(told, True)]
        assert faults(jaskel) == []

    @pytest.mark.parametrize(
        ("damage", "wanted"),
        [
            (lambda s: s.delete(s.get_one(LogEntry, (s.query(EditionRow).one().id, 7))), "lacks step 7"),
            (lambda s: setattr(s.query(EditionRow).one(), "length", 5), "ticks long"),
            (lambda s: setattr(s.get_one(LogEntry, (s.query(EditionRow).one().id, 9)), "operation", {"kind": "x"}), "Step 9"),
        ],
        ids=["a step is gone", "another length", "a step is no operation"],
    )
    def test_what_is_wrong_with_a_log_is_told(self, jaskel, episode, damage, wanted):
        with jaskel.workshop.home.database.write() as session:
            damage(session)
        assert any(wanted in told for told, _ in faults(jaskel))

    def test_originals_are_held_against_their_digests(self, jaskel, episode):
        with jaskel.workshop.home.database.read() as session:
            original = jaskel.workshop.home.vault.original(session.query(Recording).one().digest)
        content = bytearray(original.read_bytes())
        content[len(content) // 2] ^= 1
        original.chmod(0o644)
        original.write_bytes(content)
        assert faults(jaskel) == [("The original of “a.flac” is not what it was when it came", False)]
        original.unlink()
        assert faults(jaskel) == [("The original of “a.flac” is not in the vault", False)]

    def test_a_row_that_names_nothing_is_told(self, jaskel, episode, settings):
        with closing(sqlite3.connect(settings.database)) as store:
            store.execute("PRAGMA foreign_keys=OFF")
            store.execute("UPDATE recordings SET episode_id = 'gone'")
            store.commit()
        assert any("names something in episodes" in told for told, _ in faults(jaskel))


def test_from_the_command_line(jaskel, episode, settings, tmp_path, capsys):
    data = ["--data", str(settings.data)]
    assert main(["backup", str(tmp_path / "copy"), *data]) == 0
    assert "files copied" in capsys.readouterr().out
    assert main(["restore", str(tmp_path / "copy"), "--data", str(tmp_path / "restored")]) == 0
    assert "Everything is whole." in capsys.readouterr().out
    assert main(["check", *data]) == 0
    with jaskel.workshop.home.database.write() as session:
        session.query(EditionRow).one().length = 5
    assert main(["check", *data]) == 1
    assert main(["check", "--data", str(tmp_path / "nothing")]) == 2


class TestOtherDisks:
    def test_originals_that_were_put_aside_are_found(self, jaskel, episode, tmp_path, monkeypatch, capsys):
        disk = tmp_path / "old"
        original = next((jaskel.settings.vault / "originals").glob("??/*"))
        assert main(["put-aside", "The dry hull", "--to", str(disk), "--data", str(jaskel.settings.data)]) == 2
        monkeypatch.setenv("JASKEL_ORIGINALS", str(disk))
        assert main(["put-aside", "The dry hull", "--to", str(disk), "--data", str(jaskel.settings.data)]) == 0
        assert not original.exists()
        assert digest_of(disk / original.parent.name / original.name) == original.name
        knowing = Settings.from_environment(jaskel.settings.data)
        there = Jaskel(knowing)
        assert faults(there) == []
        # Derived files come again from there, and a backup has all in one place.
        there.post(f"/api/episodes/{episode['id']}/clear", {})
        there.get(f"/api/episodes/{episode['id']}")
        there.work()
        assert [each["state"] for each in there.get(f"/api/episodes/{episode['id']}")["recordings"]] == ["ready"]
        back_up(knowing, tmp_path / "copy")
        there.workshop.close()
        restore(tmp_path / "copy", Settings(tmp_path / "restored"))
        restored = Jaskel(Settings(tmp_path / "restored"))
        assert faults(restored) == []
        restored.workshop.close()

    def test_one_that_is_damaged_stays(self, jaskel, episode, tmp_path):
        vault = jaskel.workshop.home.vault
        original = next((jaskel.settings.vault / "originals").glob("??/*"))
        original.chmod(0o644)
        original.write_bytes(b"other")
        with pytest.raises(Problem) as told:
            vault.put_aside(original.name, tmp_path / "old")
        assert told.value.code == "damaged-original"
        assert original.exists() and not [*(tmp_path / "old").rglob("*original*")]
