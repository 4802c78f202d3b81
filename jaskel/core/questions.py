"""Questions that were written down as statements: what is asked ends with its mark.

By word order alone, in English: "Did you bring the kettle in." asks, whatever the voice did. What cannot be told so ("You
brought it.") is left as it was heard.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

AUXILIARIES = frozenset(
    (
        *(
            "am",
            "is",
            "are",
            "was",
            "were",
            "do",
            "does",
            "did",
            "have",
            "has",
            "had",
            "can",
            "could",
            "will",
            "would",
            "should",
        ),
        *("isn't", "aren't", "wasn't", "weren't", "don't", "doesn't", "didn't", "haven't", "hasn't", "can't", "couldn't"),
        *("won't", "wouldn't", "shouldn't"),
    )
)
SUBJECTS = frozenset(("i", "you", "he", "she", "we", "they", "it", "there", "anybody", "anyone", "somebody", "someone"))
"""After an auxiliary at the beginning these ask; a noun may not ("have tea", "do the dishes")."""

ASKING = frozenset(("what", "why", "how", "when", "where", "who", "whose", "what's", "who's", "where's", "how's", "why's"))
SHORT = frozenset(("what's", "who's", "where's", "how's", "why's"))
LEADING = frozenset(("and", "but", "so", "or", "well", "now", "then", "okay", "oh"))
"""What may stand before a question."""

CONDITIONS = frozenset(("had", "should", "were"))
"""These open a condition as well ("Had there been …", "Should you need …"), unless the sentence is short."""

_WORD = re.compile(r"[\w'’]+")
_STOP = re.compile(r"\.([\"”’)\]]*)$")


def with_questions(texts: Sequence[str]) -> list[str]:
    """The words of a transcript, with a question mark where a sentence that asks ends with a full stop."""
    out = list(texts)
    for first, last in _sentences(texts):
        if _STOP.search(texts[last - 1]) and not texts[last - 1].endswith("..") and asks(texts[first:last]):
            out[last - 1] = _STOP.sub(r"?\1", texts[last - 1])
    return out


def asks(sentence: Sequence[str]) -> bool:
    """Whether a sentence has the order of a question."""
    words = ["".join(_WORD.findall(word)).lower().replace("’", "'") for word in sentence]
    while words and words[0] in LEADING:
        words = words[1:]
    if len(words) < 3:
        return False
    first, second, *others = words
    if first == "how" and second in MEASURED:
        second, others = others[0], others[1:]
    if first in SHORT:
        return "is" not in others
    if first in ASKING:
        # "What I mean" and "when we came" have the subject first; "what is done is done" and "who is not" say something.
        return second in AUXILIARIES and "n't" not in second and not {"is", "not"} & set(others)
    if first in CONDITIONS and len(words) > SHORT_SENTENCE:
        return False
    return first in AUXILIARIES and second in SUBJECTS and (first, second) not in COMMANDS


MEASURED = frozenset(("long", "many", "much", "often", "far", "old", "big", "fast", "soon", "well"))
COMMANDS = {("do", "it"), ("have", "it"), ("do", "anyone")}
SHORT_SENTENCE = 7


def _sentences(texts: Sequence[str]) -> Iterator[tuple[int, int]]:
    first = 0
    for index, text in enumerate(texts):
        if re.search(r"[.!?…][\"”’)\]]*$", text):
            yield first, index + 1
            first = index + 1
