"""Words side by side, in scripts with and without spaces."""

from __future__ import annotations

import pytest

from jaskel.core.captions.lines import lines
from jaskel.core.transcript import Transcript, Word
from jaskel.core.written import written


@pytest.mark.parametrize(
    ("words", "text"),
    [
        (["a", "dry", "hull."], "a dry hull."),
        (["你", "好。", "世", "界"], "你好。世界"),
        (["用", "Jaskel", "写"], "用 Jaskel 写"),
        (["ท่าเรือ", "เก่า"], "ท่าเรือเก่า"),
        (["배를", "고쳐요"], "배를 고쳐요"),
        (["שלום", "עולם"], "שלום עולם"),
        ([], ""),
    ],
)
def test_words_are_joined_as_they_are_written(words, text):
    assert written(words) == text


def test_passages_and_captions_join_them_so():
    said = tuple(Word("船" if index % 2 else "木", index * 9_000, (index + 1) * 9_000) for index in range(60))
    (passage,) = Transcript(60 * 9_000, said).passages()
    assert passage.text == "木船" * 30
    two = lines([word.text for word in said])
    assert "".join(two) == "木船" * 30 and len(two) == 2 and max(map(len, two)) <= 42
