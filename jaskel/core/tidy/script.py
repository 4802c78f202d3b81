"""How near what was said is to what was meant to be said."""

from __future__ import annotations

from collections.abc import Sequence
from difflib import SequenceMatcher

from jaskel.core.tidy.finding import plain

ENDS = (".", "?", "!", "…")

SHARED = 0.5
"""A sentence of the script is compared only where half of its words, or of what was said, are in the other."""


class Script:
    """The sentences of a text."""

    def __init__(self, words: Sequence[str]) -> None:
        self._sentences: list[tuple[list[str], frozenset[str]]] = []
        sentence: list[str] = []
        for text in words:
            sentence.append(plain(text))
            if text.rstrip("\"'”’)").endswith(ENDS):
                self._add(sentence)
                sentence = []
        self._add(sentence)

    def _add(self, sentence: list[str]) -> None:
        if sentence:
            self._sentences.append((sentence, frozenset(sentence)))

    def nearness(self, text: str) -> float:
        """How near a take is to the sentence it is nearest to: 0 where there is none like it, 1 where it is the same.

        That is the share of words in order that both have (Ratcliff and Obershelp's measure, as difflib has it).
        """
        said = [plain(word) for word in text.split()]
        known = frozenset(said)
        near = [words for words, each in self._sentences if len(each & known) >= SHARED * min(len(each), len(known))]
        return max((SequenceMatcher(None, said, words, autojunk=False).ratio() for words in near), default=0.0)
