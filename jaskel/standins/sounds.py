"""A library of music and sounds: a stand-in for one that is subscribed to. What it has was made by ``jaskel.demo.sounds``."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path

from jaskel.core.problem import Missing
from jaskel.core.sound.choose import Sound
from jaskel.core.timebase import from_seconds

FILES = Path(__file__).parent / "sounds"


@cache
def library() -> tuple[Sound, ...]:
    """All that it has."""
    known = json.loads((FILES / "index.json").read_text())
    return tuple(
        Sound(each["id"], each["name"], each["kind"], tuple(each["moods"]), from_seconds(each["seconds"]), each["loops"])
        for each in known
    )


def find_sound(id: str) -> Sound:
    """One of them.

    Raises
    ------
    Missing
        ``no-sound``.
    """
    found = next((each for each in library() if each.id == id), None)
    if found is None:
        raise Missing("no-sound", "The library does not have this sound any more. Choose another.")
    return found


def file_of(sound: Sound) -> Path:
    """Its file."""
    return FILES / f"{sound.id}.opus"
