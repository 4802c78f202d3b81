"""Hostile texts: those that made readers slow, large or wrong, and damaged ones of every form."""

from __future__ import annotations

import random
from collections.abc import Iterator

from bench.hostile.media import damaged

TTML = (
    '<?xml version="1.0"?>{doctype}<tt xmlns="http://www.w3.org/ns/ttml" xmlns:ttp="http://www.w3.org/ns/ttml#parameter" '
    'ttp:frameRate="25"><body><div>{cues}</div></body></tt>'
)
CUE = '<p begin="{}" end="{}">So we begin.</p>'
ENTITIES = "<!DOCTYPE tt [<!ENTITY a 'so so so so '>" + "".join(
    f"<!ENTITY {chr(98 + n)} '{f'&{chr(97 + n)};' * 10}'>" for n in range(8)
)

WHOLE = {
    "a.txt": "ORLA: So we begin with the hull.\nTEO: We do.\n" * 20,
    "a.md": "# The dry hull\n\n**Orla:** So *this* is a [boat](x.html).\n\n- one\n- two\n" * 10,
    "a.srt": "1\n00:00:01,000 --> 00:00:02,000\nSo we <i>begin</i>.\n\n2\n00:00:03,000 --> 00:00:04,500\nWe do.\n",
    "a.vtt": "WEBVTT\n\n00:01.000 --> 00:02.000\n<v Orla>So we begin.\n\n00:03.000 --> 00:04.000\nWe do.\n",
    "a.ttml": TTML.format(doctype="", cues=CUE.format("1s", "2s") + CUE.format("00:00:03:10", "00:00:04.5")),
}


def large(size: int) -> dict[str, str]:
    """Texts of about ``size`` characters on which a careless reader takes quadratic time or exponential room."""
    return {
        "brackets.txt": "[1:11" * (size // 5),
        "braces.srt": "1\n00:00:01,000 --> 00:00:02,000\n" + "{" * size,
        "angles.vtt": "WEBVTT\n\n00:01.000 --> 00:02.000\n" + "<" * size,
        "blank.md": "**a**" + "\n" * size,
        "stars.md": "- a\n- b\n" + "*a " * (size // 3),
        "links.md": "- a\n- b\n" + "[a](" * (size // 4),
        "ticks.md": "- a\n- b\n" + "`a" * (size // 2),
        "quotes.md": "- a\n- b\n" + "> " * (size // 2) + "a",
        "spaces.txt": " " * size + "a",
        "one-word.txt": "a" * size,
        "voices.txt": "A B: " * (size // 5),
        "numbers.srt": "1\n00:00:01,000 --> 00:00:02,000\n" + "1\n" * (size // 2),
        "cues.vtt": "WEBVTT\n\n" + "00:01.000 --> 00:02.000\n" * (size // 24),
        "many.txt": "so we begin " * (size // 12),
        "entities.ttml": TTML.format(doctype=ENTITIES + "]>", cues='<p begin="1s" end="2s">&i;</p>'),
        "outside.ttml": TTML.format(doctype="<!DOCTYPE tt SYSTEM 'file:///etc/passwd'>", cues=CUE.format("1s", "2s")),
        "deep.ttml": TTML.format(doctype="", cues="<div>" * (size // 20) + "</div>" * (size // 20)),
        "long.ttml": TTML.format(doctype="", cues=f'<p begin="1s" end="2s">{"{" * size}</p>'),
    }


def odd() -> dict[str, str]:
    """Captions with times that are none, and bytes that are no text."""
    found = {"empty.txt": "", "nul.txt": "so\0we", "only.vtt": "WEBVTT", "control.txt": "\x01\x02\x03" * 50}
    times = [
        ("-1s", "2s"), ("2s", "1s"), ("", ""), ("99999999999h", "2s"), ("1x", "2s"), ("00:00:01:99", "00:00:03:00"),
        ("1e9s", "2s"), ("10f", "50f"), ("100t", "200t"), ("00:00", "1"),
    ]  # fmt: skip
    for number, (begin, end) in enumerate(times):
        found[f"times-{number}.ttml"] = TTML.format(doctype="", cues=CUE.format(begin, end))
    found["no-times.ttml"] = TTML.format(doctype="", cues="<p>So we begin.</p>")
    found["rate-0.ttml"] = found["times-7.ttml"].replace('"25"', '"0"')
    found["negative.srt"] = "1\n-00:00:01,000 --> 00:00:02,000\nSo\n"
    found["far.srt"] = "1\n999999:00:01,000 --> 999999:00:02,000\nSo\n"
    return found


def texts(many: int, size: int, seed: int = 1) -> Iterator[tuple[str, bytes]]:
    """At least ``many`` hostile texts with their names."""
    chance = random.Random(seed)
    known = large(size) | odd()
    for name, text in known.items():
        yield name, text.encode()
    for number in range(len(known), many):
        name, text = chance.choice(list(WHOLE.items()))
        yield f"{number}-{name}", damaged(text.encode(), chance)
