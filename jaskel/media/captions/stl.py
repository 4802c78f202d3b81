"""Captions as EBU STL (Tech 3264-E), which no kept library writes: a block about the file, then some for each caption."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from functools import cache
from itertools import chain
from pathlib import Path

from ttconv.stl import iso6937

from jaskel.core.captions.cues import Cue
from jaskel.core.problem import Problem
from jaskel.media.captions.about import About
from jaskel.media.captions.rates import FrameRate

RATES = {"25": b"STL25.01", "29.97": b"STL30.01"}
"""The disk format code of the rates that STL has; it counts 30 frames a second where there are 29.97, and drops none."""

TABLES = {"00": "latin", "01": "iso8859-5", "02": "iso8859-6", "03": "iso8859-7", "04": "iso8859-8"}
"""Character code tables: ISO 6937, and those of Cyrillic, Arabic, Greek and Hebrew."""

LANGUAGES = {
    "cs": "06", "da": "07", "de": "08", "en": "09", "es": "0A", "fr": "0F", "it": "15", "hu": "1B", "nl": "1D", "no": "1E",
    "pl": "20", "pt": "21", "ro": "22", "sk": "25", "sl": "26", "fi": "27", "sv": "28", "tr": "29", "ar": "7E", "el": "70",
    "he": "6C", "ru": "56", "uk": "49", "ja": "69", "zh": "75", "ko": "65",
}  # fmt: skip
"""Codes of languages, by those of ISO 639-1."""

TEXT, NEW_LINE, UNUSED = 112, 0x8A, 0x8F
"""Bytes of text in a block, and what stands between lines and after the last."""

MOST_BLOCKS = 15
"""A caption of more text than that cannot be written; none is."""

ROWS = 23

JUSTIFIED = {"left": 1, "centre": 2, "right": 3}

MOST = 99_999
"""The number of a caption has five digits."""


@cache
def latin() -> dict[str, bytes]:
    """The bytes of each letter of ISO 6937; ttconv knows them the other way round."""
    found: dict[str, bytes] = {}
    for octets in chain(
        (bytes([code]) for code in (*range(0x20, 0x7F), *range(0xA0, 0x100))),
        (bytes([accent, letter]) for accent in range(0xC1, 0xD0) for letter in range(0x41, 0x7B)),
    ):
        try:
            letter, _ = iso6937.decode(octets)
        except UnicodeDecodeError:
            continue
        if len(letter) == 1:
            found.setdefault(letter, octets)
    return found


def table_for(text: str) -> str:
    """The character code table that has most letters of a text."""
    return min(TABLES, key=lambda table: (len(missing(text, table)), table))


def missing(text: str, table: str) -> set[str]:
    """The letters of a text that a table has not."""
    return {letter for letter in text if not letter.isspace() and _octets(letter, table) is None}


def _octets(letter: str, table: str) -> bytes | None:
    letter = INSTEAD.get(letter, letter)
    if TABLES[table] == "latin":
        known = [latin().get(part) for part in letter]
        return None if None in known else b"".join(part for part in known if part)
    try:
        return letter.encode(TABLES[table])
    except UnicodeEncodeError:
        return None


INSTEAD = {"–": "-", "—": "-", "…": "...", "„": '"', "‚": "'"}


def write_stl(path: Path, cues: Sequence[Cue], about: About, rate: FrameRate) -> None:
    """Captions as EBU STL; letters that its table has not are written as ``?``.

    Raises
    ------
    Problem
        ``too-many``: it numbers 99,999 of them.
    """
    if len(cues) > MOST:
        raise Problem("too-many", f"EBU STL holds {MOST:,} captions at most. Choose another form, or export in parts.")
    table = table_for("".join(line for cue in cues for line in cue.lines))
    blocks = b"".join(_caption(number, cue, rate, table) for number, cue in enumerate(cues))
    path.write_bytes(_about(cues, about, rate, table, len(blocks) // 128) + blocks)


def _about(cues: Sequence[Cue], about: About, rate: FrameRate, table: str, blocks: int) -> bytes:
    """The general subtitle information block, 1,024 bytes."""

    def field(text: str, width: int) -> bytes:
        return text.encode("cp850", "replace")[:width].ljust(width)

    today = datetime.now(UTC).strftime("%y%m%d")
    language = LANGUAGES.get(about.language.split("-")[0].lower(), "00")
    longest = max((len(line) for cue in cues for line in cue.lines), default=0)
    first = rate.timecode(rate.frame_at(cues[0].start) if cues else 0).replace(":", "").replace(";", "")
    parts = (
        b"850", RATES[rate.name], b"0", table.encode(), language.encode(), field(about.show, 32), field(about.title, 32),
        field("", 32), field("", 32), field("", 32), field("", 32), field(f"revision {about.revision}", 16), today.encode(),
        today.encode(), b"00", f"{blocks:05}".encode(), f"{len(cues):05}".encode(), b"001",
        f"{min(99, max(longest, 32)):02}".encode(),
        f"{ROWS:02}".encode(), b"1", b"00000000", first.encode(), b"1", b"1", field("", 3), field("", 32), field("", 32),
        field("", 32), field("", 75), field("", 576),
    )  # fmt: skip
    return b"".join(parts)


def _caption(number: int, cue: Cue, rate: FrameRate, table: str) -> bytes:
    """The text and timing information blocks of a caption, 128 bytes each."""
    text = bytes([NEW_LINE]).join(b"".join(_octets(letter, table) or b"?" for letter in line) for line in cue.lines)
    start = rate.frame_at(cue.start)
    end = max(start + 1, rate.frame_at(cue.end))
    parts = [text[at : at + TEXT - 1] for at in range(0, max(1, len(text)), TEXT - 1)][:MOST_BLOCKS]
    row = {"top": 1, "middle": ROWS // 2, "bottom": ROWS - len(cue.lines) + 1}[cue.look.down]
    out = b""
    for index, part in enumerate(parts):
        last = index == len(parts) - 1
        group, within = divmod(number, 65536)
        out += bytes([group]) + within.to_bytes(2, "little")
        out += bytes([0xFF if last else index, 0]) + _time(start, rate) + _time(end, rate)
        out += bytes([row, JUSTIFIED[cue.look.across], 0]) + part.ljust(TEXT, bytes([UNUSED]))
    return out


def _time(frame: int, rate: FrameRate) -> bytes:
    return bytes(int(part) for part in rate.timecode(frame).replace(";", ":").split(":"))
