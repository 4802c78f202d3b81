"""How words are written side by side: with spaces, but in the scripts that have none."""

from __future__ import annotations

import re
from collections.abc import Iterable

_CLOSE = "\u2e80-\u312f\u3190-\u9fff\uf900-\ufaff\uff00-\uffef\u0e00-\u0eff\u1000-\u109f\u1780-\u17ff\U00020000-\U0003ffff"
"""Chinese, Japanese, Thai, Lao, Burmese and Khmer letters and their marks, by the blocks of Unicode."""

_SPACE = re.compile(rf"(?<=[{_CLOSE}]) (?=[{_CLOSE}])")


_LETTERS = re.compile(rf"[{_CLOSE}]")


def is_close(text: str) -> bool:
    """Whether a text is in a script that has no spaces between words."""
    return bool(_LETTERS.search(text))


def written(words: Iterable[str]) -> str:
    """Words as one writes them.

    >>> written(["a", "dry", "hull"]), written(["你", "好。", "世", "界"]), written(["用", "Jaskel", "写"])
    ('a dry hull', '你好。世界', '用 Jaskel 写')
    """
    return _SPACE.sub("", " ".join(words))
