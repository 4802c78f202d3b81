"""Words, rests, passages, and the page and captions made of them."""

from __future__ import annotations

import itertools
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.captions.lines import lines
from jaskel.core.edition import Edition, Piece
from jaskel.core.operations import Strike, apply
from jaskel.core.page import laid_words, lay_out
from jaskel.core.plan import Material, compile_plan
from jaskel.core.source import Recorded
from jaskel.core.timebase import clock, frame_count, frame_start
from jaskel.core.transcript import Rough, Transcript, Word, tidy_times

S = 48_000


def said(text: str, each: int = S // 4, rest: int = 0, start: int = 0) -> list[Word]:
    return [Word(w, start + i * (each + rest), start + i * (each + rest) + each) for i, w in enumerate(text.split())]


class TestTime:
    def test_clock(self):
        assert clock(192 * S + 19_200, 1) == "3:12.4"
        assert clock(3723 * S) == "1:02:03"

    @given(st.integers(0, 10**6), st.sampled_from([Fraction(25), Fraction(30000, 1001), Fraction(24), Fraction(60)]))
    def test_a_frame_begins_within_itself(self, number, rate):
        at = frame_start(number, rate)
        assert number <= at * rate / S < number + 1
        assert frame_count(frame_start(number + 1, rate), rate) == number + 1


class TestTranscript:
    def test_a_word_has_a_length(self):
        with pytest.raises(ValueError, match="no length"):
            Word("the", 5, 5)

    def test_words_do_not_overlap(self):
        with pytest.raises(ValueError, match="before the one before"):
            Transcript(S, (Word("a", 0, 100), Word("b", 99, 200)))

    def test_rests_are_what_lies_between(self):
        words = (*said("one two", start=S), *said("three", start=3 * S))
        rests = Transcript(5 * S, words).rests()
        assert [(r.start, r.end) for r in rests] == [(0, S), (S + S // 2, 3 * S), (3 * S + S // 4, 5 * S)]

    def test_passages_break_at_pauses_and_at_sentence_ends_with_a_pause(self):
        words = [*said("It is on."), *said("Right then.", start=2 * S), *said("and on", start=3 * S), *said("so", start=5 * S)]
        passages = Transcript(9 * S, tuple(words)).passages()
        assert [p.text for p in passages] == ["It is on.", "Right then.", "and on", "so"]

    def test_endless_speech_still_breaks(self):
        passages = Transcript(1000 * S, tuple(said("word " * 500))).passages()
        assert [len(p.words) for p in passages] == [120, 120, 120, 120, 20]

    @given(st.lists(st.tuples(st.integers(0, 90_000), st.integers(-500, 9_000)), max_size=30))
    def test_rough_times_become_a_transcript(self, rough):
        words = tidy_times([Rough("w", start, start + length) for start, length in sorted(rough)], 96_000)
        Transcript(96_000, words)
        assert all(word.end > word.start for word in words)

    def test_a_word_that_has_lost_its_place_is_loose_however_its_neighbours_cross_it(self):
        rough = [Rough("so", 0, 4000), Rough("we", 3000, 6000, 0.5, loose=True), Rough("went", 5000, 9000)]
        words = tidy_times(rough, S)
        assert [(word.text, word.start, word.end, word.loose) for word in words] == [
            ("so", 0, 3500, False),
            ("we", 3500, 5500, True),
            ("went", 5500, 9000, False),
        ]


class TestPage:
    words = (*said("So the first.", start=S), *said("Then next", start=4 * S))
    transcript = Transcript(6 * S, words)
    edition = Edition.of([Piece(Recorded("a"), 0, 6 * S), Piece(Recorded("b"), 0, S)])

    def test_tokens_tile_the_edition(self):
        page = lay_out(self.edition, {"a": self.transcript})
        tokens = [t for passage in page for t in passage.tokens]
        assert tokens[0].at == 0
        assert all(a.at + a.length == b.at for a, b in itertools.pairwise(tokens))
        assert tokens[-1].at + tokens[-1].length == 7 * S
        assert [t.kind for t in tokens][-1] == "sound"

    def test_what_is_not_read_yet_is_sound_and_no_rest(self):
        half = Transcript(6 * S, self.words[:3], reached=3 * S)
        page = lay_out(Edition.of([Piece(Recorded("a"), 0, 6 * S)]), {"a": half})
        last = page[-1].tokens
        assert [(t.kind, t.at, t.length) for t in last] == [("sound", 3 * S, 3 * S)]
        assert page[0].tokens[-1].at + page[0].tokens[-1].length == 3 * S

    def test_striking_changes_no_token(self):
        page = lay_out(self.edition, {"a": self.transcript})
        edition = apply(self.edition, Strike(((S, 2 * S),)))[0]
        assert lay_out(edition, {"a": self.transcript}) == page

    def test_words_are_laid_where_their_recording_is(self):
        twice = Edition.of([Piece(Recorded("b"), 0, S), Piece(Recorded("a"), 0, 6 * S)])
        laid = list(laid_words(twice, {"a": self.transcript}))
        assert [(w.text, at) for _, w, at in laid][:2] == [("So", 2 * S), ("the", 2 * S + S // 4)]


class TestCaptions:
    @given(st.lists(st.text(st.characters(categories=["Ll"]), min_size=1, max_size=14), min_size=1, max_size=12))
    def test_lines_keep_all_words_and_the_limit(self, words):
        out = lines(words)
        assert " ".join(out) == " ".join(words)
        assert all(len(line) <= 42 for line in out)

    def test_cues_are_in_edited_time_and_leave_out_what_is_struck(self):
        transcript = Transcript(60 * S, tuple(said("one two three four five six. " * 20, start=S)))
        edition = Edition.of([Piece(Recorded("a"), 0, 60 * S)])
        edition = apply(edition, Strike(((0, S), (S + S // 4, S + S // 2))))[0]
        plan = compile_plan(edition, Material(transcripts={"a": transcript}))
        out = plan.cues
        assert out[0].start == 0
        assert " ".join(out[0].lines).startswith("one three four")
        assert all(a.end <= b.start for a, b in itertools.pairwise(out))
        assert all(b.end - b.start <= 6 * S for b in out)
        assert out[-1].end <= plan.length
