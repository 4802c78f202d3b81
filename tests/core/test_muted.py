"""Words whose voice is muted: told from the levels, whatever track they are on."""

from __future__ import annotations

import pytest

from jaskel.core.captions.cues import programme_words
from jaskel.core.edition import Edition, Piece
from jaskel.core.levels import MUTED, Level, Levels
from jaskel.core.muted import muted_ranges
from jaskel.core.plan import compile_plan
from jaskel.core.transcript import Transcript, Word

S = 48_000
WORDS = tuple(
    Word(text, i * S, i * S + S // 2, 0.9, voice)
    for i, (text, voice) in enumerate([("one", "o"), ("two", "t"), ("three", "o")])
)
SAID = {"s": Transcript(4 * S, WORDS)}
CARRIERS = {"s": {"o": ["mic-o"], "t": ["mic-t"]}}


def edition(*stretches: Level, tracks=()) -> Edition:
    levels = Levels((), tuple(tracks))
    for each in stretches:
        levels = levels.with_stretch(each)
    return Edition((Piece("s", 0, 4 * S),), levels=levels)


def written(made: Edition, carriers=CARRIERS) -> list[str]:
    return [item.word.text for item in programme_words(made, compile_plan(made), SAID, carriers)]


@pytest.mark.parametrize(
    ("stretches", "left"),
    [
        ([Level("s", "mic-t", S, S + S // 2, MUTED)], ["one", "three"]),
        ([Level("s", "mic-t", S, S + S // 4, MUTED)], ["one", "two", "three"]),  # a part of it is heard
        ([Level("s", "mic-o", S, S + S // 2, MUTED)], ["one", "two", "three"]),  # another voice's
        ([Level("s", "mic-t", S, S + S // 2, -40.0)], ["one", "two", "three"]),  # only lower
        ([Level("s", "mic-t", S, S + S // 4, MUTED), Level("s", "mic-t", S + S // 4, 2 * S, MUTED)], ["one", "three"]),
        ([Level("s", "mic-o", 0, 4 * S, MUTED)], ["two"]),
    ],
)
def test_words_that_are_not_heard_are_left_out(stretches, left):
    assert written(edition(*stretches)) == left
    assert written(edition(*stretches), None) == ["one", "two", "three"]


def test_a_voice_that_is_muted_as_a_whole():
    assert written(edition(tracks=[("mic-o", MUTED)])) == ["two"]


def test_a_voice_on_two_tracks_is_heard_on_the_other():
    carriers = {"s": {"o": ["mic-o", "spare"], "t": ["mic-t"]}}
    assert written(edition(tracks=[("mic-o", MUTED)]), carriers) == ["one", "two", "three"]
    assert written(edition(tracks=[("mic-o", MUTED), ("spare", MUTED)]), carriers) == ["two"]


def test_one_recording_carries_every_voice():
    muted = edition(Level("s", "s", 0, 2 * S, MUTED))
    assert written(muted, {"s": {None: ["s"]}}) == ["three"]


def test_the_page_is_told_where_they_stand():
    muted = edition(Level("s", "mic-o", 0, 4 * S, MUTED))
    assert list(muted_ranges(muted, SAID, CARRIERS)) == [(0, S // 2), (2 * S, 2 * S + S // 2)]
    assert list(muted_ranges(edition(), SAID, CARRIERS)) == []
