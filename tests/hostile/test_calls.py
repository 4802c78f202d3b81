"""Bad command lines: one plain line, the exit code 2, and every file as it was."""

from __future__ import annotations

import logging
from pathlib import Path

import pytest

from bench.hostile.calls import calls, environments, stage
from jaskel.cli import main


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
