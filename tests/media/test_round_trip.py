"""Texts out and in again: every form holds the words as they are written."""

from __future__ import annotations

import pytest
from conftest import RATE

from jaskel.core.captions.cues import cues
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.transcript import Word
from jaskel.media.text_files import read_text
from jaskel.media.texts import write_captions, write_markdown, write_text

SAID = [
    "So", "the", "tele-marketers", "called", "T.O.", "about", "the", "open-source", "tool", "at", "www.harbour.example.", "It",
    "costs", "3.5", "per-cent,", "they", "said…", "The", "“well-known”", "host's", "name?", "A*", "is", "B_C,", "and", "#1",
    "is", "1.", "or", "-", "no.",
]  # fmt: skip


@pytest.fixture
def words() -> list[ProgrammeWord]:
    spoken = [Word(text, i * RATE // 2, i * RATE // 2 + RATE // 3, 0.9, "a") for i, text in enumerate(SAID)]
    return [ProgrammeWord(word, word.start, word.end) for word in spoken if any(c.isalnum() for c in word.text)]


@pytest.mark.parametrize("form", ["srt", "vtt", "txt", "md"])
def test_a_round_trip_changes_no_word(form, words, tmp_path):
    path = tmp_path / f"talk.{form}"
    match form:
        case "txt":
            write_text(path, words, {"a": "Orla Venn"})
        case "md":
            write_markdown(path, words, "The dry hull", "Ropewalk", {"a": "Orla Venn"})
        case _:
            write_captions(path, cues(words, len(SAID) * RATE), form)
    read = [word.text for word in read_text(path.read_bytes(), path.name).words]
    if form == "md":
        assert read[0] == "Ropewalk"  # the show stands above the words
        read = read[1:]
    expected = [item.word.text for item in words]
    read = [word for word in read if word not in ("Orla", "Venn:")]
    assert read == expected
