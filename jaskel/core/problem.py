"""What a person is told when something cannot be done."""

from __future__ import annotations


class Problem(Exception):
    """A refusal in plain words.

    Parameters
    ----------
    code
        Short stable name for programs, such as ``"no-sound"``.
    sentence
        What is wrong and what to do about it, for the person who reads it.
    facts
        Whatever a program needs to offer the way out, JSON-ready.
    """

    def __init__(self, code: str, sentence: str, **facts: object) -> None:
        super().__init__(sentence)
        self.code = code
        self.sentence = sentence
        self.facts = facts


class Missing(Problem):
    """What was asked for is not there (any more)."""


class Stale(Problem):
    """An edit was made on a revision that is no longer the newest."""
