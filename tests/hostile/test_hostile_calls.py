"""Bad command lines: one plain line, the exit code 2, and every file as it was."""

from __future__ import annotations

import logging
from pathlib import Path

import pytest

from bench.hostile.calls import calls, environments, stage
from jaskel.cli import main
from jaskel.settings import Settings
from jaskel.store.home import Home
from jaskel.web.serve import in_use


def files(folder: Path) -> dict[str, bytes]:
    return {str(path): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()}


def refused(capfd, arguments: list[str]) -> str:
    """The line that a call was refused with."""
    root = logging.getLogger()
    handlers = root.handlers[:]
    try:
        assert main(arguments) == 2, arguments
    finally:
        root.handlers[:] = handlers
    told = [line for line in capfd.readouterr().err.splitlines() if line.startswith("jaskel: ")]
    assert len(told) == 1, (arguments, told)
    return told[0]


@pytest.mark.speech
def test_every_bad_call_is_refused_in_a_line_and_leaves_every_file_as_it_was(tmp_path, capfd):
    stage(tmp_path)
    before = files(tmp_path)
    wanted = calls(tmp_path)
    assert len(wanted) >= 60
    for call in wanted:
        line = refused(capfd, call)
        assert "Traceback" not in line and "Errno" not in line and line.endswith((".", "?")), (call, line)
        assert files(tmp_path) == before, call


def test_it_does_not_start_where_it_cannot_run(tmp_path, capfd, monkeypatch):
    stage(tmp_path)
    for environment in environments(tmp_path):
        for name, value in environment.items():
            monkeypatch.setenv(name, value)
        refused(capfd, ["serve"])
        for name in environment:
            monkeypatch.delenv(name)


def test_a_link_goes_on_naming_its_file(tmp_path):
    from jaskel.outputs import complete

    (tmp_path / "kept.json").write_text("old")
    (tmp_path / "out.json").symlink_to("kept.json")
    with complete(tmp_path / "out.json", None, tmp_path / "second.json") as (first, second):
        first.write_text("new")
        second.write_text("too")
    assert (tmp_path / "out.json").is_symlink() and (tmp_path / "kept.json").read_text() == "new"


def test_nothing_is_written_where_one_of_several_fails(tmp_path):
    from jaskel.outputs import complete

    (tmp_path / "first.txt").write_text("old")
    with pytest.raises(OSError, match="full"), complete(tmp_path / "first.txt", tmp_path / "second.txt") as (first, _):
        first.write_text("new")
        raise OSError("full")
    assert [(path.name, path.read_text()) for path in tmp_path.iterdir()] == [("first.txt", "old")]


class TestDataFolders:
    def test_a_second_start_is_refused_with_the_address_of_the_first(self, tmp_path, capfd):
        first = Settings(tmp_path / "data", port=8123)
        with in_use(first):
            told = refused(capfd, ["serve", "--data", str(first.data)])
            assert "is running on" in told and "http://127.0.0.1:8123" in told
            assert "is running on" in refused(capfd, ["demo", "--data", str(first.data)])
        with in_use(first):
            pass  # once the first has ended, the next may start

    def test_the_demo_is_never_made_over_data_of_ones_own(self, tmp_path, capfd):
        home = Home(Settings(tmp_path / "data"))
        home.database.migrate()
        home.close()
        before = files(tmp_path)
        assert "data of your own" in refused(capfd, ["demo", "--data", str(tmp_path / "data"), "--prepare-only"])
        assert files(tmp_path).items() >= before.items()

    def test_both_honour_the_folder_of_the_environment(self, tmp_path, capfd, monkeypatch):
        monkeypatch.setenv("JASKEL_DATA", str(tmp_path / "data"))
        with in_use(Settings(tmp_path / "data")):
            for command in ("serve", "demo"):
                assert str(tmp_path / "data") in refused(capfd, [command])
