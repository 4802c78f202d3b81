"""Transcripts as files."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.timebase import clock
from jaskel.core.transcript import Transcript, Word


def passages(words: Sequence[ProgrammeWord], voices: Mapping[str, str]) -> list[tuple[int, str]]:
    """The words of a programme in passages, each with its place in the programme and begun with its voice's name."""
    return [(at, f"{name}: {text}" if name else text) for at, name, text in told(words, voices)]


def told(words: Sequence[ProgrammeWord], voices: Mapping[str, str]) -> list[tuple[int, str, str]]:
    """The passages of a programme: where in it each begins, the name of its voice or nothing, and what is said."""
    if not words:
        return []
    placed: list[Word] = []
    for item in words:
        start = max(item.start, placed[-1].end if placed else 0)
        placed.append(Word(item.word.text, start, max(item.end, start + 1), item.word.confidence, item.word.voice))
    transcript = Transcript(placed[-1].end, tuple(placed))
    return [(passage.start, voices.get(passage.voice or "", ""), passage.text) for passage in transcript.passages()]


def write_text(path: Path, words: Sequence[ProgrammeWord], voices: Mapping[str, str]) -> None:
    """Plain text, a paragraph for each passage."""
    path.write_text("\n\n".join(text for _, text in passages(words, voices)) + "\n", encoding="utf-8")


def write_markdown(path: Path, words: Sequence[ProgrammeWord], title: str, show: str, voices: Mapping[str, str]) -> None:
    """Markdown with title, show, and the time before each passage."""
    parts = [f"# {title}", f"*{show}*", *(f"**{clock(at)}** {text}" for at, text in passages(words, voices))]
    path.write_text("\n\n".join(parts) + "\n", encoding="utf-8")
