"""How far a transcript is from the truth: word error and edge errors, for tests and the bench."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any

import numpy as np


def plain(text: str) -> str:
    return re.sub(r"[^a-z0-9']", "", text.lower())


def word_error(reference: Sequence[str], heard: Sequence[str]) -> float:
    """Substitutions, deletions and insertions over the number of reference words (Levenshtein)."""
    row = np.arange(len(heard) + 1)
    for wanted in reference:
        new = [int(row[0]) + 1]
        for i, word in enumerate(heard):
            new.append(min(int(row[i]) + (wanted != word), int(row[i + 1]) + 1, new[-1] + 1))
        row = np.array(new)
    return float(row[-1]) / len(reference)


@dataclass(frozen=True)
class EdgeErrors:
    """Seconds between the edges of words heard right and where they are in truth."""

    starts: np.ndarray
    ends: np.ndarray

    def percentile(self, share: float) -> tuple[float, float]:
        return float(np.percentile(self.starts, share)), float(np.percentile(self.ends, share))


def edge_errors(truth: Sequence[dict[str, Any]], words: Sequence[tuple[str, float, float]]) -> EdgeErrors:
    """``truth`` as the demo's files have it; ``words`` as text, start, end in seconds."""
    matcher = SequenceMatcher(None, [plain(w["text"]) for w in truth], [plain(w[0]) for w in words], autojunk=False)
    pairs = [(truth[a + i], words[b + i]) for a, b, n in matcher.get_matching_blocks() for i in range(n)]
    exact = [(t, w) for t, w in pairs if t["exact"]]
    return EdgeErrors(np.array([abs(w[1] - t["start"]) for t, w in exact]), np.array([abs(w[2] - t["end"]) for t, w in exact]))
