"""Words whose voice is muted: told from the levels, whatever track they are on."""

from __future__ import annotations

import pytest

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.level import MUTED, Setting, set_fader, set_levels
from jaskel.core.marks.mark import NO_MARKS
from jaskel.core.muted import muted_ranges
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Session, Track
from jaskel.core.source import Recorded
from jaskel.core.transcript import Transcript, Word

S = 48_000
WORDS = tuple(
    Word(text, i * S, i * S + S // 2, 0.9, voice)
    for i, (text, voice) in enumerate([("one", "o"), ("two", "t"), ("three", "o")])
)
SAID = {"s": Transcript(4 * S, WORDS)}
MICROPHONES = (Track("mic-o", 4 * S, voice="o"), Track("mic-t", 4 * S, voice="t"))
CARRIERS = Material({"s": Session(MICROPHONES)}, SAID).carriers


def edition(*stretches: Setting, tracks=()) -> Edition:
    marks = NO_MARKS.changed(set_levels(NO_MARKS, stretches))
    for track, decibels in tracks:
        marks = marks.changed(set_fader(marks, track, decibels))
    return Edition((Piece(Recorded("s"), 0, 4 * S),), marks=marks)


def written(made: Edition, tracks=MICROPHONES, *, muted: bool = False) -> list[str]:
    plan = compile_plan(made, Material({"s": Session(tracks)}, SAID))
    return [item.word.text for item in plan.words_with(muted=muted)]


@pytest.mark.parametrize(
    ("stretches", "left"),
    [
        ([Setting("s", "mic-t", S, S + S // 2, MUTED)], ["one", "three"]),
        ([Setting("s", "mic-t", S, S + S // 4, MUTED)], ["one", "two", "three"]),  # a part of it is heard
        ([Setting("s", "mic-o", S, S + S // 2, MUTED)], ["one", "two", "three"]),  # another voice's
        ([Setting("s", "mic-t", S, S + S // 2, -40.0)], ["one", "two", "three"]),  # only lower
        ([Setting("s", "mic-t", S, S + S // 4, MUTED), Setting("s", "mic-t", S + S // 4, 2 * S, MUTED)], ["one", "three"]),
        ([Setting("s", "mic-o", 0, 4 * S, MUTED)], ["two"]),
    ],
)
def test_words_that_are_not_heard_are_left_out(stretches, left):
    assert written(edition(*stretches)) == left
    assert written(edition(*stretches), muted=True) == ["one", "two", "three"]


def test_a_voice_that_is_muted_as_a_whole():
    assert written(edition(tracks=[("mic-o", MUTED)])) == ["two"]


def test_a_voice_on_two_tracks_is_heard_on_the_other():
    spare = (*MICROPHONES, Track("spare", 4 * S, voice="o"))
    assert written(edition(tracks=[("mic-o", MUTED)]), spare) == ["one", "two", "three"]
    assert written(edition(tracks=[("mic-o", MUTED), ("spare", MUTED)]), spare) == ["two"]


def test_one_recording_carries_every_voice():
    muted = edition(Setting("s", "s", 0, 2 * S, MUTED))
    assert written(muted, (Track("s", 4 * S),)) == ["three"]


def test_the_page_is_told_where_they_stand():
    muted = edition(Setting("s", "mic-o", 0, 4 * S, MUTED))
    assert list(muted_ranges(muted, SAID, CARRIERS)) == [(0, S // 2), (2 * S, 2 * S + S // 2)]
    assert list(muted_ranges(edition(), SAID, CARRIERS)) == []
