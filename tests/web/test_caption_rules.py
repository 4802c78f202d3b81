"""Captions through the API: by the edition's rules, in laid time and programme time, and in files."""

from __future__ import annotations

import pytest
from conftest import RATE
from test_exports import episode, exported  # noqa: F401
from test_retyping import operate, turn

from jaskel.core.transcript import Word

SAID = "We put the plank in the steamer, and we go home for the night because nobody can wait any longer."


@pytest.fixture
def spoken(jaskel, episode):  # noqa: F811
    """A sentence of twenty words in the episode's recording, half a second each."""
    texts = SAID.split()
    with jaskel.workshop.home.database.write() as session:
        from jaskel.store.models import Recording

        row = session.get_one(Recording, episode["recording"])
        jaskel.workshop.home.transcripts.clear(session, row)
    jaskel.words(episode["recording"], [Word(t, i * RATE // 4, i * RATE // 4 + RATE // 5) for i, t in enumerate(texts)])
    return episode


def rules(jaskel, edition, status=200, **changed):
    known = jaskel.get(f"/api/editions/{edition}")["captions"]
    return operate(jaskel, edition, status, kind="caption rules", rules={**known, **changed})


def test_they_break_by_the_rules_and_lie_in_laid_time(jaskel, spoken):
    edition = spoken["editions"][0]["id"]
    cues = lambda: jaskel.get(f"/api/editions/{edition}/cues")["cues"]  # noqa: E731
    assert " ".join(line for cue in cues() for line in cue["lines"]) == SAID
    before = len(cues())
    assert rules(jaskel, edition, characters=20, lines=1)["captions"]["characters"] == 20
    assert len(cues()) > before and all(len(line) <= 20 for cue in cues() for line in cue["lines"])
    turn(jaskel, edition, "undo")
    first = cues()[0]
    operate(jaskel, edition, kind="strike", ranges=[{"begin": 0, "end": RATE // 4}], why="by hand")
    after = cues()[0]
    assert not after["lines"][0].startswith("We") and after["start"] == 0 and after["begin"] >= first["begin"] + RATE // 5


def test_files_are_written_by_the_same_rules(jaskel, spoken):
    edition = spoken["editions"][0]["id"]
    rules(jaskel, edition, characters=20, lines=1)
    shown = [cue["lines"] for cue in jaskel.get(f"/api/editions/{edition}/cues")["cues"]]
    written = exported(jaskel, spoken, "srt").decode()
    assert [block.split("\n")[2:] for block in written.strip().split("\n\n")] == shown


def test_rules_that_contradict_themselves_are_refused(jaskel, spoken):
    edition = spoken["editions"][0]["id"]
    for wrong in ({"characters": 3}, {"lines": 4}, {"shortest": 9 * RATE, "longest": RATE}, {"rate": 0}):
        assert rules(jaskel, edition, 422, **wrong)["code"] == "not-understood"
    assert rules(jaskel, edition, 422)["code"] == "nothing-changed"


def test_a_caption_begins_where_somebody_wants_it_and_words_have_a_screen_of_their_own(jaskel, spoken):
    edition = spoken["editions"][0]["id"]
    texts = lambda: [" ".join(cue["lines"]) for cue in jaskel.get(f"/api/editions/{edition}/cues")["cues"]]  # noqa: E731
    before = texts()
    operate(jaskel, edition, kind="caption break", at=3 * RATE // 4 + 100, before="cue")
    assert any(text.startswith("plank") for text in texts())
    operate(jaskel, edition, kind="caption break", at=3 * RATE // 4 + 100, before="")
    assert texts() == before
    alone = {"kind": "caption alone", "begin": 2 * RATE, "end": 2 * RATE + RATE // 2}
    operate(jaskel, edition, **alone)
    assert "we go" in texts()
    operate(jaskel, edition, **alone, on=False)
    assert texts() == before
    assert operate(jaskel, edition, 422, kind="caption break", at=0, before="")["code"] == "nothing-changed"
