"""Moving, inserting, trimming, splices and levels, by example and by property."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaskel.core.compare import compared
from jaskel.core.edition import CARD, CLOSING, Edition, Piece
from jaskel.core.levels import Level, Levels
from jaskel.core.operations import Adjust, Insert, Lift, Move, PutBack, SetSplices, Slip, Strike, Substitute, Trim, apply
from jaskel.core.operations_json import from_json, to_json
from jaskel.core.page import lay_out
from jaskel.core.plan import blocks, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.rebase import Overlap, Since
from jaskel.core.splice import Meeting, Splice
from jaskel.core.transcript import Transcript, Word

S = 48_000
LENGTH = 20 * S


def whole() -> Edition:
    return Edition.of([Piece("a", 0, LENGTH)])


def after(edition: Edition, *operations) -> Edition:
    for operation in operations:
        edition = apply(edition, operation)[0]
    return edition


def kept(edition: Edition) -> list[tuple[str, int, int]]:
    return [(run.recording, run.start, run.end) for run in edition.kept_runs]


places = st.integers(0, 30 * S)
spans = st.tuples(places, places).map(sorted).map(tuple)
ranges = st.lists(spans, min_size=1, max_size=4).map(tuple)
shifts = st.integers(-2 * S, 2 * S)
pieces = st.builds(
    lambda name, start, length: Piece(name, start, start + length),
    st.sampled_from(["a", "b", "tone:a", "silence"]), st.integers(0, 10 * S), st.integers(1, 5 * S),
)  # fmt: skip
splices = st.builds(
    Splice,
    st.integers(0, S),
    st.sampled_from(["equal power", "linear"]),
    st.integers(-S, S),
    st.integers(0, S),
    st.integers(0, S),
)
levels = st.builds(
    Level, st.just("a"), st.sampled_from(["x", "y"]), st.integers(0, S), st.integers(S + 1, 5 * S), st.just(-6.0)
)
operations = st.one_of(
    ranges.map(Strike), ranges.map(Lift), ranges.map(PutBack), st.builds(Move, ranges, places),
    st.builds(Insert, places, st.lists(pieces, min_size=1, max_size=3).map(tuple)),
    st.builds(Trim, places, shifts, shifts), st.builds(Slip, places, shifts),
    st.lists(levels, min_size=1, max_size=2).map(tuple).map(Adjust),
    st.builds(Substitute, st.just("b"), st.just("c"), shifts, st.just(8 * S)),
)  # fmt: skip


def at_a_splice(edition: Edition, operation):
    """The same operation at a splice the edition has, where it is about one."""
    if isinstance(operation, Trim | Slip) and len(edition.kept_runs) > 1:
        run = edition.kept_runs[1 + operation.at % (len(edition.kept_runs) - 1)]
        kind = type(operation)
        return kind(run.laid, operation.before, operation.after) if kind is Trim else kind(run.laid, operation.by)
    return operation


def course(steps) -> list[tuple[Edition, object, Edition, object]]:
    """What can be carried out of a course of operations: before, operation, after, inverse."""
    edition, done = whole(), []
    for step in steps:
        operation = at_a_splice(edition, step)
        try:
            result, inverse = apply(edition, operation)
        except Problem:
            continue
        done.append((edition, operation, result, inverse))
        edition = result
    return done


class TestAnyCourse:
    @settings(max_examples=150, deadline=None)
    @given(st.lists(operations, max_size=10))
    def test_every_step_has_an_exact_inverse_and_goes_through_json(self, steps):
        for before, operation, result, inverse in course(steps):
            assert apply(result, from_json(to_json(inverse)))[0] == before
            assert from_json(to_json(operation)) == operation

    @settings(max_examples=150, deadline=None)
    @given(st.lists(operations, max_size=10), splices)
    def test_the_plan_is_what_is_kept_and_blocks_cover_it(self, steps, splice):
        done = course(steps)
        edition = done[-1][2] if done else whole()
        runs = edition.kept_runs
        times = 0
        if len(runs) > 1:
            meeting = Meeting(runs[0].recording, runs[0].end, runs[1].recording, runs[1].start)
            edition = apply(edition, SetSplices(((meeting, splice),)))[0]
            # The same may have been laid more than once, and so meet more than once.
            times = sum((a.recording, a.end, b.recording, b.start) == meeting for a, b in pairwise(runs))
        plan = compile_plan(edition)
        joins = sum(span.fade_in for span in plan.spans)
        reached = plan.length - edition.kept_length - joins
        assert 0 <= reached <= times * (splice.before + splice.after)
        assert all(
            a.fade_out == b.fade_in and a.until - a.fade_out == b.at for a, b in zip(plan.spans, plan.spans[1:], strict=False)
        )
        cut = blocks(plan)
        assert [b.until for b in cut[:-1]] == [b.at for b in cut[1:]]
        assert (not cut and not plan.length) or (cut[0].at, cut[-1].until) == (0, plan.length)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(operations, max_size=8))
    def test_the_page_shows_everything_once(self, steps):
        done = course(steps)
        edition = done[-1][2] if done else whole()
        words = tuple(Word(f"w{i}", i * S, i * S + S // 2) for i in range(20))
        page = lay_out(edition, {"a": Transcript(LENGTH, words), "b": Transcript(LENGTH, words)})
        at = 0
        for token in (token for paragraph in page for token in paragraph.tokens):
            assert token.at == at and token.length > 0
            at += token.length
        assert at == edition.length


class TestMoving:
    def test_several_ranges_are_laid_one_after_the_other(self):
        edition = after(whole(), Move(((S, 2 * S), (5 * S, 6 * S)), 10 * S))
        assert kept(edition)[2:5] == [("a", 6 * S, 10 * S), ("a", S, 2 * S), ("a", 5 * S, 6 * S)]
        assert edition.length == LENGTH

    def test_a_mark_set_by_hand_goes_along(self):
        edition = after(whole(), Strike(((4 * S, 6 * S),)), SetSplices(((Meeting("a", 4 * S, "a", 6 * S), Splice(4800)),)))
        moved = after(edition, Move(((0, 2 * S),), LENGTH))
        assert [span.fade_in for span in compile_plan(moved).spans] == [0, 4800, 480]


class TestTrimming:
    cut = Strike(((4 * S, 6 * S),))

    def test_hidden_sound_comes_forth_and_kept_sound_goes(self):
        edition = after(whole(), self.cut, Trim(6 * S, S, -S // 2))
        assert kept(edition) == [("a", 0, 5 * S), ("a", 6 * S - S // 2, LENGTH)]
        assert kept(after(edition, Trim(6 * S - S // 2, -2 * S, S))) == [("a", 0, 3 * S), ("a", 7 * S - S // 2, LENGTH)]

    def test_where_nothing_is_hidden_sound_of_the_recording_comes_forth(self):
        edition = after(whole(), Move(((2 * S, 3 * S),), 10 * S))
        at = edition.kept_runs[2].laid
        assert kept(after(edition, Trim(at, S // 2, 0)))[1] == ("a", 3 * S, 10 * S + S // 2)

    @pytest.mark.parametrize(
        "wrong", [Trim(6 * S, 3 * S, 0), Trim(6 * S, S, -2 * S), Trim(5 * S, 1, 0), Trim(6 * S, -9 * S, 0)]
    )
    def test_what_cannot_be_is_refused_in_words(self, wrong):
        with pytest.raises(Problem) as told:
            after(whole(), self.cut, wrong)
        assert told.value.code in ("no-more-sound", "no-splice", "too-short")


class TestRebasing:
    def since(self, *operations) -> Since:
        edition, inverses = whole(), []
        for operation in operations:
            edition, inverse = apply(edition, operation)
            inverses.append(inverse)
        return Since(inverses)

    def test_places_follow_what_was_put_in_and_moved_before_them(self):
        since = self.since(Insert(2 * S, (Piece("silence", 0, S),)), Strike(((0, S),)))
        assert since.carry((5 * S, 6 * S)) == (6 * S, 7 * S)
        assert since.carry((S, S)) == (S, S)

    def test_places_that_were_changed_themselves_do_not(self):
        with pytest.raises(Overlap):
            self.since(Strike(((4 * S, 6 * S),))).carry((5 * S, 7 * S))
        with pytest.raises(Overlap):
            self.since(Insert(5 * S, (Piece("silence", 0, S),))).carry((4 * S, 7 * S))


class TestLevels:
    def test_a_stretch_gives_way_where_another_is_set(self):
        known = Levels().with_stretch(Level("a", "x", 0, 100, -6)).with_stretch(Level("a", "x", 40, 60, -12))
        assert [(level.start, level.end, level.decibels) for level in known.stretches] == [
            (0, 40, -6),
            (40, 60, -12),
            (60, 100, -6),
        ]
        assert known.with_stretch(Level("a", "x", 0, 100, 0)) == Levels()

    def test_as_recorded_nothing_is_set(self):
        quieter = after(whole(), Adjust((Level("a", "x", 8 * S, 9 * S, -6.0),), (("x", -3.0),)))
        assert compile_plan(quieter).levels == quieter.levels
        assert compile_plan(quieter, as_recorded=True) == compile_plan(whole(), as_recorded=True)

    def test_only_blocks_with_that_sound_change(self):
        edition = after(whole(), Strike(((4 * S, 6 * S),)))
        quieter = after(edition, Adjust((Level("a", "x", 8 * S, 9 * S, -6.0),)))
        before, now = ({block.key for block in blocks(compile_plan(each))} for each in (edition, quieter))
        assert 1 <= len(now - before) <= 2


def test_comparing_tells_which_sound_is_only_in_one():
    one, other = after(whole(), Strike(((4 * S, 6 * S),))), after(whole(), Strike(((5 * S, 8 * S),)), Move(((0, S),), LENGTH))
    shared, only = compared(one, other)
    assert shared == 16 * S
    assert [(each.side, each.at, each.length) for each in only] == [("first", 6 * S, 2 * S), ("second", 3 * S, S)]


def test_a_card_is_seen_alone_and_the_recording_after_it():
    edition = Edition.of([Piece(CARD, 0, 2 * S), Piece("a", 0, 3 * S), Piece(CARD, CLOSING, CLOSING + S)])
    plan = compile_plan(edition)
    assert (plan.picture_at(S), plan.picture_at(plan.length - S // 2)) == (None, None)
    name, place = plan.picture_at(3 * S)
    assert name == "a" and abs(place - S) < S // 50
    assert (edition.card(closing=False), edition.card(closing=True)) == ((0, 2 * S), (5 * S, 6 * S))
