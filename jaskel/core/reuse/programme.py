"""What is said in a programme, as proposals are made of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from statistics import median

from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.plan import Plan
from jaskel.core.reuse.sentences import Sentence, sentences_of
from jaskel.core.transcript import Word


def words_heard(plan: Plan) -> list[Word]:
    """The words of a plan with the times at which they are heard."""
    return [replace(each.word, start=each.start, end=max(each.end, each.start + 1)) for each in plan.words]


def sentences_heard(plan: Plan) -> list[Sentence]:
    """The sentences of a plan; their words are those of :attr:`~jaskel.core.plan.Plan.words`."""
    return sentences_of(words_heard(plan))


def with_loudness(
    sentences: Sequence[Sentence], words: Sequence[ProgrammeWord], loudness: Callable[[ProgrammeWord], float]
) -> list[Sentence]:
    """The sentences with how loud each is said, by the loudness of its ``words``, which are those of the programme."""
    found = [median(loudness(word) for word in words[each.first : each.last]) for each in sentences]
    usual: dict[str | None, list[float]] = {}
    for each, loud in zip(sentences, found, strict=True):
        usual.setdefault(each.voice, []).append(loud)
    middle = {voice: median(known) for voice, known in usual.items()}
    return [
        replace(each, loud=loud / middle[each.voice] if middle[each.voice] > 0 else 1.0)
        for each, loud in zip(sentences, found, strict=True)
    ]
