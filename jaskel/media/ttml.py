"""Timed Text Markup Language, before it is read as captions: checked, and its times written as seconds.

Times may count frames and ticks (TTML2, section 12.3), which pysubs2 does not read.
"""

from __future__ import annotations

import re
from fractions import Fraction
from typing import Any
from xml.etree.ElementTree import Element, tostring

from defusedxml.ElementTree import fromstring

PARAMETERS = "{http://www.w3.org/ns/ttml#parameter}"
DEEPEST = 40
LONGEST_CUE = 2_000
"""Characters of one caption; no screen holds more."""

_CLOCK = re.compile(r"(\d{1,4}):(\d{1,2}):(\d{1,2})(?:(\.\d{1,9})|:(\d{1,3})(?:\.\d{1,3})?)?")
_OFFSET = re.compile(r"(\d{1,12}(?:\.\d{1,9})?)(h|ms|m|s|f|t)")


def with_plain_times(text: str) -> str:
    """The document with every time in seconds.

    Raises
    ------
    ValueError
        When it is no such document, declares a document type or entities, or nests too deeply, or when a time is none.
    xml.etree.ElementTree.ParseError
        When it is no XML at all.
    """
    root = fromstring(text, forbid_dtd=True)
    frames = _frame_rate(root)
    ticks = Fraction(root.get(f"{PARAMETERS}tickRate", "1"))
    nodes: list[tuple[Any, int]] = [(root, 0)]
    while nodes:
        node, depth = nodes.pop()
        if depth > DEEPEST:
            raise ValueError("nested too deeply")
        for name in ("begin", "end", "dur"):
            if (time := node.get(name)) is not None:
                node.set(name, f"{float(_seconds(time.strip(), frames, ticks)):.6f}s")
        if str(node.tag).endswith("}p") and sum(map(len, node.itertext())) > LONGEST_CUE:
            raise ValueError("a caption is too long")
        nodes += [(child, depth + 1) for child in node]
    return tostring(root, encoding="unicode")


def _frame_rate(root: Element) -> Fraction:
    rate = Fraction(root.get(f"{PARAMETERS}frameRate", "30"))
    over, _, under = root.get(f"{PARAMETERS}frameRateMultiplier", "1 1").partition(" ")
    rate *= Fraction(int(over), int(under or 1))
    if rate <= 0:
        raise ValueError("no frame rate")
    return rate


def _seconds(time: str, frames: Fraction, ticks: Fraction) -> Fraction:
    if found := _CLOCK.fullmatch(time):
        hours, minutes, seconds = (int(part) for part in found.groups()[:3])
        part = Fraction(found[4]) if found[4] else Fraction(int(found[5] or 0)) / frames
        return 3600 * hours + 60 * minutes + seconds + part
    if found := _OFFSET.fullmatch(time):
        units = {
            "h": Fraction(3600),
            "m": Fraction(60),
            "s": Fraction(1),
            "ms": Fraction(1, 1000),
            "f": 1 / frames,
            "t": 1 / ticks,
        }
        return Fraction(found[1]) * units[found[2]]
    raise ValueError(f"{time!r} is no time")
