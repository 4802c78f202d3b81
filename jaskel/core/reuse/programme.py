"""What is said in a programme, as proposals are made of it."""

from __future__ import annotations

from dataclasses import replace

from jaskel.core.plan import Plan
from jaskel.core.reuse.sentences import Sentence, sentences_of
from jaskel.core.transcript import Word


def words_heard(plan: Plan) -> list[Word]:
    """The words of a plan with the times at which they are heard."""
    return [replace(each.word, start=each.start, end=max(each.end, each.start + 1)) for each in plan.words]


def sentences_heard(plan: Plan) -> list[Sentence]:
    """The sentences of a plan; their words are those of :attr:`~jaskel.core.plan.Plan.words`."""
    return sentences_of(words_heard(plan))
