"""Searching what was said, and episodes that are made from others."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from conftest import RATE
from sqlalchemy import select

from jaskel.core.edition import Piece
from jaskel.core.operations import Append, Insert, Strike, Telling
from jaskel.core.source import Recorded, RoomTone
from jaskel.core.transcript import Word
from jaskel.store import library, spoken
from jaskel.store.models import Episode, Recording, Show, TranscriptPart

VOICE = "v1"


def said(text: str, *, start: int = 0, voice: str | None = None) -> list[Word]:
    """Words of half a second each."""
    return [
        Word(each, start + number * RATE // 2, start + (number + 1) * RATE // 2, voice=voice)
        for number, each in enumerate(text.split())
    ]


@pytest.fixture
def show(home) -> str:
    with home.database.write() as session:
        return library.new_show(session, "Ropewalk").id


@pytest.fixture
def add(home, show):
    """Make an episode in which something was said; gives its recording's id."""
    created = datetime(2026, 3, 1, tzinfo=UTC)

    def made(title: str, *parts: list[Word], of: str = show) -> str:
        nonlocal created
        created += timedelta(days=1)
        with home.database.write() as session:
            episode = library.new_episode(session, session.get_one(Show, of), title)
            episode.created = created
            recording = Recording(episode_id=episode.id, name="a", digest="0", size=1, info={}, length=600 * RATE)
            session.add(recording)
            session.flush()
            for number, words in enumerate(parts):
                home.transcripts.extend(session, recording, number * 30 * RATE, (number + 1) * 30 * RATE, words)
            home.editions.arrive(session, episode.editions[0].id, Append(recording.id, recording.length))
            return recording.id

    return made


def search(home, wanted, **how):
    with home.database.read() as session:
        return [(hit.episode.title, hit.words) for hit in spoken.search(session, wanted, **how)]


class TestSearching:
    def test_newest_episodes_come_first_and_each_place_is_one_hit(self, home, add):
        add("One", said("the kettle and the kettle again"))
        add("Two", said("put the kettle on"))
        assert search(home, "kettle") == [("Two", "kettle"), ("One", "kettle"), ("One", "kettle")]

    def test_a_hit_opens_at_its_word_and_shows_what_stands_around_it(self, home, add):
        recording = add("One", said("before the long winter came we put the kettle on and waited"))
        with home.database.read() as session:
            (hit,) = spoken.search(session, "kettle")
        assert (hit.recording.id, hit.at, hit.end) == (recording, 4 * RATE, 4 * RATE + RATE // 2)
        assert hit.before.endswith("put the")
        assert hit.after.startswith("on and")

    def test_a_phrase_is_words_that_follow_one_another_and_its_last_may_be_a_beginning(self, home, add):
        add("One", said("daylight through the planks, light of day"))
        assert search(home, "the plank") == [("One", "the planks,")]
        assert search(home, "the plank", whole=True) == []
        assert search(home, "light of") == [("One", "light of")]

    def test_capitals_accents_and_apostrophes_are_no_hurdle(self, home, add):
        add("One", said("Don’t tell Zoë"))
        assert search(home, "zoë") == [("One", "Zoë")]
        assert search(home, "TELL") == [("One", "tell")]

    @pytest.mark.parametrize("wanted", ["", "  ", "?!", '"', "*", "AND OR"])
    def test_what_is_no_words_finds_nothing_and_breaks_nothing(self, home, add, wanted):
        add("One", said("something was said"))
        assert search(home, wanted) == []

    def test_one_show_one_voice(self, home, add):
        add("One", said("the kettle", voice=VOICE))
        with home.database.write() as session:
            other = library.new_show(session, "Other").id
        add("Two", said("the kettle"), of=other)
        assert search(home, "kettle", shows=[other]) == [("Two", "kettle")]
        assert search(home, "kettle", voice=VOICE) == [("One", "kettle")]

    def test_what_was_retyped_or_deleted_is_not_found_any_more(self, home, add):
        recording = add("One", said("the cattle"))
        with home.database.write() as session:
            part = session.get_one(TranscriptPart, (recording, 0))
            part.words = [["the", 0, 10, 1.0, None], ["kettle", 10, 20, 1.0, None]]
            spoken.index(session, recording, 0, part.words)
        assert (search(home, "cattle"), search(home, "kettle")) == ([], [("One", "kettle")])
        with home.database.write() as session:
            session.scalars(select(Episode)).one().deleted = datetime(2026, 4, 1, tzinfo=UTC)
        assert search(home, "kettle") == []
        with home.database.write() as session:
            spoken.forget(session, recording)
            session.scalars(select(Episode)).one().deleted = None
        assert search(home, "kettle") == []

    def test_of_very_many_only_so_many_are_told(self, home, add):
        add("One", *(said("so " * 40, start=number * 30 * RATE) for number in range(3)))
        assert len(search(home, "so", most=50)) == 50


class TestDuplicates:
    @pytest.fixture
    def original(self, home, add) -> tuple[str, str, str]:
        """Ids of an episode, its recording and its edition."""
        recording = add("One", said("put the kettle on"))
        with home.database.write() as session:
            episode = session.get_one(Recording, recording).episode
            edition = episode.editions[0].id
            tone = Piece(RoomTone(recording), 0, RATE)
            home.editions.perform(session, edition, 1, Insert(RATE, (tone,)), Telling(lambda _: ""))
            home.editions.perform(session, edition, 2, Strike(((0, RATE // 2),)), Telling(lambda _: ""))
            return episode.id, recording, edition

    def duplicate(self, home, episode, **how):
        with home.database.write() as session:
            copy = library.duplicate(session, session.get_one(Episode, episode), "Again", **how)
            opened = home.editions.open(session, copy.editions[0].id)
            return [recording.id for recording in copy.recordings], opened

    def test_a_duplicate_has_words_cuts_and_history_of_its_own(self, home, original):
        episode, first, edition = original
        (recording,), opened = self.duplicate(home, episode, template=False)
        assert recording != first
        assert {piece.source for piece in opened.edition.pieces} == {Recorded(recording), RoomTone(recording)}
        assert search(home, "kettle") == [("Again", "kettle"), ("One", "kettle")]
        with home.database.write() as session:
            undone = home.editions.undo(session, opened.id, opened.revision)
            theirs = home.editions.open(session, edition)
        assert undone.edition.struck_ranges == ()
        assert theirs.edition.struck_ranges == ((0, RATE // 2),)

    def test_a_template_has_the_editions_and_nothing_in_them(self, home, original):
        recordings, opened = self.duplicate(home, original[0], template=True)
        assert (recordings, opened.edition.pieces) == ([], ())
