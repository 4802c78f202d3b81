"""Which files were synced: imported into the processes of a Jaskel that is to lose its power.

A power loss takes what was written and not synced, though its name may stay. Each sync of a file in a vault is noted, by the
number and length of the file, where the folder above the data has a list of them.
"""

from __future__ import annotations

import os
from pathlib import Path

LIST = "synced"
"""The name of the list; where there is none, nothing is noted."""

_sync = os.fsync


def _noted(fd: int) -> None:
    _sync(fd)
    path = Path(os.readlink(f"/proc/self/fd/{fd}"))
    vault = next((each for each in path.parents if each.name == "vault"), None)
    if vault is None:
        return
    try:
        known = os.open(vault.parents[1] / LIST, os.O_WRONLY | os.O_APPEND)
    except FileNotFoundError:
        return
    about = os.fstat(fd)
    os.write(known, f"{about.st_ino} {about.st_size}\n".encode())
    os.close(known)


os.fsync = _noted


def lost(data: Path) -> list[Path]:
    """The files in their places in the vault of a data folder that a power loss would take some of."""
    known = {tuple(map(int, line.split())) for line in (data.parent / LIST).read_text().splitlines()}
    found = []
    for kind in ("originals", "derived", "exports", "parts"):
        for path in (data / "vault" / kind).rglob("*"):
            if path.is_file() and not path.name.startswith(".") and not path.name.endswith(".lock"):
                about = path.stat()
                if about.st_size and (about.st_ino, about.st_size) not in known:
                    found.append(path)
    return found
