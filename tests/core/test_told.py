"""Which sentences of a text tell it in so many seconds."""

from __future__ import annotations

import pytest
from test_reuse import means

from jaskel.core.problem import Problem
from jaskel.core.reuse.told import LEAST_REST, MOST_REST, Paragraph, chosen, reading_length, rest_for, sentences_in
from jaskel.core.timebase import RATE

TEXT = [
    Paragraph("Boats", heading=True),
    Paragraph("A wooden boat dries out on land. Her planks shrink in the sun. Water runs in through every seam of the boat."),
    Paragraph("Keep a boat wet and she stays tight."),
    Paragraph("Bread", heading=True),
    Paragraph("Bread needs time more than anything. The dough rises in a warm place. Bake the bread until the crust sings."),
    Paragraph("Music", heading=True),
    Paragraph("An orchestra tunes to the oboe. The violins answer first. Music begins with listening."),
]


def length_of(numbers):
    known = sentences_in(TEXT)
    return sum(known[at].length for at in numbers)


def test_headings_are_not_read_and_sentences_know_their_paragraphs():
    found = sentences_in(TEXT)
    assert [each.paragraph for each in found] == [1, 1, 1, 2, 4, 4, 4, 6, 6, 6]
    assert found[3].text == "Keep a boat wet and she stays tight."
    assert all(each.length > reading_length(each.text) for each in found)


@pytest.mark.parametrize("seconds", [8, 12, 16])
def test_they_are_as_long_as_asked_for_or_half_a_sentence_off(seconds):
    taken = chosen(TEXT, seconds * RATE, means)
    assert abs(length_of(taken) - seconds * RATE) < max(0.03 * seconds * RATE, 1.6 * RATE)
    assert taken == sorted(taken)


def test_every_part_is_told_where_there_is_time():
    homes = {sentences_in(TEXT)[at].paragraph for at in chosen(TEXT, 14 * RATE, means)}
    assert {4, 6} <= homes and homes & {1, 2}


def test_what_is_pinned_is_in_it_and_what_is_refused_is_not():
    taken = chosen(TEXT, 10 * RATE, means, {5}, {0, 4})
    assert 5 in taken and not {0, 4} & {*taken}


def test_all_of_a_short_text_is_told():
    assert chosen(TEXT, 600 * RATE, means, refused={2}) == [0, 1, 3, 4, 5, 6, 7, 8, 9]


@pytest.mark.parametrize("paragraphs", [[], [Paragraph("Only a heading", heading=True)], [Paragraph("  ")]])
def test_a_text_without_sentences_is_told(paragraphs):
    with pytest.raises(Problem, match="no sentences"):
        sentences_in(paragraphs)


def test_a_book_is_too_long():
    with pytest.raises(Problem, match="20,000 is the most"):
        sentences_in([Paragraph("word " * 20_001)])


def test_rests_are_eased_within_bounds():
    lengths = [2 * RATE] * 5
    assert rest_for(lengths, 12 * RATE) == RATE // 2
    assert (rest_for(lengths, RATE), rest_for(lengths, 99 * RATE)) == (LEAST_REST, MOST_REST)
