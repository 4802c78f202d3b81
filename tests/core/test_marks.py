"""Marks: where they lie, that nothing loses any, and that every operation accounts for every field of an edition."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import ClassVar

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaskel.core.codec import edition_from_json, edition_to_json, from_json, to_json
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Beginning, Carry, End, Meeting, Place, Stretch, Whole
from jaskel.core.marks.chain import ChainMark, set_chain
from jaskel.core.marks.level import Fader, Level, Setting, set_fader, set_levels
from jaskel.core.marks.mark import KINDS, NO_MARKS, Mark, Marks
from jaskel.core.marks.note import Note
from jaskel.core.marks.select import Select
from jaskel.core.marks.splice import Splice, SpliceMark, set_splices
from jaskel.core.operations import (
    Append,
    Become,
    Insert,
    Lift,
    Move,
    PutBack,
    Replace,
    SetMarks,
    SetShape,
    Slip,
    Strike,
    Substitute,
    Together,
    Trim,
    apply,
)  # fmt: skip
from jaskel.core.places import Places
from jaskel.core.problem import Problem
from jaskel.core.rebase import Overlap, Since, Step
from jaskel.core.sound.processor import Gain
from jaskel.core.source import CLOSING, OPENING, SILENCE, Drawn, Recorded, RoomTone, SaidAgain

S = 48_000
LENGTH = 20 * S


@dataclass(frozen=True)
class Ends(Mark):
    """A kind that only the tests have: tied to the programme's ends, and to a word with an offset."""

    kind: ClassVar[str] = "ends"


@pytest.fixture(autouse=True, scope="module")
def known_to_the_register():
    KINDS[Ends.kind] = Ends
    yield
    del KINDS[Ends.kind]


names = st.sampled_from(["a", "b"])
places = st.integers(0, LENGTH)
spans = st.tuples(places, places).map(sorted).map(tuple)
stretches = st.builds(lambda name, at, length: Stretch(name, at, at + length), names, places, st.integers(1, 5 * S))
sources = st.one_of(
    names.map(Recorded),
    names.map(RoomTone),
    st.sampled_from([SILENCE, OPENING, CLOSING]),
    st.just(Drawn("Part two")),
    st.builds(SaidAgain, st.just("line"), names, names, places, st.just(LENGTH + 1)),
)
ids = st.integers(0, 40).map(lambda number: f"m{number}")
meetings = st.builds(Meeting, names.map(Recorded), places, names.map(Recorded), places)
single_marks = st.one_of(
    st.builds(lambda id, at, track, db: Level(id, (at,), track, db), ids, stretches, names, st.floats(-60, 12)),
    st.builds(lambda id, track, db: Fader(id, (Whole(track),), db), ids, names, st.floats(-60, 12)),
    st.builds(lambda id, track, db: ChainMark(id, (Whole(track),), (Gain(decibels=db),)), ids, names, st.floats(-6, 6)),
    st.builds(lambda id, at, fade: SpliceMark(id, (at,), Splice(fade)), ids, meetings, st.integers(0, S)),
    st.builds(lambda id, at, text: Note(id, (at,), text), ids, st.builds(Place, names, places, st.integers(-S, S)), st.text()),
    st.builds(lambda id, at, colour: Select(id, (at,), colour), ids, stretches, st.sampled_from(["amber", "sky"])),
    st.builds(lambda id, a, b: Ends(id, (Beginning(a), End(b), Place("a", 5, a))), ids, st.integers(-S, S), st.integers(-S, S)),
)
marks = st.lists(single_marks, max_size=12).map(Marks.of)
pieces = st.builds(
    lambda source, start, length, kept: Piece(source, start, start + length, kept, "" if kept else "by hand"),
    sources, st.integers(0, 10 * S), st.integers(1, 5 * S), st.booleans(),
)  # fmt: skip
editions = st.builds(
    lambda parts, crossfade, known, shape: Edition(Edition.of(parts).pieces, crossfade, known, shape),
    st.lists(pieces, min_size=1, max_size=6), st.integers(0, 2_000), marks, st.sampled_from(["as recorded", "upright"]),
)  # fmt: skip
carries = st.builds(Carry, names, st.just("s"), names, st.integers(-S, S), st.sampled_from([0.0, 50e-6]), st.just(30 * S))
ranges = st.lists(spans, min_size=1, max_size=4).map(tuple)
operations = st.recursive(
    st.one_of(
        ranges.map(Strike), ranges.map(Lift), ranges.map(PutBack), st.builds(Move, ranges, places),
        st.builds(Insert, places, st.lists(pieces, min_size=1, max_size=3).map(tuple)),
        st.builds(Trim, places, st.integers(-S, S), st.integers(-S, S)), st.builds(Slip, places, st.integers(-S, S)),
        st.lists(single_marks, max_size=4, unique_by=lambda m: m.id).map(lambda given: SetMarks(tuple(given))),
        st.lists(ids, max_size=4, unique=True).map(lambda off: SetMarks((), tuple(off))),
        st.builds(Substitute, names, st.just("c"), st.integers(-S, S), st.just(LENGTH)), st.builds(Append, names, st.just(S)),
        st.builds(Replace, st.just(("a", "b")), st.just("s"), st.just(30 * S), st.lists(carries, max_size=2).map(tuple)),
        st.sampled_from(["wide", "square"]).map(SetShape), editions.map(Become),
    ),
    lambda inner: st.lists(inner, min_size=1, max_size=3).map(tuple).map(Together),
    max_leaves=4,
)  # fmt: skip


