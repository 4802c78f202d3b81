"""Shots that follow who speaks, and what somebody chose instead."""

from __future__ import annotations

import random
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.mark import Marks
from jaskel.core.marks.shot import PunchIn, clear_shots, set_punch_in, set_shot, set_shot_rules
from jaskel.core.operations import Strike, apply
from jaskel.core.picture.crop import crop_of, fitted_in
from jaskel.core.picture.framing import FRAMINGS, slots_of
from jaskel.core.picture.rules import ShotRules
from jaskel.core.picture.shots import Shot, follow, overruled, turns_of
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE as S
from jaskel.core.transcript import Transcript, Word

PLAIN = ShotRules(follow=True, reactions=False)
HD = Picture(1280, 720, Fraction(25))


def said(*turns: tuple[str, float, float]) -> list[ProgrammeWord]:
    """Words of a quarter second by a voice from when to when; a voice of ``laugh`` is laughter by nobody."""
    out = []
    for voice, begin, end in turns:
        if voice == "laugh":
            word = Word("[laughter]", round(begin * S), round(end * S), 0.9, None)
            out.append(ProgrammeWord(word, word.start, word.end))
            continue
        at = begin
        while at < end - 0.1:
            word = Word("word", round(at * S), round((at + 0.2) * S), 0.9, voice)
            out.append(ProgrammeWord(word, word.start, word.end))
            at += 0.25
    return out


def seen(shots, at: float) -> tuple[str, ...]:
    return next(shot.voices for shot in shots if shot.begin <= at * S < shot.until)


def talk(seed: int, minutes: float = 5.0) -> list[tuple[str, float, float]]:
    """Turns of two voices as in a conversation: answers, questions, a yes here and there, rests."""
    chance, at, turns, voice = random.Random(seed), 0.5, [], 0
    while at < minutes * 60:
        kind = chance.random()
        lasts = chance.uniform(0.3, 0.9) if kind < 0.25 else chance.uniform(2.5, 7) if kind < 0.7 else chance.uniform(8, 30)
        turns.append(("ab"[voice], at, at + lasts))
        at += lasts + chance.choice([0.1, 0.3, 0.5, 2.0])
        voice = 1 - voice
    return turns


class TestFollowing:
    def test_who_speaks_is_seen_a_little_before_the_voice(self):
        shots = follow(said(("a", 0, 6), ("b", 6.4, 12)), 12 * S, PLAIN)
        assert [shot.voices for shot in shots] == [("a",), ("b",)]
        assert 5.9 * S <= shots[1].begin <= 6.3 * S

    def test_nobody_is_shown_for_a_yes(self):
        assert len(follow(said(("a", 0, 6), ("b", 6.2, 6.8), ("a", 7, 14)), 14 * S, PLAIN)) == 1

    def test_both_are_seen_when_they_alternate_quickly_or_laugh(self):
        quick = [("ab"[n % 2], 8 + n * 1.2, 9 + n * 1.2) for n in range(6)]
        shots = follow(said(("a", 0, 8), *quick, ("a", 15.4, 25)), 25 * S, PLAIN)
        assert set(seen(shots, 11)) == {"a", "b"} and seen(shots, 3) == ("a",) and seen(shots, 22) == ("a",)
        shots = follow(said(("a", 0, 8), ("laugh", 8.2, 10), ("b", 10.3, 20)), 20 * S, PLAIN)
        assert set(seen(shots, 9)) == {"a", "b"}

    def test_long_answers_show_a_reaction(self):
        words = said(("b", 0, 5), ("a", 5.5, 60))
        with_them = follow(words, 60 * S, ShotRules(follow=True))
        assert sum(shot.voices == ("b",) for shot in with_them) >= 3
        assert all(shot.until - shot.begin >= 2 * S for shot in with_them)
        assert len(follow(words, 60 * S, PLAIN)) == 2

    @pytest.mark.parametrize("seed", range(6))
    def test_of_longer_turns_who_speaks_is_seen(self, seed):
        turns = talk(seed)
        words = said(*turns)
        length = words[-1].end + S
        shots = follow(words, length, PLAIN)
        assert all(shot.until - shot.begin >= PLAIN.shortest for shot in shots)
        total = right = 0
        for voice, begin, end in turns:
            if end - begin <= PLAIN.shortest / S:
                continue
            for tenth in range(round((begin + 0.3) * 10), round(end * 10)):
                total += 1
                right += voice in seen(shots, tenth / 10)
        assert right / total >= 0.95, right / total

    def test_a_cut_changes_only_what_lies_between_the_nearest_long_rests(self):
        turns = talk(3)
        before = follow(said(*turns), 310 * S, PLAIN)
        gone = next(number for number, turn in enumerate(turns) if turn[1] > 150)
        after = follow(said(*turns[:gone], *turns[gone + 1 :]), 310 * S, PLAIN)
        differ = list({*before} ^ {*after})
        rests = [a[2] for a, b in pairwise(turns) if b[1] - a[2] >= 1.5]
        first = max((rest for rest in rests if rest < turns[gone][1]), default=0)
        last = min((rest for rest in rests if rest > turns[gone][2] + 2), default=310)
        early = [shot for shot in differ if shot.until < first * S]
        late = [shot for shot in differ if shot.begin > (last + 35) * S]
        assert differ and not early and not late


