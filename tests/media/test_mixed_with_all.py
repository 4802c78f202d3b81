"""Everything at once (rides, beds, bleeps, chains for some words, the bus): parts mixed by themselves are the whole."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import RATE
from scipy.signal import butter, sosfilt

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Beginning, End, Place, Stretch, Whole
from jaskel.core.marks.bed import Bed
from jaskel.core.marks.bleep import Bleep
from jaskel.core.marks.chain import ChainHere, ChainMark
from jaskel.core.marks.level import MUTED, Level, Pan
from jaskel.core.marks.loudness import LoudnessMark, Measured
from jaskel.core.marks.mark import Marks
from jaskel.core.plan import Feed, Material, compile_plan
from jaskel.core.session import Session, Track
from jaskel.core.sound.bus import Bus
from jaskel.core.sound.processor import Gain, Gate, name_of
from jaskel.core.source import Recorded
from jaskel.core.transcript import Transcript, Word
from jaskel.media.sound import mix, mix_slice

SOUND = Recorded("s")
LOUDER = (Gain(decibels=6),)


def read(feed: Feed, start: int, end: int) -> np.ndarray:
    """Noise that is the same at the same place, another one for each recording, louder after a chain."""
    first = max(0, start // RATE)
    rng = [
        np.random.default_rng([hash(feed.recording) % 1000 if feed.recording != "one" else 1, second])
        for second in range(first, end // RATE + 1)
    ]
    whole = np.concatenate([each.standard_normal((RATE, 2)) for each in rng]) if end > first * RATE else np.zeros((0, 2))
    out = np.zeros((end - start, 2), np.float32)
    part = whole[max(0, start) - first * RATE : end - first * RATE]
    level = 0.02 if feed.tone else 0.25 * (2 if feed.chain else 1)
    out[max(0, -start) : max(0, -start) + len(part)] = part * level
    return out


@pytest.fixture(scope="module")
def plan():
    words = [Word(f"w{i}", i * RATE, i * RATE + RATE // 2, voice="a" if i % 2 else "b") for i in range(30)]
    session = Session((Track("one", 30 * RATE, voice="a"), Track("two", 30 * RATE, voice="b")))
    material = Material(
        {"s": session},
        {"s": Transcript(30 * RATE, tuple(words))},
        frozenset({("one", name_of(LOUDER))}),
        {"music": 7 * RATE},
    )
    marks = Marks.of([
        ChainMark("c", (Whole("two"),), (Gate(depth=9),)),
        ChainHere("h", (Stretch("s", 4 * RATE, 6 * RATE),), "one", LOUDER),
        Bleep("bl", (Stretch("s", 9 * RATE, 9 * RATE + 20_000),), "one"),
        Level("l", (Stretch("s", 12 * RATE, 13 * RATE),), "one", MUTED),
        Pan("p", (Whole("two"),), 0.4),
        Bed("b", (Beginning(-3 * RATE), Place("s", 16 * RATE)), "music", loop=True),
        Bed("e", (End(-RATE),), "music", duck=0),
        LoudnessMark("q", (Beginning(), End()), -16, -1, Bus(7.0, -1.0), Measured(-16, 3, -1, "x")),
    ])  # fmt: skip
    pieces = [
        Piece(SOUND, 0, 8 * RATE),
        Piece(SOUND, 8 * RATE, 8 * RATE + 30_000, kept=False),
        Piece(SOUND, 8 * RATE + 30_000, 20 * RATE),
    ]
    return compile_plan(Edition(tuple(pieces), marks=marks), material)


def test_it_begins_before_its_words_and_goes_on_after_them(plan):
    assert plan.begins == 3 * RATE and plan.length == plan.ends + 6 * RATE


def test_blocks_joined_are_the_whole_to_the_last_bit(plan):
    whole = mix(plan, 0, plan.length, read)
    assert np.array_equal(np.concatenate([mix(plan, block.at, block.until, read) for block in plan.blocks]), whole)
    for begin, end in ((1, 77_777), (3 * RATE - 5, 3 * RATE + 5), (600_001, 700_003)):
        assert np.array_equal(mix(plan, begin, end, read), whole[begin:end])


def test_nothing_is_louder_than_its_peak(plan):
    whole = mix(plan, 0, plan.length, read)
    assert 20 * np.log10(np.abs(whole).max()) <= -1 + 0.01


def test_a_bleep_is_a_tone_instead_of_the_voice(plan):
    at = plan.programme_at(9 * RATE + 4000)
    heard = mix(plan, at, at + 12_000, lambda feed, a, b: read(feed, a, b) * (feed.recording == "one"))
    spectrum = np.abs(np.fft.rfft(heard[:, 0] * np.hanning(len(heard))))
    assert abs(np.argmax(spectrum) * RATE / len(heard) - 1000) < 8
    low = sosfilt(butter(4, 500, fs=RATE, output="sos"), heard[:, 0])
    assert np.sqrt((low[2000:] ** 2).mean()) < 0.02


def test_some_words_go_through_another_chain_without_a_step(plan):
    def one(feed: Feed, start: int, end: int) -> np.ndarray:
        return read(feed, start, end) * (feed.recording == "one" and not feed.hertz)

    def level(begin: float, end: float) -> float:
        heard = plan.mixed(round((3 + begin) * RATE), round((3 + end) * RATE))
        return float(np.sqrt((mix_slice(heard, one) ** 2).mean()))

    assert level(4.1, 5.9) == pytest.approx(2 * level(2, 3.5), rel=0.05)
    assert level(3.98, 4.0) < 2 * level(2, 3.5)
