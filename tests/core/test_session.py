"""Tracks on one clock, and what they say as one conversation."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.edition import Edition, Piece
from jaskel.core.page import lay_out
from jaskel.core.session import Session, Track, conversation
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Transcript, Word

LENGTH = 100 * RATE


def said(*words: tuple[str, float, float]) -> Transcript:
    return Transcript(LENGTH, tuple(Word(text, round(a * RATE), round(b * RATE)) for text, a, b in words))


def two(orla: Transcript, teo: Transcript, offset: float = 0.0, drift: float = 0.0) -> Transcript:
    session = Session((Track("a", LENGTH, voice="orla"), Track("b", LENGTH, round(offset * RATE), drift, voice="teo")))
    return conversation(session, {"a": orla, "b": teo})


def spoken(transcript: Transcript) -> list[tuple[str | None, str]]:
    return [(word.voice, word.text) for word in transcript.words]


class TestClock:
    @given(st.integers(-(10**7), 10**7), st.floats(-2e-4, 2e-4), st.integers(0, 10**9))
    def test_there_and_back_is_the_same_place(self, offset, drift, at):
        track = Track("a", 10**9, offset, drift)
        assert abs(track.to_recording(track.to_session(at)) - at) <= 1

    def test_a_clock_that_runs_slow_ends_late(self):
        assert Track("a", 3600 * RATE, 0, 100e-6).end == 3600 * RATE + round(0.36 * RATE)

    def test_zero_is_where_the_earliest_begins(self):
        session = Session((Track("a", LENGTH, 0), Track("b", LENGTH, -3 * RATE))).from_zero()
        assert [track.offset for track in session.tracks] == [3 * RATE, 0]
        assert session.length == LENGTH + 3 * RATE


class TestConversation:
    def test_turns_by_time_with_their_voices(self):
        talk = two(said(("Is", 1, 1.2), ("it", 1.2, 1.4), ("on?", 1.4, 1.8)), said(("Yes.", 2, 2.5)))
        assert spoken(talk) == [("orla", "Is"), ("orla", "it"), ("orla", "on?"), ("teo", "Yes.")]
        assert [passage.voice for passage in talk.passages()] == ["orla", "teo"]

    def test_an_offset_moves_a_voice(self):
        talk = two(said(("first", 1, 1.5)), said(("second", 0, 0.5)), offset=2)
        assert [word.start for word in talk.words] == [RATE, 2 * RATE]

    def test_drift_moves_late_words_more(self):
        talk = two(said(), said(("late", 90, 90.5)), drift=100e-6)
        assert talk.words[0].start == 90 * RATE + round(90 * RATE * 100e-6)

    def test_a_word_under_a_sentence_is_an_aside(self):
        talk = two(
            said(("the", 1, 1.2), ("planks", 1.2, 1.7), ("shrink", 1.7, 2.3), ("badly", 2.3, 2.8)), said(("Mhm.", 1.5, 1.8))
        )
        assert [word.text for word in talk.words] == ["the", "planks", "shrink", "badly"]
        assert [(word.voice, word.text) for word in talk.asides] == [("teo", "Mhm.")]

    def test_an_interruption_is_trimmed_and_follows(self):
        talk = two(said(("who", 1, 1.4), ("knows", 1.4, 2.0)), said(("I", 1.9, 2.2), ("do.", 2.2, 2.6)))
        assert spoken(talk) == [("orla", "who"), ("orla", "knows"), ("teo", "I"), ("teo", "do.")]
        assert talk.words[2].start == 2 * RATE

    def test_a_track_that_is_only_seen_says_nothing(self):
        session = Session((Track("a", LENGTH, voice="orla"), Track("b", LENGTH, sounds=False)))
        assert not conversation(session, {"a": said(), "b": said(("hum", 1, 2))}).words

    def test_it_is_read_as_far_as_all_its_voices_are(self):
        part = Transcript(LENGTH, (), 20 * RATE)
        assert two(part, Transcript(LENGTH, (), 30 * RATE), offset=5).reached == 20 * RATE

    @given(st.lists(st.tuples(st.integers(0, 1), st.integers(1, 90_000), st.integers(1, 40_000)), max_size=25))
    def test_words_never_overlap_and_none_is_lost(self, steps):
        at, words = [0, 0], ([], [])
        for voice, gap, length in steps:
            start = at[voice] + gap
            words[voice].append(Word("x", start, start + length))
            at[voice] = start + length
        talk = two(*(Transcript(LENGTH, tuple(w)) for w in words))
        assert len(talk.words) + len(talk.asides) == len(steps)


class TestPage:
    def test_asides_stand_beside_the_passage_they_fall_in(self):
        talk = two(
            said(("the", 1, 1.2), ("planks", 1.2, 1.7), ("shrink", 1.7, 2.3)), said(("Oh", 1.3, 1.4), ("yes.", 1.4, 1.6))
        )
        page = lay_out(Edition.of([Piece(Recorded("s"), 0, LENGTH)]), {"s": talk})
        assert [(a.voice, a.text, a.at) for p in page for a in p.asides] == [("teo", "Oh yes.", round(1.3 * RATE))]
        tokens = [token for paragraph in page for token in paragraph.tokens]
        assert sum(token.length for token in tokens) == LENGTH
