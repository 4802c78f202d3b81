"""The list of third-party code is held against the lock files and against what the wheels carry."""

from __future__ import annotations

import json
import re
import tomllib
from pathlib import Path

import av

from jaskel.media.typefaces import FAMILIES, OTHERS

ROOT = Path(__file__).resolve().parents[1]
TEXT = (ROOT / "docs" / "third-party.md").read_text()


IN_README = {"combine-errors": "MIT"}
"""Packages that state their licence there alone."""


def rows(section: str) -> dict[str, str]:
    """The rows under a heading: what is named first, and its licence, which stands last."""
    part = TEXT.split(f"## {section}\n")[1].split("\n## ")[0]
    cells = [[cell.strip() for cell in line.strip("|").split("|")] for line in part.splitlines() if line.startswith("| ")]
    return {row[0]: row[-1] for row in cells if row[0] not in ("what", "package", "---")}


def normal(name: str) -> str:
    return re.sub(r"[-_.]+", "-", name).lower()


def test_every_locked_python_package_is_listed_with_its_licence():
    locked = {normal(name) for name in re.findall(r"^([A-Za-z0-9_.-]+)==", (ROOT / "requirements.lock").read_text(), re.M)}
    run, develop = rows("Python packages that Jaskel runs with"), rows("Python packages to develop and test with")
    assert run.keys() | develop.keys() == locked
    assert not run.keys() & develop.keys() and all({**run, **develop}.values())
    wanted = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"]
    assert {normal(re.split(r"[><=\[]", name)[0]) for name in wanted} <= run.keys()


def test_every_package_in_the_page_is_listed_with_its_licence():
    locked = json.loads((ROOT / "frontend" / "package-lock.json").read_text())["packages"]
    shipped = {
        (package := name.split("node_modules/")[-1]): each.get("license") or IN_README[package]
        for name, each in locked.items()
        if name and not each.get("dev")
    }
    assert rows("Packages of the page") == shipped


def test_the_libraries_inside_the_media_wheel_are_listed():
    listed = " ".join(rows("Code inside wheels")).casefold()
    inside = {path.name.split("-")[0].removeprefix("lib").casefold() for path in Path(av.__file__).parents[1].glob("av.libs/*")}
    known = {"webpmux": "webp", "opencore": "opencore-amr"}
    for name in inside:
        assert known.get(name, name) in listed, name


def test_the_fonts_that_captions_are_drawn_with_are_listed():
    listed = rows("Packages of the page")
    assert all(listed[f"@fontsource-variable/{family}"] == "OFL-1.1" for family in (*FAMILIES, *OTHERS))
