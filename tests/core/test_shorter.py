"""To an exact length: rests first, then what is least missed."""

from __future__ import annotations

import numpy as np
import pytest
from test_reuse import means

from jaskel.core.reuse.sentences import sentences_of
from jaskel.core.reuse.shorter import RESTS, eased, least_missed
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word


def said(*turns, rest=1.5):
    """Sentences of voices, two words in a second, with a rest after each."""
    words, at = [], 0
    for voice, text in turns:
        for word in text.split():
            words.append(Word(word, at, at + RATE // 2, 0.9, voice))
            at += RATE // 2
        at += round(rest * RATE)
    return words


BOATS = (
    "The boat dries out in the long summer.",
    "A boat dries out in a long summer.",
    "Her planks shrink and the sea comes in.",
    "He said so.",
    "Every boat needs water on her planks.",
    "The harbour is full of boats in spring.",
    "Boats that stay wet are tight and dry inside.",
)


@pytest.fixture
def talk():
    words = said(*(("a", text) for text in BOATS))
    sentences = sentences_of(words)
    return words, sentences, means([each.text for each in sentences])


def test_rests_are_eased_no_further_than_is_needed(talk):
    words, *_ = talk
    few = eased(words, 2 * RATE)
    assert few.spared == pytest.approx(2 * RATE, abs=RATE // 10)
    much = eased(words, 60 * RATE)
    assert much.becomes == RESTS[-1]
    assert much.spared == pytest.approx(6 * (1.5 * RATE - RESTS[-1]), rel=0.02)
    assert few.becomes > much.becomes and eased(words, 0).gone == ()
    # What goes lies between words.
    assert all(not any(begin < word.end and word.start < end for word in words) for begin, end in much.gone)


@pytest.mark.parametrize("seconds", [1, 3, 5, 8])
def test_as_much_goes_as_has_to_or_up_to_a_sentence_more(talk, seconds):
    _, sentences, meanings = talk
    gone = least_missed(sentences, meanings, seconds * RATE)
    length = sum(sentences[each.last - 1].end - sentences[each.first].start for each in gone)
    assert seconds * RATE <= length + RATE // 10
    assert length <= seconds * RATE + max(each.length for each in sentences)


def test_what_says_the_same_as_another_goes_first_and_says_why(talk):
    _, sentences, meanings = talk
    gone = least_missed(sentences, meanings, 3 * RATE)
    assert {each.first for each in gone} <= {1, 2, 3, 4, 5} and all(each.why for each in gone)
    one = least_missed(sentences, np.eye(len(sentences)), RATE)
    assert [each.first for each in one] == [3]  # "He said so" is not understood alone


def test_what_stays_stays(talk):
    _, sentences, meanings = talk
    first = {each.first for each in least_missed(sentences, meanings, 3 * RATE)}
    other = {each.first for each in least_missed(sentences, meanings, 3 * RATE, first)}
    assert other and not first & other
    assert least_missed(sentences, meanings, RATE, range(len(sentences))) == []


def test_a_question_goes_with_its_answer():
    sentences = sentences_of(said(("a", "Is it wet?"), ("b", "It is not wet."), ("b", "Boats dry out on land.")))
    for seconds in (1, 2, 4):
        for each in least_missed(sentences, means([it.text for it in sentences]), seconds * RATE):
            assert (each.first, each.last) in ((0, 2), (2, 3))


def test_more_than_there_is_takes_all_of_it(talk):
    _, sentences, meanings = talk
    assert len(least_missed(sentences, meanings, 600 * RATE)) == len(sentences)
