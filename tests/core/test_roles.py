"""Who may do what, as a table; and locked passages."""

from __future__ import annotations

import pytest

from jaskel.core.edition import Edition, Piece
from jaskel.core.history import ANYBODY
from jaskel.core.locks import check_locks
from jaskel.core.marks.anchor import Place, Stretch
from jaskel.core.marks.bleep import Bleep
from jaskel.core.marks.lock import Lock
from jaskel.core.marks.note import Answer, Note
from jaskel.core.operations import Insert, Move, PutBack, Retype, SetMarks, Strike, apply
from jaskel.core.present import Presence, initials
from jaskel.core.problem import Problem
from jaskel.core.retype import Change
from jaskel.core.roles import EVERYTHING, RIGHTS, Right, Role, refusal
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word

TABLE = """
                owner  editor  proofreader  exporter  guest
    listen        x      x          x          x        x
    note          x      x          x          -        x
    read          x      x          x          x        -
    words         x      x          x          -        -
    captions      x      x          x          -        -
    export text   x      x          x          x        -
    export        x      x          -          x        -
    edit          x      x          -          -        -
    own           x      -          -          -        -
"""


def rows():
    head, *lines = [line.split() for line in TABLE.strip().splitlines()]
    for line in lines:
        right, marks = " ".join(line[: -len(head)]), line[-len(head) :]
        yield from ((Role(role), Right(right), mark == "x") for role, mark in zip(head, marks, strict=True))


@pytest.mark.parametrize(("role", "right", "may"), list(rows()))
def test_who_may_do_what(role, right, may):
    assert (right in RIGHTS[role]) is may


def test_the_table_is_about_every_role_and_right():
    assert {(role, right) for role, right, _ in rows()} == {(role, right) for role in Role for right in Right}
    assert frozenset(Right) == EVERYTHING


def test_refusals_say_who_to_ask():
    assert (
        refusal(Role.EXPORTER, Right.WORDS) == "An exporter cannot correct words. Ask an owner of this show for another role."
    )
    assert refusal(None, Right.READ).startswith("You are not part of this show.")


SOUND = Recorded("a")
LOCKED = Edition.of([Piece(SOUND, 0, 60 * RATE)])


@pytest.fixture
def edition() -> Edition:
    lock = Lock("l", (Stretch("a", 20 * RATE, 30 * RATE),), "orla", "Orla Quist")
    return apply(LOCKED, SetMarks((lock,)))[0]


def attempt(edition, operation, authors=frozenset({"teo"})):
    _, inverse = apply(edition, operation)
    check_locks(edition, operation, inverse, authors)


def word(at: float) -> Word:
    return Word("said", round(at * RATE), round((at + 0.5) * RATE), 0.9)


TOUCHING = [
    Strike(((25 * RATE, 26 * RATE),)),
    Strike(((19 * RATE, 21 * RATE),)),
    Strike(((0, 60 * RATE),)),
    Move(((22 * RATE, 23 * RATE),), 50 * RATE),
    Move(((40 * RATE, 41 * RATE),), 25 * RATE),
    Insert(25 * RATE, (Piece(Recorded("b"), 0, RATE),)),
    SetMarks((Bleep("m", (Stretch("a", 29 * RATE, 31 * RATE),), "a"),)),
    Retype((Change("a", (word(24),), (word(24),)),)),
]
BESIDE = [
    Strike(((19 * RATE, 20 * RATE),)),
    Strike(((30 * RATE, 31 * RATE),)),
    Move(((40 * RATE, 41 * RATE),), 10 * RATE),
    Insert(10 * RATE, (Piece(Recorded("b"), 0, RATE),)),
    Insert(20 * RATE, (Piece(Recorded("b"), 0, RATE),)),
    SetMarks((Bleep("m", (Stretch("a", 30 * RATE, 31 * RATE),), "a"),)),
    Retype((Change("a", (word(34),), (word(34),)),)),
]


@pytest.mark.parametrize("operation", TOUCHING, ids=lambda each: each.kind)
def test_what_somebody_locked_is_changed_by_them_alone(edition, operation):
    with pytest.raises(Problem, match="Orla Quist has locked this passage"):
        attempt(edition, operation)
    attempt(edition, operation, frozenset({"orla"}))


@pytest.mark.parametrize("operation", BESIDE, ids=lambda each: each.kind)
def test_what_lies_beside_a_lock_is_free(edition, operation):
    attempt(edition, operation)


def test_a_lock_holds_wherever_its_passage_was_moved_to(edition):
    moved, _ = apply(edition, Move(((20 * RATE, 30 * RATE),), 60 * RATE))
    attempt(moved, Strike(((20 * RATE, 30 * RATE),)))
    with pytest.raises(Problem):
        attempt(moved, Strike(((55 * RATE, 56 * RATE),)))


def test_a_lock_holds_for_what_was_struck_in_it(edition):
    struck, _ = apply(edition, Strike(((22 * RATE, 24 * RATE),)))
    with pytest.raises(Problem):
        attempt(struck, PutBack(((22 * RATE, 24 * RATE),)))


def test_who_is_not_known_is_let_through(edition):
    attempt(edition, TOUCHING[0], ANYBODY)


def test_a_note_may_suggest_a_cut():
    cut = Note("n", (Stretch("a", 5, 9), Stretch("b", 1, 2)), "drop this?", answers=(Answer("yes"),))
    assert (cut.cuts, cut.place) == (cut.anchors, Place("a", 5))
    said = Note("n", (Place("a", 7),), "louder")
    assert (said.cuts, said.place) == ((), Place("a", 7))


def test_people_are_seen_where_they_are_until_they_leave():
    seen = Presence()
    assert seen.here("e", "1", "Orla Quist", 5, now=0.0) == []
    assert [(each.name, each.at) for each in seen.here("e", "2", "Teo Marsh", 9, now=1.0)] == [("Orla Quist", 5)]
    assert seen.here("other", "3", "Ann", 0, now=1.0) == []
    assert [each.name for each in seen.here("e", "1", "Orla Quist", 6, now=14.0)] == ["Teo Marsh"]
    assert seen.here("e", "1", "Orla Quist", 6, now=17.0) == []
    assert initials("Orla Quist") == "OQ"
