"""House spellings: how many of the demo's names come out right without and with the list, and what a wrong list would spoil."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path

from bench.figure import Figure
from jaskel.core.spellings import Spelling
from jaskel.demo.prepare import MEDIA
from jaskel.media.conform import conform
from jaskel.media.probe import probe
from jaskel.media.sound import Shelf, alone
from jaskel.speech.house import house, mended
from jaskel.speech.measure import plain
from jaskel.speech.recognise import packaged_weights, whisper
from jaskel.speech.transcribe import Mend, transcribe

NAMES = ("Ropewalk", "Tarn Hythe", "Orla Venn", "Teo Marsh", "Teo", "Ines Calder", "Ines", "Heron")
NOT_SPOKEN = (
    "Marlow Quint", "Kestrel Bay", "Hanna Oduya", "Brackwater", "Sefton Reed", "Tilda Marr", "Oakum", "Lorcan",
    "Pell Harbour", "Wick Sound", "Jory Blane", "Bramble Hythe", "Corran Vale", "Della Strand", "Fenwick", "Gorse Point",
    "Isbister", "Kelda Moor", "Linnet", "Merrow", "Nessa Quill", "Perran", "Rhoda Vance", "Skerry", "Tobin Marsh",
    "Ulla Venning", "Wren Calloway", "Zennor", "Ansel Teague", "Cade Hollin", "shroud", "gunwale", "thwart", "keelson",
    "garboard", "treenail", "bilge", "tiller", "halyard", "transom", "cleat", "fairlead", "bowsprit", "gaff", "luff",
)  # fmt: skip


def figures(folder: Path) -> Iterator[Figure]:
    """Names counted in the truths of the interview and the piece to camera."""
    said: list[str] = []
    bare: list[str] = []
    right: list[str] = []
    spoiled = 0
    ours, others = (house([Spelling(name) for name in names]) for names in (NAMES, NOT_SPOKEN))
    for name in ("interview", "mending-a-sail"):
        truth = sorted(json.loads((MEDIA / f"{name}.truth.json").read_text())["words"], key=lambda word: word["start"])
        said += _names(word["text"] for word in truth)
        bare += _names(_heard(folder, name, list))
        right += _names(_heard(folder, name, lambda words: mended(words, ours)))
        plainly = _heard(folder, name, list)
        spoiled += sum(a != b for a, b in zip(plainly, _heard(folder, name, lambda words: mended(words, others)), strict=False))
    before, after = (_share(said, heard) for heard in (bare, right))
    yield Figure(f"names right of {len(said)}, without the list", f"{before:.0%}", "", True)
    yield Figure("names right with the list", f"{after:.0%}", "≥ 90 %", after >= 0.9)
    yield Figure(f"words spoiled by {len(NOT_SPOKEN)} terms nobody says", f"{spoiled}", "0", spoiled == 0)


def _heard(folder: Path, name: str, mend: Mend) -> list[str]:
    path = MEDIA / f"{name}.mp4"
    sound = folder / f"{name}.flac"
    done = conform(path, probe(path, name), sound, folder / "peaks")
    shelf = Shelf(lambda _: alone(sound))
    parts = transcribe(lambda a, b: shelf.mono_16k("", a, b), done.length, whisper(packaged_weights()), mend=mend)
    return [word.text for part in parts for word in part.words]


def _names(words: Iterator[str] | list[str]) -> list[str]:
    text = " ".join(plain(word) for word in words)
    return [name for name in NAMES for _ in re.findall(rf"\b{' '.join(map(plain, name.split()))}s?\b", text)]


def _share(said: list[str], heard: list[str]) -> float:
    return sum(min(said.count(name), heard.count(name)) for name in set(said)) / len(said)