class TestNothingIsLost:
    @settings(max_examples=400, deadline=None)
    @given(editions, operations)
    def test_every_field_and_mark_is_accounted_for_and_the_inverse_is_exact(self, edition, operation):
        try:
            after, inverse = operation.apply(edition)
        except Problem:
            return
        back = inverse.apply(after)[0]
        for each in fields(Edition):
            assert getattr(back, each.name) == getattr(edition, each.name), each.name
        parts = operation.parts
        if not any(isinstance(part, SetMarks | Become | Substitute | Replace) for part in parts):
            assert after.marks == edition.marks
        if not any(isinstance(part, SetShape | Become) for part in parts):
            assert after.shape == edition.shape
        if not any(isinstance(part, Become) for part in parts):
            assert after.crossfade == edition.crossfade

    @settings(max_examples=200, deadline=None)
    @given(editions, operations)
    def test_all_of_it_goes_through_json(self, edition, operation):
        assert edition_from_json(edition_to_json(edition), Edition()) == edition
        assert from_json(to_json(operation)) == operation

    @given(marks, st.lists(single_marks, max_size=4))
    def test_marks_found_by_the_index_are_those_that_touch(self, known, changes):
        known.all(Level)  # the index of before is there, and must not be used after
        now = known.changed({each.id: each for each in changes})
        for start, end in ((0, LENGTH), (5 * S, 6 * S)):
            found = {each.id for each in now.within(Level, "a", start, end)}
            levels = [each for each in now if isinstance(each, Level) and each.recording == "a"]
            assert found == {each.id for each in levels if each.start < end and each.end > start}


class TestFollowing:
    def levelled(self):
        marks = NO_MARKS.changed(set_levels(NO_MARKS, [Setting("a", "a", 4 * S, 5 * S, -120.0)]))
        marks = marks.changed(set_fader(marks, "a", -3.0)).changed(set_chain(NO_MARKS, "a", (Gain(decibels=6.0),)))
        meeting = Meeting(Recorded("a"), 4 * S, Recorded("a"), 6 * S)
        marks = marks.changed(set_splices(marks, [(meeting, Splice(960))]))
        return Edition((Piece(Recorded("a"), 0, 10 * S),), marks=marks)

    def test_all_marks_of_a_recording_follow_the_file_that_replaces_it(self):
        after = apply(self.levelled(), Substitute("a", "c", 2 * S, 20 * S))[0]
        (level,), (fader,), (chain,) = (after.marks.all(kind) for kind in (Level, Fader, ChainMark))
        assert (level.recording, level.track, level.start, level.end) == ("c", "c", 6 * S, 7 * S)
        assert (fader.track, chain.track) == ("c", "c")
        assert list(after.by_meeting) == [Meeting(Recorded("c"), 6 * S, Recorded("c"), 8 * S)]

    def test_they_join_a_session_with_its_track(self):
        carry = Carry("a", "s", "a", S, 100e-6, 30 * S)
        after = apply(self.levelled(), Replace(("a",), "s", 30 * S, (carry,)))[0]
        (level,), (fader,) = after.marks.all(Level), after.marks.all(Fader)
        assert (level.recording, level.track, level.start) == ("s", "a", S + round(4 * S * 1.0001))
        assert fader.track == "a"

    def test_what_lies_beyond_the_end_of_the_other_file_is_cut_there_or_gone(self):
        edition = Edition((Piece(Recorded("a"), 0, 10 * S),), marks=Marks.of([
            Level("m1", (Stretch("a", 4 * S, 6 * S),), "a", -6.0), Note("m2", (Place("a", 8 * S),), "late"),
        ]))  # fmt: skip
        after, inverse = apply(edition, Substitute("a", "c", 0, 5 * S))
        assert [(each.id, each.anchors) for each in after.marks] == [("m1", (Stretch("c", 4 * S, 5 * S),))]
        assert apply(after, inverse)[0] == edition

    def test_the_way_back_leads_to_the_same_place(self):
        carry = Carry("a", "s", "a", 3 * S, 50e-6, 30 * S)
        there = carry.anchor(Place("a", 7 * S))
        assert abs(carry.turned(10 * S).anchor(there).at - 7 * S) <= 1


