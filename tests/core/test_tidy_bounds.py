"""How much a single finding may take, and what comes back when it is refused."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from test_tidy import S, spoken

from jaskel.core.edition import Edition, Piece
from jaskel.core.source import Recorded
from jaskel.core.tidy.chatter import LARGE, MOST, chatter
from jaskel.core.tidy.find import find, find_all
from jaskel.core.tidy.review import Refused, placed
from jaskel.core.tidy.settings import Threshold, TidySettings
from jaskel.core.timebase import RATE

REST = (
    "Nets dry on a wall beside it. Somebody paints a hull in green while gulls watch. Late trains bring visitors from two "
    "valleys further north. Nobody hurries. Bread is sold until noon, fish until it is gone. "
)
TALK = "The tide comes in at four and the boats lie still. "


PARTS = [TALK, "Welcome to the quay. ", "Are we done? ", "Is it on? ", "… "]


class TestChatterIsShort:
    def test_a_greeting_near_the_end_does_not_make_all_before_it_chatter(self):
        words = spoken("Is it on? … … " + TALK * 20 + "… … Welcome to the quay. " + TALK)
        assert not [each for each in chatter(words) if each.end > words[-1].end // 2]

    def test_a_closing_remark_near_the_beginning_does_not_make_all_after_it_chatter(self):
        words = spoken(TALK + "… Are we done? … " + TALK * 5)
        assert not [each for each in chatter(words) if each.end - each.start > words[-1].end * MOST]

    @pytest.mark.parametrize(("before", "large"), [(1, False), (4, True)])
    def test_a_large_one_is_told_apart(self, before, large):
        words = spoken("Are we recording? " + TALK * before + "… … Welcome to the quay. " + TALK * 12)
        (first,) = [each for each in chatter(words) if each.start == 0]
        assert first.large == large

    @given(
        st.lists(st.sampled_from([TALK, "Welcome to the quay. ", "Are we done? ", "Is it on? ", "… "]), min_size=1, max_size=30)
    )
    def test_whatever_is_said_it_is_never_most_of_it(self, parts):
        words = spoken("".join(parts))
        said = words[-1].end - words[0].start if words else 0
        for each in chatter(words):
            if each.why != "a remark to whoever edits":
                inside = [w for w in words if each.start <= w.start and w.end <= each.end]
                share = (inside[-1].end - inside[0].start) / said
                assert share <= MOST and each.large == (share > LARGE)


class TestWhatIsHidden:
    WORDS = spoken("Is it on? um … Take one. … … … Welcome to the quay. " + REST)
    EDITION = Edition.of([Piece(Recorded("a"), 0, 60 * S)])

    def kinds(self, edition, refused=()):
        found = find_all(self.WORDS, settings=TidySettings(rests=Threshold(RATE // 2, RATE // 4)))
        return [(each.finding.kind, each.state) for each in placed(edition, "a", found, refused)]

    def test_what_lies_within_chatter_is_listed_when_that_is_refused(self):
        assert self.kinds(self.EDITION) == [("chatter", "open")]
        (first,) = [each for each in find(self.WORDS) if each.kind == "chatter"]
        kinds = self.kinds(self.EDITION, [Refused("chatter", "a", first.start, first.end)])
        assert kinds[0] == ("chatter", "refused")
        assert ("filler", "open") in kinds and ("long rest", "open") in kinds

    def test_it_is_listed_when_the_chatter_is_in_one_piece_no_more(self):
        parted = Edition.of([Piece(Recorded("a"), S, 60 * S), Piece(Recorded("a"), 0, S)])
        kinds = self.kinds(parted)
        assert ("filler", "open") in kinds and ("chatter", "open") not in kinds
