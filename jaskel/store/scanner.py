"""The virus scanner of the machine, where one is set: files that come in are shown to it before they are kept."""

from __future__ import annotations

import shlex
import subprocess
from dataclasses import dataclass
from pathlib import Path

from jaskel.core.problem import Problem

SECONDS = 600
"""A long film takes a scanner minutes."""


@dataclass(frozen=True)
class Scanner:
    """A command such as ``clamdscan --fdpass``, called with the path of a file. Empty: files are not looked through.

    It ends with 0 where the file is clean and with 1 where it is not, as clamscan and others do.
    """

    command: str = ""

    def look(self, path: Path) -> None:
        """Let a file through that is clean.

        Raises
        ------
        Problem
            ``virus-found``; ``no-scanner`` where nobody could tell.
        """
        if not self.command:
            return
        try:
            done = subprocess.run([*shlex.split(self.command), str(path)], capture_output=True, timeout=SECONDS, check=False)
            found = done.returncode
        except (OSError, subprocess.TimeoutExpired):
            found = -1
        if found == 1:
            raise Problem("virus-found", "The virus scanner found something in this file, so it was not taken.")
        if found:
            raise Problem(
                "no-scanner", "The virus scanner does not answer, so nothing is taken. Tell whoever runs this Jaskel."
            )


NO_SCANNER = Scanner()
