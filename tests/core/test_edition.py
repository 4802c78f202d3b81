"""Editions and the operations on them, by example and by property."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.codec import from_json, to_json
from jaskel.core.edition import Edition, Piece
from jaskel.core.history import Entry, History
from jaskel.core.operations import Append, PutBack, Rewrite, Strike, Telling, apply, joined
from jaskel.core.plan import BLOCK, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.source import Recorded

SECOND = 48_000


def whole(length: int = 10 * SECOND, recording: str = "a") -> Edition:
    return Edition.of([Piece(Recorded(recording), 0, length)])


def struck(edition: Edition, *ranges: tuple[int, int]) -> Edition:
    return apply(edition, Strike(ranges))[0]


ranges = st.lists(st.tuples(st.integers(0, 400_000), st.integers(0, 400_000)), min_size=1, max_size=6)
operations = st.one_of(
    ranges.map(lambda r: Strike(tuple(r))),
    ranges.map(lambda r: PutBack(tuple(r))),
    st.tuples(st.sampled_from("ab"), st.integers(1, 90_000)).map(lambda x: Append(*x)),
)


def perform(edition: Edition, steps: list) -> tuple[Edition, list[tuple[Edition, Rewrite]]]:
    trail = []
    for operation in steps:
        try:
            after, inverse = apply(edition, operation)
        except Problem as problem:
            if problem.code != "nothing-changed":
                raise
            continue
        trail.append((edition, inverse))
        edition = after
    return edition, trail


class TestStriking:
    def test_a_struck_range_stays_in_the_list_and_out_of_the_running_time(self):
        edition = struck(whole(), (SECOND, 3 * SECOND))
        assert [(p.start, p.end, p.kept) for p in edition.pieces] == [
            (0, SECOND, True),
            (SECOND, 3 * SECOND, False),
            (3 * SECOND, 10 * SECOND, True),
        ]
        assert edition.length == 10 * SECOND
        assert edition.kept_length == 8 * SECOND

    def test_putting_everything_back_gives_the_edition_as_it_was(self):
        edition = struck(whole(), (SECOND, 3 * SECOND), (5 * SECOND, 6 * SECOND))
        assert apply(edition, PutBack(((0, 10 * SECOND),)))[0] == whole()

    def test_what_is_struck_already_keeps_its_reason(self):
        edition = apply(whole(), Strike(((0, SECOND),), "filler"))[0]
        edition = apply(edition, Strike(((0, 2 * SECOND),), "by hand"))[0]
        assert [piece.why for piece in edition.pieces] == ["filler", "by hand", ""]

    def test_striking_nothing_new_is_refused_in_words(self):
        edition = struck(whole(), (0, SECOND))
        with pytest.raises(Problem, match="changes nothing"):
            apply(edition, Strike(((0, SECOND),)))

    def test_ranges_beyond_the_end_are_cut_to_it(self):
        assert struck(whole(), (9 * SECOND, 99 * SECOND)).struck_ranges == ((9 * SECOND, 10 * SECOND),)

    @given(st.lists(operations, max_size=12))
    def test_every_operation_has_an_exact_inverse(self, steps):
        edition, trail = perform(whole(), steps)
        for before, inverse in reversed(trail):
            edition, _ = apply(edition, inverse)
            assert edition == before

    @given(st.lists(operations, max_size=12))
    def test_pieces_are_canonical_and_striking_moves_nothing(self, steps):
        edition = whole()
        for step in steps:
            try:
                after = apply(edition, step)[0]
            except Problem:
                continue
            assert all(not a.joins(b) for a, b in itertools.pairwise(after.pieces))
            for at in range(0, edition.length, 7_919):
                before, now = (each.cut_out(at, at + 1)[0] for each in (edition, after))
                assert (before.source, before.start) == (now.source, now.start)
            edition = after

    @given(operations)
    def test_operations_go_through_json(self, operation):
        assert from_json(to_json(operation)) == operation

    @given(ranges)
    def test_joined_ranges_cover_the_same_and_do_not_touch(self, given_ranges):
        out = joined(given_ranges)
        assert all(a[1] < b[0] for a, b in itertools.pairwise(out))
        for begin, end in given_ranges:
            assert begin >= end or any(a <= begin and end <= b for a, b in out)

    def test_the_history_says_it_in_words(self):
        assert Strike(((191 * SECOND, 192 * SECOND),)).summary(Telling(lambda _: "“so uh”")) == "struck “so uh” at 3:11"
        sooner = Telling(lambda _: "“so uh”", lambda laid: laid - 60 * SECOND)
        assert Strike(((191 * SECOND, 192 * SECOND),)).summary(sooner) == "struck “so uh” at 2:11"
        assert PutBack(((0, 1), (5, 9))).summary(Telling(lambda _: "")) == "put back 2 stretches"


class TestPlan:
    def test_a_splice_is_made_of_struck_sound_alone(self):
        plan = compile_plan(struck(whole(), (2 * SECOND, 4 * SECOND)))
        before, after = plan.spans
        assert (before.start, before.end) == (0, 2 * SECOND + 480)
        assert (after.start, after.end) == (4 * SECOND - 480, 10 * SECOND)
        assert before.clear_to == after.at == 2 * SECOND
        assert plan.length == 8 * SECOND + 480

    def test_a_splice_is_never_longer_than_what_was_taken_out(self):
        plan = compile_plan(struck(whole(), (2 * SECOND, 2 * SECOND + 100)))
        assert plan.length == 10 * SECOND
        assert plan.spans[0].fade_out == 100

    def test_as_recorded_plays_everything(self):
        edition = struck(whole(), (2 * SECOND, 4 * SECOND))
        plan = compile_plan(edition, as_recorded=True)
        assert [(s.start, s.end) for s in plan.spans] == [(0, 10 * SECOND)]

    def test_nothing_kept_has_no_length(self):
        assert compile_plan(struck(whole(), (0, 10 * SECOND))).length == 0

    @given(st.lists(operations, max_size=10))
    def test_the_running_time_is_what_is_kept_and_the_crossfades(self, steps):
        edition, _ = perform(whole(), steps)
        plan = compile_plan(edition)
        assert plan.length == edition.kept_length + sum(span.fade_in for span in plan.spans)
        for a, b in zip(plan.spans, plan.spans[1:], strict=False):
            assert b.at == a.clear_to
            assert a.fade_out == b.fade_in
            assert a.laid < b.laid

    @given(st.lists(operations, max_size=10), st.integers(0, 400_000), st.integers(1, 90_000))
    def test_what_is_heard_of_a_stretch_is_as_long_as_its_kept_part(self, steps, begin, length):
        edition, _ = perform(whole(), steps)
        plan = compile_plan(edition)
        kept = sum(piece.length for piece in edition.cut_out(begin, min(begin + length, edition.length)) if piece.kept)
        place = plan.heard(begin, begin + length)
        assert (place is None) == (kept == 0)
        if place:
            inside = [s for s in plan.spans if s.clear_from < place[1] and s.clear_to > place[0]]
            assert place[1] - place[0] == kept + sum(s.fade_in for s in inside[1:])


def keys(edition: Edition) -> list[str]:
    plan = compile_plan(edition)
    return [plan.sound(block.at, block.until).digest for block in plan.blocks]


class TestBlocks:
    @given(st.lists(operations, max_size=10))
    def test_blocks_tile_the_programme_and_stay_short(self, steps):
        plan = compile_plan(perform(whole(), steps)[0])
        tiles = plan.blocks
        assert [b.at for b in tiles[1:]] == [b.until for b in tiles[:-1]]
        assert (tiles[0].at, tiles[-1].until) == (0, plan.length) if plan.length else not tiles
        assert all(b.until - b.at <= 2 * BLOCK + 480 for b in tiles)

    def test_an_edit_leaves_all_other_blocks_as_they_were(self):
        edition = whole(600 * SECOND)
        before = {*keys(edition)}
        after = {*keys(struck(edition, (101 * SECOND + 7, 101 * SECOND + 30_007)))}
        assert len(after - before) <= 2
        assert len(before - after) <= 2

    def test_blocks_with_other_sound_have_other_keys(self):
        mine, other = keys(whole(60 * SECOND)), keys(whole(60 * SECOND, "b"))
        assert len(set(mine)) == len(mine) == 30
        assert not set(mine) & set(other)


def numbers(history: History) -> tuple[list[int], list[int]]:
    return [each.target for each in history.undoable], [each.target for each in history.redoable]


class TestHistory:
    def test_undo_and_redo_follow_from_the_log(self):
        log = [Entry(1, "do", 1), Entry(2, "do", 2), Entry(3, "undo", 2), Entry(4, "undo", 1), Entry(5, "redo", 1)]
        assert numbers(History.read(log)) == ([1], [2])
        assert numbers(History.read([*log, Entry(6, "do", 6)])) == ([1, 6], [])

    def test_everybody_undoes_what_is_their_own(self):
        orla, teo = frozenset(["Orla"]), frozenset(["Teo"])
        log = [Entry(1, "do", 1, orla), Entry(2, "do", 2, teo), Entry(3, "do", 3, orla), Entry(4, "undo", 2, teo)]
        history = History.read(log)
        assert history.next("undo", orla).target == 3 and history.next("undo", teo) is None
        assert history.next("redo", teo).target == 2 and history.next("redo", orla) is None
        # What others do takes nothing away that one may redo.
        assert History.read([*log, Entry(5, "do", 5, orla)]).next("redo", teo).last == 4
        # Who gives a name later still has what was done from that window before.
        assert history.next("undo", orla | {"window"}).target == 3

    @given(
        st.lists(
            st.tuples(
                st.sampled_from(["do", "undo", "redo"]), st.sampled_from([[], ["Orla"], ["Teo", "window"]]).map(frozenset)
            ),
            max_size=30,
        )
    )
    def test_reading_anew_is_the_same_as_going_on(self, steps):
        history, log = History(), []
        for step, authors in steps:
            number = len(log) + 1
            found = None if step == "do" else history.next(step, authors)
            if step == "do" or found:
                entry = Entry(number, step, found.target if found else number, authors)
                log.append(entry)
                history = history.after(entry)
        assert History.read(log) == history
