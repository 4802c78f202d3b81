"""Captions as WebVTT (W3C): with the names of voices, places on the picture, and the times of words where they are wanted.

No library that is kept writes all of these; the form is small.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from jaskel.core.captions.cues import Cue, Part
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.captions.about import About

ALIGN = {"left": "start", "centre": "center", "right": "end"}
LINE = {"top": 10, "middle": 50, "bottom": 90}
ANCHOR = {"top": "start", "middle": "center", "bottom": "end"}


def write_vtt(path: Path, cues: Sequence[Cue], about: About) -> None:
    """Captions as WebVTT."""
    blocks = ["WEBVTT", *([f"NOTE\n{about.told}"] if about.told else [])]
    for cue in cues:
        timing = f"{clock(cue.start)} --> {clock(cue.end)}{_settings(cue) if about.placed else ''}"
        lines = [_line(line, cue) for line in cue.parts] if about.word_times and cue.parts else [*map(escaped, cue.lines)]
        name = about.voices.get(cue.voice or "", "") if about.named else ""
        text = "\n".join(lines)
        blocks.append(f"{timing}\n{f'<v {escaped(name)}>' if name else ''}{text}")
    path.write_text("\n\n".join(blocks) + "\n", encoding="utf-8")


def clock(at: Ticks) -> str:
    """A time as WebVTT has it, to the millisecond below: captions that touch still touch."""
    milliseconds = at * 1000 // RATE
    minutes, rest = divmod(milliseconds, 60_000)
    return f"{minutes // 60:02}:{minutes % 60:02}:{rest // 1000:02}.{rest % 1000:03}"


def escaped(text: str) -> str:
    """What is markup in WebVTT, as text."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def _settings(cue: Cue) -> str:
    look = cue.look
    line = min(100, max(0, round(LINE[look.down] + look.y)))
    across = {"left": 5, "centre": 50, "right": 95}[look.across]
    position = min(100, max(0, round(across + look.x)))
    return f" line:{line}%,{ANCHOR[look.down]} position:{position}% align:{ALIGN[look.across]}"


def _line(line: Sequence[Part], cue: Cue) -> str:
    """Words, each after the time at which it is said; the first has that of its caption."""
    found = ""
    for part in line:
        time = f"<{clock(part.start)}>" if part.start > cue.start else ""
        found += (" " if part.spaced else "") + time + escaped(part.text)
    return found
