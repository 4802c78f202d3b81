"""Measures Jaskel and prints a table; the same figures go to ``bench/last.json``.

Machines differ and are noisy, so the ratios of one run are what to read: each compares two things done one after the other.
``./run bench NAME …`` measures only the groups named.
"""

from __future__ import annotations

import importlib
import json
import sys
import tempfile
from dataclasses import asdict
from pathlib import Path

from bench.figure import Figure

GROUPS = (
    "speech",
    "align",
    "sync",
    "names",
    "prompts",
    "voices",
    "together",
    "tidy",
    "joins",
    "sound",
    "at_work",
    "captions",
    "picture",
    "large",
    "reuse",
    "plan",
    "edits",
    "exports",
    "leaving",
    "memory",
    "hostile",
    "kills",
    "power",
    "soak",
    "grow",
    "sharing",
    "daily",
    "windows",
    "browser",
)
"""Modules beside this one, each with ``figures(folder)``."""


def main(names: list[str]) -> int:
    """Measure the groups of these names, or all."""
    measured: list[Figure] = []
    with tempfile.TemporaryDirectory() as folder:
        for name in names or GROUPS:
            for figure in importlib.import_module(f"bench.{name}").figures(Path(folder)):
                measured.append(figure)
                print(f"{'✓' if figure.good else '✗'} {figure.name:55} {figure.value:>14}   {figure.reach}", flush=True)
    Path(__file__).with_name("last.json").write_text(
        json.dumps([asdict(f) | {"good": bool(f.good)} for f in measured], indent=1, ensure_ascii=False) + "\n"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
