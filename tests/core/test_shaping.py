"""Moving, inserting, trimming, splices and levels, by example and by property."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaskel.core.codec import from_json, to_json
from jaskel.core.compare import compared
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Meeting
from jaskel.core.marks.level import Level, Setting, set_fader, set_levels
from jaskel.core.marks.mark import NO_MARKS, Marks
from jaskel.core.marks.splice import Splice, set_splices
from jaskel.core.operations import Insert, Lift, Move, PutBack, SetMarks, Slip, Strike, Substitute, Trim, apply
from jaskel.core.page import lay_out
from jaskel.core.plan import Material, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.rebase import Overlap, Since, Step
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import CLOSING, OPENING, SILENCE, Recorded, RoomTone
from jaskel.core.transcript import Transcript, Word

S = 48_000
LENGTH = 20 * S


def whole() -> Edition:
    return Edition.of([Piece(Recorded("a"), 0, LENGTH)])


def after(edition: Edition, *operations) -> Edition:
    for operation in operations:
        edition = apply(edition, operation)[0]
    return edition


def kept(edition: Edition) -> list[tuple[str, int, int]]:
    return [(run.source.recording, run.start, run.end) for run in edition.kept_runs]


def splice_set(edition: Edition, meeting: Meeting, splice: Splice) -> SetMarks:
    return SetMarks.of(set_splices(edition.marks, [(meeting, splice)]))


places = st.integers(0, 30 * S)
spans = st.tuples(places, places).map(sorted).map(tuple)
ranges = st.lists(spans, min_size=1, max_size=4).map(tuple)
shifts = st.integers(-2 * S, 2 * S)
pieces = st.builds(
    lambda source, start, length: Piece(source, start, start + length),
    st.sampled_from([Recorded("a"), Recorded("b"), RoomTone("a"), SILENCE]), st.integers(0, 10 * S), st.integers(1, 5 * S),
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
    Setting, st.just("a"), st.sampled_from(["x", "y"]), st.integers(0, S), st.integers(S + 1, 5 * S), st.just(-6.0)
)
operations = st.one_of(
    ranges.map(Strike), ranges.map(Lift), ranges.map(PutBack), st.builds(Move, ranges, places),
    st.builds(Insert, places, st.lists(pieces, min_size=1, max_size=3).map(tuple)),
    st.builds(Trim, places, shifts, shifts), st.builds(Slip, places, shifts),
    st.lists(levels, min_size=1, max_size=2).map(lambda wanted: SetMarks.of(set_levels(NO_MARKS, wanted))),
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
            meeting = Meeting(runs[0].source, runs[0].end, runs[1].source, runs[1].start)
            edition = apply(edition, splice_set(edition, meeting, splice))[0]
            # The same may have been laid more than once, and so meet more than once.
            times = sum(Meeting(a.source, a.end, b.source, b.start) == meeting for a, b in pairwise(runs))
        plan = compile_plan(edition)
        joins = sum(span.fade_in for span in plan.spans)
        reached = plan.length - edition.kept_length - joins
        assert 0 <= reached <= times * (splice.before + splice.after)
        assert all(
            a.fade_out == b.fade_in and a.until - a.fade_out == b.at for a, b in zip(plan.spans, plan.spans[1:], strict=False)
        )
        cut = plan.blocks
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
        meeting = Meeting(Recorded("a"), 4 * S, Recorded("a"), 6 * S)
        edition = after(whole(), Strike(((4 * S, 6 * S),)), splice_set(whole(), meeting, Splice(4800)))
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
        return Since([Step(inverse) for inverse in inverses])

    def test_places_follow_what_was_put_in_and_moved_before_them(self):
        since = self.since(Insert(2 * S, (Piece(SILENCE, 0, S),)), Strike(((0, S),)))
        assert since.carry((5 * S, 6 * S)) == (6 * S, 7 * S)
        assert since.carry((S, S)) == (S, S)

    def test_places_that_were_changed_themselves_do_not(self):
        with pytest.raises(Overlap):
            self.since(Strike(((4 * S, 6 * S),))).carry((5 * S, 7 * S))
        with pytest.raises(Overlap):
            self.since(Insert(5 * S, (Piece(SILENCE, 0, S),))).carry((4 * S, 7 * S))


def levelled(marks: Marks, *wanted: tuple[str, str, int, int, float]) -> Marks:
    return marks.changed(set_levels(marks, [Setting(*each) for each in wanted]))


class TestLevels:
    def test_a_stretch_gives_way_where_another_is_set(self):
        known = levelled(NO_MARKS, ("a", "x", 0, 100, -6), ("a", "x", 40, 60, -12))
        assert [(level.start, level.end, level.decibels) for level in known.all(Level)] == [
            (0, 40, -6),
            (40, 60, -12),
            (60, 100, -6),
        ]
        assert levelled(known, ("a", "x", 0, 100, 0)) == NO_MARKS

    def test_as_recorded_nothing_is_set(self):
        marks = levelled(NO_MARKS, ("a", "a", 8 * S, 9 * S, -6.0))
        quieter = after(whole(), SetMarks(tuple(marks.changed(set_fader(marks, "a", -3.0)))))
        (heard,) = compile_plan(quieter).sound(8 * S, 9 * S).spans
        assert (heard.decibels, heard.envelope[0].decibels) == (-3.0, -6.0)
        assert compile_plan(quieter, as_recorded=True) == compile_plan(whole(), as_recorded=True)

    def test_only_blocks_with_that_sound_change(self):
        edition = after(whole(), Strike(((4 * S, 6 * S),)))
        quieter = after(edition, SetMarks(tuple(levelled(NO_MARKS, ("a", "a", 8 * S, 9 * S, -6.0)))))
        plans = compile_plan(edition), compile_plan(quieter)
        before, now = ({plan.sound(block.at, block.until).digest for block in plan.blocks} for plan in plans)
        assert 1 <= len(now - before) <= 2


def test_comparing_tells_which_sound_is_only_in_one():
    one, other = after(whole(), Strike(((4 * S, 6 * S),))), after(whole(), Strike(((5 * S, 8 * S),)), Move(((0, S),), LENGTH))
    shared, only = compared(one, other)
    assert shared == 16 * S
    assert [(each.side, each.at, each.length) for each in only] == [("first", 6 * S, 2 * S), ("second", 3 * S, S)]


def test_a_card_is_seen_alone_and_the_recording_after_it():
    edition = Edition.of([Piece(OPENING, 0, 2 * S), Piece(Recorded("a"), 0, 3 * S), Piece(CLOSING, 0, S)])
    camera = Track("a", 3 * S, picture=Picture(640, 360, Fraction(25)))
    plan = compile_plan(edition, Material({"a": Session((camera,))}))
    assert [layer.shown for layer in (plan.layer_at(S), plan.layer_at(plan.length - S // 2))] == [OPENING, CLOSING]
    layer = plan.layer_at(3 * S)
    assert layer.camera and layer.camera.recording == "a"
    assert abs(layer.camera.after(3 * S - layer.begin) - S) < S // 50
    assert (edition.card(OPENING), edition.card(CLOSING)) == ((0, 2 * S), (5 * S, 6 * S))
