"""A summary in sentences that were said, and titles for the whole in several tones."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

import numpy as np

from jaskel.core.reuse.alone import HARMS, NAMELESS, alone, harms
from jaskel.core.reuse.highlights import ranked
from jaskel.core.reuse.sentences import Sentence

SAME = 0.7
"""So alike two sentences say the same: the summary needs one of them."""


def summary(
    sentences: Sequence[Sentence], meanings: np.ndarray, begins: Sequence[int], count: int, refused: Collection[int] = ()
) -> list[int]:
    """Which sentences tell the whole in so many, in order of time: first the best of each chapter, then the next best."""
    worth = 0.55 * ranked(meanings) + 0.45 * np.array([alone([each]) for each in sentences])
    long = np.array([min(1.0, (each.last - each.first) / 12) for each in sentences])
    worth = worth * long
    worth[[*refused]] = -1
    chapter = np.searchsorted(np.array(begins), np.arange(len(sentences)), side="right") - 1
    taken: list[int] = []
    told: set[int] = set()
    left = [int(at) for at in np.argsort(-worth, kind="stable") if worth[at] >= 0]
    while left and len(taken) < count:
        fresh = [at for at in left if int(chapter[at]) not in told] if len(told) < len(begins) else []
        best = (fresh or left)[0]
        taken.append(best)
        told.add(int(chapter[best]))
        left = [at for at in left if at != best and float(meanings[at] @ meanings[best]) < SAME]
    return sorted(taken)


FORMS: Mapping[str, Sequence[str]] = {
    "plain": ("{0}", "{0} and {1}", "{0}, {1}, {2}"),
    "formal": ("{0} and {1}: a conversation", "{0}, {1} and {2}: a conversation"),
}
"""Titles are put together by these, of their own words; nothing in them claims more than that something is spoken of."""

LONGEST_TITLE = 9
"""Words of something that was said, where that is the title."""


AT_ONCE = 3
"""Questions, or sentences, that are proposed as titles."""


def titles(sentences: Sequence[Sentence], about: Sequence[str], again: int = 0) -> list[tuple[str, str]]:
    """Ideas for the title of an episode, each with its tone: of what is spoken of, of what was asked, and of what was said.

    Asked for ``again``, they begin with the next of what is spoken of, and with the next best sentences.
    """
    turn = again % max(1, len(about))
    about = [*about[turn:], *about[:turn]]
    made = []
    for tone, forms in FORMS.items():
        for form in forms:
            if form.count("{") <= len(about):
                text = form.format(*about)
                made.append((tone, text[:1].upper() + text[1:]))
    short = [each for each in sentences if 3 <= each.last - each.first <= LONGEST_TITLE]
    asked = sorted((each for each in short if each.asks), key=lambda each: -_telling(each, about))
    said = sorted((each for each in short if not each.asks), key=lambda each: -_telling(each, about))
    made += [("curious", each.text) for each in _turned(asked, again)]
    made += [("playful", each.text.rstrip(".")) for each in _turned(said, again)]
    return made


def _turned(sentences: Sequence[Sentence], again: int) -> Sequence[Sentence]:
    """The next few of them; after the last the first come again."""
    begin = AT_ONCE * (again % max(1, -(-len(sentences) // AT_ONCE)))
    return sentences[begin : begin + AT_ONCE]


def _telling(sentence: Sentence, about: Sequence[str]) -> float:
    """How well a sentence serves as a title: alone, and with something in it that is spoken of."""
    low = sentence.text.casefold()
    fine = ("is too short to say something", "asks and is not answered")
    costs = sum(HARMS[each] for each in harms([sentence]) if each not in fine) + 0.4 * bool(NAMELESS.search(low))
    return 0.5 * any(word.casefold() in low for word in about) - costs