class TestWhereTheyLie:
    edition = Edition.of([
        Piece(Recorded("a"), 5 * S, 10 * S), Piece(SILENCE, 0, S), Piece(Recorded("a"), 0, 5 * S),
        Piece(Recorded("b"), 0, S, False),
    ])  # fmt: skip

    @pytest.mark.parametrize(
        ("anchor", "laid"),
        [
            (Stretch("a", 6 * S, 7 * S), [(S, 2 * S)]),
            (Stretch("a", 4 * S, 6 * S), [(0, S), (10 * S, 11 * S)]),
            (Stretch("b", 0, 9 * S), [(11 * S, 12 * S)]),
            (Stretch("c", 0, S), []),
            (Place("a", 2 * S), [(8 * S, 8 * S)]),
            (Place("a", 2 * S, -S), [(7 * S, 7 * S)]),
            (Whole("a"), [(0, 5 * S), (6 * S, 11 * S)]),
            (Meeting(Recorded("a"), 10 * S, SILENCE, 0), [(5 * S, 5 * S)]),
            (Beginning(-4 * S), [(-4 * S, -4 * S)]),
            (End(S), [(12 * S, 12 * S)]),
        ],
    )
    def test_one_function_tells(self, anchor, laid):
        assert Places(self.edition).of(anchor) == laid

    @settings(deadline=None)
    @given(editions, stretches)
    def test_what_it_tells_is_that_sound_and_all_of_it(self, edition, stretch):
        found = Places(edition).of(stretch)
        inside = 0
        for piece in edition.pieces:
            if piece.source == Recorded(stretch.recording):
                inside += max(0, min(piece.end, stretch.end) - max(piece.start, stretch.start))
        assert sum(end - begin for begin, end in found) == inside
        for begin, end in found:
            cut = edition.cut_out(begin, end)
            assert all(piece.source == Recorded(stretch.recording) for piece in cut)


class TestSince:
    def done(self, edition, *steps):
        """What was done, each as (who's number, operation), as the log would have it."""
        out = []
        for number, operation in enumerate(steps, 1):
            edition, inverse = apply(edition, operation)
            out.append(Step(inverse, number, number))
        return edition, out

    def test_what_was_done_and_undone_is_in_nobodys_way(self):
        edition = Edition((Piece(Recorded("a"), 0, LENGTH),))
        after, (mine, theirs) = self.done(edition, Strike(((4 * S, 6 * S),)), Insert(2 * S, (Piece(SILENCE, 0, S),)))
        undone = mine.inverse.carried(Since([theirs]))
        final, inverse = apply(after, undone)
        since = Since([mine, theirs, Step(inverse, 3, mine.target)])
        assert since.carry((4 * S, 6 * S)) == (5 * S, 7 * S)
        assert final == apply(edition, Insert(2 * S, (Piece(SILENCE, 0, S),)))[0]

    def test_marks_that_somebody_else_changed_stand_in_the_way(self):
        edition = Edition((Piece(Recorded("a"), 0, LENGTH),))
        first, second = (SetMarks((Note("n", (Place("a", S),), text),)) for text in ("one", "two"))
        _, (mine, theirs) = self.done(edition, first, second)
        with pytest.raises(Overlap):
            mine.inverse.carried(Since([theirs]))
        other = SetMarks((Note("o", (Place("a", S),), "elsewhere"),))
        assert mine.inverse.carried(Since([Step(apply(edition, other)[1], 2, 2)])) == mine.inverse

    @settings(max_examples=200, deadline=None)
    @given(st.lists(st.one_of(ranges.map(Strike), st.builds(Move, ranges, places)), min_size=2, max_size=5))
    def test_several_parts_are_carried_one_after_the_other(self, steps):
        """A step of several parts, with something put in at the very end since: its inverse still takes it back exactly."""
        edition = Edition((Piece(Recorded("a"), 0, LENGTH),))
        try:
            after, inverse = apply(edition, Together(tuple(steps)))
        except Problem:
            return
        later = Append("b", S)
        final, step = apply(after, later)
        undone = inverse.carried(Since([Step(step, 2, 2)]))
        assert undone.apply(final)[0] == apply(edition, later)[0]


def test_levels_set_one_after_the_other_never_overlap():
    wanted = [Setting("a", "a", at * S, (at + 3) * S, -float(at + 1)) for at in range(8)]
    marks = NO_MARKS.changed(set_levels(NO_MARKS, wanted))
    levels = marks.all(Level)
    assert [(each.start, each.end) for each in levels] == [(at * S, (at + 1) * S) for at in range(7)] + [(7 * S, 10 * S)]
    inside = marks.changed(set_levels(marks, [Setting("a", "a", 8 * S, 9 * S, 0.0)]))
    assert [(each.start, each.end) for each in inside.all(Level)][-2:] == [(7 * S, 8 * S), (9 * S, 10 * S)]
    assert replace(levels[0], decibels=-1.0) in marks
