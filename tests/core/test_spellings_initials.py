"""Initials as what a term is misheard as: a "T.O." that was heard is no "to"."""

from __future__ import annotations

import pytest
from conftest import RATE

from jaskel.core.spellings import Spelling
from jaskel.core.transcript import Word
from jaskel.speech.house import house, mended
from jaskel.speech.recognise import HeardWord


@pytest.mark.parametrize(
    ("said", "reads"),
    [
        ("closer to it", "closer to it"),
        ("T.O., you have time", "Teo, you have time"),
        ("me as T.O. Marsh, the", "me as Teo Marsh, the"),
        ("Too late to go", "Too late to go"),
    ],
)
def test_only_initials_are_taken_for_it(said, reads):
    known = house([Spelling("Teo Marsh", ("T.O. Marsh",)), Spelling("Teo", ("T.O.",))])
    words = [HeardWord(text, index, index + 0.8, 0.9) for index, text in enumerate(said.split())]
    assert " ".join(word.text for word in mended(words, known, lambda _: ())) == reads
    stored = [Word(text, index * RATE, index * RATE + RATE // 2, 0.9) for index, text in enumerate(said.split())]
    assert bool([each for each in known.mendings(stored) if each.sure]) is (said != reads)
