"""House spellings: how many of the demo's names come out right without and with the list, and what a wrong list would spoil."""

from __future__ import annotations

import itertools
import json
import re
from collections.abc import Iterator, Sequence
from pathlib import Path

from bench.figure import Figure
from jaskel.core.spellings import Spelling
from jaskel.demo.shipped import MEDIA
from jaskel.media.conform import conform
from jaskel.media.probe import probe
from jaskel.media.sound import Shelf
from jaskel.speech.house import Again, house, mended
from jaskel.speech.measure import plain, word_error
from jaskel.speech.recognise import HeardWord
from jaskel.speech.transcribe import transcribe
from jaskel.speech.weights import recogniser_for

NAMES = ("Ropewalk", "Tarn Hythe", "Orla Venn", "Teo Marsh", "Teo", "Ines Calder", "Ines", "Heron")
NOT_SPOKEN = (
    "Marlow Quint", "Kestrel Bay", "Hanna Oduya", "Brackwater", "Sefton Reed", "Tilda Marr", "Oakum", "Lorcan",
    "Pell Harbour", "Wick Sound", "Jory Blane", "Bramble Hythe", "Corran Vale", "Della Strand", "Fenwick", "Gorse Point",
    "Isbister", "Kelda Moor", "Linnet", "Merrow", "Nessa Quill", "Perran", "Rhoda Vance", "Skerry", "Tobin Marsh",
    "Ulla Venning", "Wren Calloway", "Zennor", "Ansel Teague", "Cade Hollin", "shroud", "gunwale", "thwart", "keelson",
    "garboard", "treenail", "bilge", "tiller", "halyard", "transom", "cleat", "fairlead", "bowsprit", "gaff", "luff",
)  # fmt: skip


def figures(folder: Path) -> Iterator[Figure]:
    """Names counted in the truths of the interview and the piece to camera; each part is recognised once and mended thrice."""
    said: list[str] = []
    found: dict[str, list[str]] = {"bare": [], "right": []}
    spoiled = parts = again_parts = 0
    errors: dict[str, list[float]] = {"bare": [], "right": []}
    ours, others = (house([Spelling(name) for name in names]) for names in (NAMES, NOT_SPOKEN))
    for name in ("interview", "mending-a-sail"):
        truth = sorted(json.loads((MEDIA / f"{name}.truth.json").read_text())["words"], key=lambda word: word["start"])
        said += _names(word["text"] for word in truth)
        heard: dict[str, list[str]] = {"bare": [], "right": []}
        for words, again in _parts(folder, name):
            counted: list[str] = []

            def counting(prompt: str, again: Again = again, counted: list[str] = counted) -> list[HeardWord]:
                counted.append(prompt)
                return again(prompt)

            heard["bare"] += [word.text for word in words]
            heard["right"] += [word.text for word in mended(words, ours, counting)]
            wrong = [plain(word.text) for word in mended(words, others, again)]
            spoiled += sum(a != b for a, b in itertools.zip_longest(wrong, [plain(word.text) for word in words]))
            parts, again_parts = parts + 1, again_parts + len(counted)
        for kind, texts in heard.items():
            found[kind] += _names(texts)
            errors[kind].append(word_error([plain(word["text"]) for word in truth], [plain(text) for text in texts]))
    before, after = (_share(said, found[kind]) for kind in ("bare", "right"))
    yield Figure(f"names right of {len(said)}, without the list", f"{before:.0%}", "", True)
    yield Figure("names right with the list", f"{after:.0%}", "≥ 90 %", after >= 0.9)
    worse = max(right - bare for right, bare in zip(errors["right"], errors["bare"], strict=True))
    yield Figure("word error with the list, to without", f"{worse:+.1%}", "≤ 0", worse <= 0)
    yield Figure(f"words spoiled by {len(NOT_SPOKEN)} terms nobody says", f"{spoiled}", "0", spoiled == 0)
    yield Figure("parts listened to twice", f"{again_parts} of {parts}", "", True)


def _parts(folder: Path, name: str) -> Iterator[tuple[list[HeardWord], Again]]:
    """What was recognised in each part of a recording, and a way to listen to it again."""
    path = MEDIA / f"{name}.mp4"
    sound = folder / f"{name}.flac"
    done = conform(path, probe(path, name), sound, folder / "peaks")
    shelf = Shelf(lambda _: sound)
    kept: list[tuple[list[HeardWord], Again]] = []

    def keep(words: Sequence[HeardWord], again: Again) -> Sequence[HeardWord]:
        kept.append((list(words), again))
        return words

    for _ in transcribe(lambda a, b: shelf.mono_16k("", a, b), done.length, recogniser_for("en"), mend=keep):
        yield from kept
        kept.clear()


def _names(words: Iterator[str] | list[str]) -> list[str]:
    text = " ".join(plain(word) for word in words)
    return [name for name in NAMES for _ in re.findall(rf"\b{' '.join(map(plain, name.split()))}s?\b", text)]


def _share(said: list[str], heard: list[str]) -> float:
    return sum(min(said.count(name), heard.count(name)) for name in set(said)) / len(said)
