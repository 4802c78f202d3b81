"""Captions as SCC, the file of line 21 captions (CEA-608): by ttconv, prepared so that it loses none.

Line 21 carries two bytes a frame. A caption is sent while the one before is seen and appears with its last code, so it cannot
begin before all of it was sent; it has rows of 32 columns; and it knows few letters beyond those of English.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass

from ttconv.scc import writer
from ttconv.scc.codes.characters import unicode_to_scc
from ttconv.scc.config import SCCFrameRate, SccWriterConfiguration

from jaskel.core.captions.lines import lines as broken
from jaskel.core.captions.rules import Rules
from jaskel.media.captions.about import Channel
from jaskel.media.captions.rates import FrameRate
from jaskel.media.captions.ttml import document_of

COLUMNS, ROWS = 32, 4
"""As much as is seen at once."""

RATES = {"29.97 drop": SCCFrameRate.FPS_2997_DF, "29.97": SCCFrameRate.FPS_2997_NDF, "30": SCCFrameRate.FPS_30_NDF}
"""Rates that SCC has, by the names of :data:`jaskel.media.captions.rates.FRAME_RATES`."""

INSTEAD = {"…": "...", "–": "-", "—": "-", "‘": "'", "“": '"', "”": '"', "„": '"', "«": '"', "»": '"', "\u00a0": " ", "ß": "ss"}
"""What stands for characters that are not in line 21, where taking marks off letters does not help."""


@dataclass(frozen=True)
class Sent:
    """A caption as line 21 has it: in frames from its first to where it goes, in lines that fit."""

    start: int
    end: int
    lines: tuple[str, ...]
    packets: int


def plain(text: str) -> str:
    """A text in the letters of line 21; what has none is left out.

    >>> plain("Łódź, naïve … “so”"), plain("日本")
    ('Lódz, naive ... "so"', '')
    """
    return "".join(found for letter in text for found in _letter(letter))


def _letter(letter: str) -> str:
    if _known(letter):
        return letter
    if letter in INSTEAD:
        return INSTEAD[letter]
    bare = "".join(part for part in unicodedata.normalize("NFD", letter.translate(STROKED)) if _known(part))
    return bare


STROKED = str.maketrans(
    {"ł": "l", "Ł": "L", "đ": "d", "Đ": "D", "ø": "o", "Ø": "O", "æ": "ae", "Æ": "AE", "œ": "oe", "Œ": "OE"}
)


def _known(letter: str) -> bool:
    try:
        return unicode_to_scc(letter) != unicode_to_scc("\u2603") or letter == " "
    except (ValueError, KeyError):
        return False


def sent(cues: Sequence[tuple[int, int, tuple[str, ...]]]) -> list[Sent]:
    """Captions (from, to, lines; in frames) so that each is sent in time: one that would not be begins as much later."""
    found: list[Sent] = []
    for start, end, lines in cues:
        fitting = _fitting(tuple(plain(line) for line in lines))
        if not fitting:
            continue
        # Two codes before, one for each row and one after, each sent twice; then two letters at a time.
        packets = 6 + sum(2 + (len(line) + 5) // 2 for line in fitting)
        if found:
            start = max(start, found[-1].start + packets + 4)
            if start <= found[-1].end + 4:
                found[-1] = Sent(found[-1].start, start, found[-1].lines, found[-1].packets)
        else:
            start = max(start, packets)
        found.append(Sent(start, max(end, start + 8), fitting, packets))
    return found


def _fitting(lines: tuple[str, ...]) -> tuple[str, ...]:
    """Lines of at most 32 columns, broken anew where one is longer; at most four of them."""
    lines = tuple(line for line in lines if line.strip())
    if all(len(line) <= COLUMNS for line in lines):
        return lines[:ROWS]
    return broken(" ".join(lines).split(), Rules(characters=COLUMNS, lines=3))[:ROWS]


def written(captions: Sequence[Sent], rate: FrameRate, channel: Channel) -> str:
    """The file of captions."""
    wanted = SccWriterConfiguration(frame_rate=RATES[rate.name], force_popon=True)
    document = document_of([(each.start / rate.rate, each.end / rate.rate, each.lines) for each in captions], "en")
    text = str(writer.from_model(document, wanted))
    return text if channel == "CC1" else _moved(text, channel)


def _moved(text: str, channel: Channel) -> str:
    """The same with its codes for another channel (CEA-608-E, table 52 and following): CC2 and CC4 set a bit of the first byte
    of each, CC3 and CC4, which are in the second field, have their own codes for what is done with a caption."""
    lines = []
    for line in text.split("\n"):
        time, tab, words = line.partition("\t")
        lines.append(time + tab + " ".join(_code(word, channel) for word in words.split()))
    return "\n".join(lines)


def _code(word: str, channel: Channel) -> str:
    first, second = (int(word[at : at + 2], 16) & 0x7F for at in (0, 2))
    if not 0x10 <= first <= 0x1F:
        return word
    if channel in ("CC3", "CC4") and first == 0x14 and 0x20 <= second <= 0x2F:
        first = 0x15
    if channel in ("CC2", "CC4"):
        first |= 0x08
    return f"{_odd(first):02x}{_odd(second):02x}"


def _odd(octet: int) -> int:
    """A byte of seven bits with the eighth for odd parity."""
    return octet if octet.bit_count() % 2 else octet | 0x80
