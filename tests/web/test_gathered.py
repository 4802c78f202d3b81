"""The gathering table: selects of several episodes, searched, ordered and made into one edition."""

from __future__ import annotations

import pytest
from conftest import RATE, tone, write_media
from test_retyping import operate, turn

from jaskel.core.transcript import Word

SAID = ("A dry boat is a leaking boat.", "Bread rises in a warm bowl.", "Nobody launches a hull without pumps.")


@pytest.fixture
def show(jaskel, tmp_path):
    """Three episodes of a show, each with one sentence from 1 s on, marked in a colour of its own."""
    first = jaskel.episode()
    episodes = [first, *(jaskel.post(f"/api/shows/{first['show_id']}/episodes", {"title": f"Part {n}"}, 201) for n in (2, 3))]
    for number, (episode, text, colour) in enumerate(zip(episodes, SAID, ("amber", "sky", "amber"), strict=True)):
        made = jaskel.upload(episode["id"], write_media(tmp_path / f"{number}.wav", tone(8 + number, 300 + 50 * number)))
        jaskel.work()
        words = [Word(word, RATE + n * RATE // 2, RATE + n * RATE // 2 + RATE // 3) for n, word in enumerate(text.split())]
        jaskel.words(made["id"], words)
        ranges = [{"begin": RATE, "end": words[-1].end}]
        body = {"edition": episode["editions"][0]["id"], "ranges": ranges, "colour": colour, "who": "Ada"}
        jaskel.post(f"/api/episodes/{episode['id']}/selects", body, 201)
    return first["show_id"], [jaskel.get(f"/api/episodes/{episode['id']}") for episode in episodes]


def gather(jaskel, show, **query):
    asked = "&".join(f"{name}={value}" for name, value in query.items())
    return jaskel.get(f"/api/shows/{show}/selects?{asked}")["gathered"]


def test_all_selects_of_a_show_are_gathered_and_searched(jaskel, show):
    show, episodes = show
    found = gather(jaskel, show)
    assert [each["text"] for each in found] == [*SAID]
    assert [each["episode"] for each in found] == ["The dry hull", "Part 2", "Part 3"]
    assert [each["text"] for each in gather(jaskel, show, text="HULL")] == [SAID[2]]
    assert [each["text"] for each in gather(jaskel, show, colour="amber")] == [SAID[0], SAID[2]]
    assert [each["text"] for each in gather(jaskel, show, episode=episodes[1]["id"])] == [SAID[1]]
    assert gather(jaskel, show, text="nobody said this") == []


def test_a_select_has_a_note_and_a_rating_and_colours_have_names(jaskel, show):
    show, (episode, *_) = show
    (select,) = episode["selects"]
    path = f"/api/episodes/{episode['id']}/selects/{select['id']}"
    jaskel._checked(jaskel.client.patch(path, json={"note": "the opening?"}), 200)
    told = jaskel._checked(jaskel.client.patch(path, json={"rating": 3}), 200)
    assert (told["note"], told["rating"], told["colour"]) == ("the opening?", 3, "amber")
    assert [each["text"] for each in gather(jaskel, show, text="opening")] == [SAID[0]]
    assert jaskel.client.patch(path, json={"rating": 4}).status_code == 422
    turn(jaskel, episode["editions"][0]["id"], "undo")
    assert jaskel.get(f"/api/episodes/{episode['id']}")["selects"][0]["rating"] == 0
    jaskel._checked(jaskel.client.patch(f"/api/shows/{show}", json={"colours": {"amber": "opening", "sky": "proof"}}), 200)
    jaskel._checked(jaskel.client.patch(f"/api/shows/{show}", json={"colours": {"sky": ""}}), 200)
    assert jaskel.get(f"/api/episodes/{episode['id']}")["colours"] == {"amber": "opening"}


def test_stretches_of_several_episodes_become_one_edition_in_their_order(jaskel, show):
    _, episodes = show
    third, first = episodes[2], episodes[0]
    track = third["recordings"][0]["id"]
    chain = [{"kind": "equaliser", "on": True, "amount": 80, "settings": {}}]
    operate(jaskel, third["editions"][0]["id"], kind="processors", track=track, chain=chain)
    stretches = [
        {"recording": each["selects"][0]["recording"], "start": each["selects"][0]["start"], "end": each["selects"][0]["end"]}
        for each in (third, first, episodes[1])
    ]
    made = jaskel.post(f"/api/episodes/{first['id']}/gathered", {"name": "Story", "stretches": stretches}, 201)["editions"][0]
    page = jaskel.get(f"/api/editions/{made}/page")
    said = [token["text"] for passage in page["passages"] for token in passage["tokens"] if token["text"]]
    assert " ".join(said) == " ".join((SAID[2], SAID[0], SAID[1]))
    # What is corrected where it was said is corrected here.
    recordings = {each["id"] for each in jaskel.get(f"/api/episodes/{first['id']}")["recordings"]}
    assert {each["recording"] for each in stretches} <= recordings
    # The strip of a track comes along.
    strips = {each["track"]: each for each in jaskel.get(f"/api/editions/{made}")["tracks"]}
    assert [(each["kind"], each["amount"]) for each in strips[track]["chain"]] == [("equaliser", 80)]


def test_what_is_gone_or_turned_round_is_said(jaskel, show):
    _, (episode, *_) = show
    path = f"/api/episodes/{episode['id']}/gathered"
    gone = jaskel.post(path, {"name": "Story", "stretches": [{"recording": "gone", "start": 0, "end": RATE}]}, 422)
    assert gone["code"] == "recording-gone"
    recording = episode["recordings"][0]["id"]
    turned = jaskel.post(path, {"name": "Story", "stretches": [{"recording": recording, "start": RATE, "end": 0}]}, 422)
    assert turned["code"] == "nothing-there"
    assert len(jaskel.get(f"/api/episodes/{episode['id']}")["editions"]) == 1
