"""The music of a programme as a list, as those who collect fees for it ask for."""

from __future__ import annotations

import csv
from collections.abc import Mapping
from pathlib import Path

from jaskel.core.plan import Plan
from jaskel.core.timebase import clock

COLUMNS = ("number", "title", "begins", "ends", "length")


def write_cue_sheet(path: Path, plan: Plan, names: Mapping[str, str]) -> None:
    """CSV with a line for each bed that sounds, in order; ``names`` are the titles of recordings by their ids."""
    placed = sorted(plan.placed, key=lambda each: (each.at, each.bed.id))
    with path.open("w", encoding="utf-8", newline="") as file:
        sheet = csv.writer(file)
        sheet.writerow(COLUMNS)
        for number, each in enumerate(placed, 1):
            begin, end = max(0, each.at), min(plan.length, each.until)
            title = names.get(each.bed.recording, each.bed.recording)
            sheet.writerow([number, _harmless(title), clock(begin, 1), clock(end, 1), clock(end - begin, 1)])


def _harmless(text: str) -> str:
    """A text that no spreadsheet takes for a formula.

    >>> _harmless("=1+1"), _harmless("Theme")
    ("'=1+1", 'Theme')
    """
    return f"'{text}" if text[:1] in "=+-@\t\r" else text
