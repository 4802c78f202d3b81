"""What the server keeps of what it compiled: much of short episodes, little of long ones, and nothing of another thing."""

from __future__ import annotations

from jaskel.web.context import Itself, Memory


def kept(memory, key):
    """Whether it is still known, without being made again."""
    made = []
    memory.get(key, lambda: made.append(key))
    return not made


def test_many_short_results_fit_where_few_long_ones_do():
    short, long = Memory(240), Memory(240)
    for number in range(40):
        short.get(number, lambda: "a page", minutes=5)
        long.get(number, lambda: "a page", minutes=100)
    assert kept(short, 0) and kept(long, 39) and not kept(long, 0)


def test_one_that_is_longer_than_all_of_it_is_kept_too():
    memory = Memory(240)
    assert memory.get("a day", lambda: 1, minutes=1440) == 1
    assert kept(memory, "a day")


def test_twenty_editors_push_nothing_of_one_another_out():
    memory = Memory()
    parts = [(kind, editor) for kind in ("sessions", "plan", "plan before", "page", "page reply") for editor in range(20)]
    for part in parts:
        memory.get(part, lambda: "made", minutes=25)
    assert all(kept(memory, part) for part in parts)


def test_a_thing_in_a_key_is_that_one_only_and_stays_while_the_key_does():
    memory, plan = Memory(), [1, 2]
    memory.get(("screens", Itself(plan)), lambda: "of the first")
    assert memory.get(("screens", Itself(plan)), lambda: "again") == "of the first"
    assert memory.get(("screens", Itself([1, 2])), lambda: "of the other") == "of the other"
    place = id(plan)
    del plan
    assert all(id([number]) != place for number in range(1000))