@given(st.lists(st.tuples(st.sampled_from(["a", "b", "c", "laugh"]), st.floats(0.2, 12), st.floats(0, 3)), max_size=25),
       st.sampled_from([S, 2 * S, 5 * S]))  # fmt: skip
def test_shots_cover_the_programme_and_none_is_too_short(parts, shortest):
    at, turns = 0.0, []
    for voice, lasts, rest in parts:
        turns.append((voice, at, at + lasts))
        at += lasts + rest
    words = said(*turns)
    length = max(S, *(word.end for word in words), round(at * S)) if words else 10 * S
    shots = follow(words, length, replace(ShotRules(follow=True), shortest=shortest))
    assert (shots[0].begin, shots[-1].until) == (0, length)
    assert all(a.until == b.begin for a, b in pairwise(shots))
    assert all(shot.until - shot.begin >= shortest for shot in shots) or len(shots) == 1
    assert len(turns_of(words)) <= len(words)


class TestByHand:
    def test_what_somebody_chose_stays_and_leaves_nothing_too_short_beside_it(self):
        derived = (Shot(0, 10 * S, voices=("a",)), Shot(10 * S, 20 * S, voices=("b",)))
        chosen = Shot(9 * S, 19 * S, "grid", ("a", "b"), by_hand=True)
        shots = overruled(derived, [chosen], 2 * S)
        assert [(shot.begin // S, shot.until // S, shot.by_hand) for shot in shots] == [(0, 9, False), (9, 20, True)]

    def test_a_mark_replaces_what_it_covers_and_leaves_the_rest(self):
        marks = Marks().changed(set_shot(Marks(), [("s", 0, 10 * S)], "single", ("a",)))
        marks = marks.changed(set_shot(marks, [("s", 4 * S, 5 * S), ("s", 6 * S, 7 * S)], "single", ("b",)))
        stretches = sorted((each.start // S, each.end // S, each.voices[0]) for each in marks)
        assert stretches == [(0, 4, "a"), (4, 5, "b"), (5, 6, "a"), (6, 7, "b"), (7, 10, "a")]
        assert len(marks.changed(clear_shots(marks, [("s", 0, 20 * S)]))) == 0

    def test_no_closer_takes_a_punch_in_off(self):
        marks = Marks().changed(set_punch_in(Marks(), [("s", 0, S)], 20))
        assert [each.percent for each in marks.all(PunchIn)] == [20]
        assert not marks.changed(set_punch_in(marks, [("s", 0, S)], 0)).all(PunchIn)


class TestInThePlan:
    SESSION = Session(
        (
            Track("mic a", 60 * S, voice="a"),
            Track("mic b", 60 * S, voice="b"),
            Track("cam a", 60 * S, voice="a", sounds=False, picture=HD),
            Track("cam b", 60 * S, offset=S, drift=1e-4, voice="b", sounds=False, picture=HD),
        )
    )

    def plan(self, *changes, shape="as recorded"):
        words = tuple(item.word for item in said(("a", 0, 10), ("b", 10.5, 20), ("a", 20.5, 30)))
        marks = Marks().changed(set_shot_rules(Marks(), PLAIN))
        for change in changes:
            marks = marks.changed(change(marks))
        edition = replace(Edition.of([Piece(Recorded("s"), 0, 30 * S)]), marks=marks, shape=shape)
        return edition, Material({"s": self.SESSION}, {"s": Transcript(60 * S, words)})

    def cameras(self, plan, at):
        return [view.camera.recording for view in plan.layer_at(round(at * S)).shown.views]

    def test_each_voice_is_seen_by_its_camera_at_its_time(self):
        plan = compile_plan(*self.plan())
        assert [self.cameras(plan, at) for at in (5, 15, 25)] == [["cam a"], ["cam b"], ["cam a"]]
        layer = plan.layer_at(15 * S)
        assert abs(layer.shown.views[0].camera.after(15 * S - layer.begin) - round(14 * S / 1.0001)) <= 2
        assert all(a.until == b.begin for a, b in pairwise(plan.layers))

    def test_words_that_are_struck_take_their_shot_along(self):
        edition, material = self.plan(lambda marks: set_shot(marks, [("s", 12 * S, 18 * S)], "side by side", ("a", "b")))
        assert self.cameras(compile_plan(edition, material), 15) == ["cam a", "cam b"]
        cut, _ = apply(edition, Strike(((S, 9 * S),), "by hand"))
        plan = compile_plan(cut, material)
        assert self.cameras(plan, 7) == ["cam a", "cam b"] and self.cameras(plan, 15) == ["cam a"]

    def test_who_has_no_camera_is_seen_by_the_first(self):
        plan = compile_plan(*self.plan(lambda marks: set_shot(marks, [("s", 0, 5 * S)], "grid", ("a", "z"))))
        assert self.cameras(plan, 2) == ["cam a"]

    def test_a_punch_in_is_closer_at_once_or_slowly_and_only_there(self):
        plan = compile_plan(*self.plan(
            lambda marks: set_punch_in(marks, [("s", 2 * S, 4 * S)], 25),
            lambda marks: set_punch_in(marks, [("s", 6 * S, 8 * S)], 100, slowly=True),
        ))  # fmt: skip

        def width(at: float) -> float:
            layer = plan.layer_at(round(at * S))
            return layer.shown.views[0].crop(round(at * S) - layer.begin).width

        assert [width(at) for at in (1, 3, 5)] == [1, pytest.approx(0.8), 1]
        assert width(6.01) > 0.99 and width(7) == pytest.approx(0.75) and width(7.99) < 0.51 and width(8.5) == 1

    def test_an_upright_edition_shows_an_upright_part(self):
        plan = compile_plan(*self.plan(shape="upright"))
        crop = plan.layer_at(S).shown.views[0].crop(0)
        assert crop.height == 1 and crop.width == pytest.approx((9 / 16) ** 2, abs=0.01) and crop.x > 0.3


def test_slots_lie_inside_the_picture_and_only_small_ones_over_others():
    for framing in FRAMINGS.values():
        for ratio in (Fraction(16, 9), Fraction(1), Fraction(9, 16), Fraction(4, 5)):
            for count in range(2, framing.most + 1):
                slots = slots_of(framing.name, count, ratio)
                assert len(slots) == count
                assert all(b.x >= 0 and b.x + b.width <= 1.0001 and b.y >= 0 and b.y + b.height <= 1.0001 for b in slots)
                if framing.name != "large with small":
                    apart = [
                        a.x + a.width <= b.x or b.x + b.width <= a.x or a.y + a.height <= b.y or b.y + b.height <= a.y
                        for n, a in enumerate(slots) for b in slots[n + 1 :]
                    ]  # fmt: skip
                    assert all(apart), (framing.name, ratio, count)


def test_a_crop_has_the_shape_of_its_slot_and_stays_inside():
    for at in ((0, 0), (0.5, 0.5), (1, 0.2)):
        crop = crop_of(Fraction(16, 9), Fraction(9, 16), 1.3, at)
        assert crop.width * 16 / 9 / crop.height == pytest.approx(9 / 16)
        assert crop.x >= 0 and crop.y >= 0 and crop.x + crop.width <= 1 and crop.y + crop.height <= 1
    box = fitted_in(Fraction(4, 3), Fraction(16, 9))
    assert box.height == 1 and box.width == pytest.approx(0.75) and box.x == pytest.approx(0.125)
