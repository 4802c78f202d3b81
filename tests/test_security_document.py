"""Every test that docs/security.md names is there."""

from __future__ import annotations

import re
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
TEXT = (ROOT / "docs" / "security.md").read_text()


def shown_by() -> list[str]:
    """What stands in the last column of its tables, part by part."""
    rows = [line for line in TEXT.splitlines() if re.match(r"\| \d", line)]
    return [part for row in rows for part in re.findall(r"`([^`]+)`", row.strip().strip("|").split("|")[-1])]


def test_every_test_it_names_is_there():
    sources = {str(path.relative_to(ROOT / "tests")): path.read_text() for path in (ROOT / "tests").rglob("test_*.py")}
    everything = "\n".join(sources.values())
    assert len(shown_by()) > 40
    for named in shown_by():
        file, *names = named.split("::")
        if file.endswith(".py"):
            assert any(path.endswith(file) for path in sources), named
        else:
            names = [file]
        for name in names:
            assert re.search(rf"(def|class) {name}\b", everything), named


def test_every_chapter_of_the_standard_has_its_place():
    items = re.findall(r"\b(\d+)\.\d+\.\d+", TEXT)
    assert {int(each) for each in items} == {2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14}
