"""Sounds that are no words, as they stand in a transcript: ``[laughter]``, ``[applause]``, ``[music]``, ``[cough]``."""

from __future__ import annotations

KINDS = ("laughter", "applause", "music", "cough")
"""Those that are found by themselves. A person may write any other: ``[door]``."""


def in_brackets(kind: str) -> str:
    """How a sound is written."""
    return f"[{kind}]"


def sound_in(text: str) -> str | None:
    """The sound that a word of a transcript stands for; None where it is spoken."""
    bare = text.strip(" .,;:!?…")
    return bare[1:-1] if len(bare) > 2 and bare[0] == "[" and bare[-1] == "]" else None
