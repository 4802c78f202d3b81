"""How the words of a cue are broken into lines."""

from __future__ import annotations

from collections.abc import Sequence

from jaskel.core.written import written

LINE = 42
"""Characters on a line, as subtitling guidelines have it."""

LINES = 2


def lines(words: Sequence[str]) -> tuple[str, ...]:
    """Words broken into lines of at most :data:`LINE` characters, two lines as even as they can be."""
    text = written(words)
    if len(text) <= LINE:
        return (text,)
    parted = [(written(words[:count]), written(words[count:])) for count in range(1, len(words))]
    fitting = [two for two in parted if max(map(len, two)) <= LINE]
    if fitting:
        return min(fitting, key=lambda two: abs(len(two[0]) - len(two[1])))
    out: list[str] = []
    for word in words:
        if out and len(longer := written((out[-1], word))) <= LINE:
            out[-1] = longer
        else:
            out.append(word)
    return tuple(out)
