"""How a show has its captions: its rules, its look, looks it has saved by name, and fonts of its own."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from jaskel.core.captions.house import HouseCaptions
from jaskel.core.captions.look import Look
from jaskel.core.codec import codec
from jaskel.store.models import Show


@dataclass(frozen=True)
class ShowCaptions:
    """What a show keeps.

    Attributes
    ----------
    house
        The rules and the look of editions that have none of their own.
    looks
        Those it has saved.
    fonts
        The names of its own fonts, by the digests of their files.
    names
        How caption files are called (:func:`file_name`).
    language
        Language and country as those who get the files write them, say ``en-GB`` or ``en_GB``; empty for what was found.
    """

    house: HouseCaptions = field(default_factory=HouseCaptions)
    looks: tuple[Look, ...] = ()
    fonts: Mapping[str, str] = field(default_factory=dict)
    names: str = "{show} - {episode}.{language}"
    language: str = ""


def captions_of(show: Show) -> ShowCaptions:
    """What a show has kept of captions."""
    return codec.structure(show.captions, ShowCaptions)


def keep_captions(show: Show, captions: ShowCaptions) -> None:
    """Keep it with the show."""
    show.captions = codec.unstructure(captions)


NAME_PARTS = ("show", "episode", "edition", "language", "step")
"""What can stand in braces in the pattern of a file's name."""


def file_name(pattern: str, ending: str, **parts: str) -> str:
    """The name of a caption file: the pattern with its parts, without what file systems have no room for.

    >>> file_name("{show} - {episode}.{language}", "srt", show="Ropewalk", episode="A/B", language="en_GB")
    'Ropewalk - AB.en_GB.srt'
    """
    text = re.sub(r"\{(\w+)\}", lambda found: parts.get(found[1], ""), pattern)
    plain = re.sub(r"\s+", " ", re.sub(r"[^\w\s.,()-]", "", text)).strip(" .-")
    return f"{plain[:120] or 'captions'}.{ending}"
