"""How the words of a cue are broken into lines."""

from __future__ import annotations

from collections.abc import Sequence

LINE = 42
"""Characters on a line, as subtitling guidelines have it."""

LINES = 2


def lines(words: Sequence[str]) -> tuple[str, ...]:
    """Words broken into lines of at most :data:`LINE` characters, two lines as even as they can be."""
    text = " ".join(words)
    if len(text) <= LINE:
        return (text,)
    breaks = [len(" ".join(words[:count])) for count in range(1, len(words))]
    fitting = [b for b in breaks if b <= LINE and len(text) - b - 1 <= LINE]
    if fitting:
        middle = min(fitting, key=lambda b: abs(2 * b + 1 - len(text)))
        return text[:middle], text[middle + 1 :]
    out: list[str] = []
    for word in words:
        if out and len(out[-1]) + 1 + len(word) <= LINE:
            out[-1] += " " + word
        else:
            out.append(word)
    return tuple(out)
