"""House spellings through the API: kept for the show, applied as one step, proposed when a correction comes back."""

from __future__ import annotations

from pathlib import Path

import pytest
from conftest import RATE, tone, write_media
from test_retyping import edition, find, operate, over, tokens, turn

from jaskel.core.transcript import Word
from jaskel.jobs.spell import is_full_name
from jaskel.store.models import Recording


@pytest.fixture
def episode(jaskel, tmp_path):
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], write_media(tmp_path / "a.flac", tone(12)))["id"]
    jaskel.work()
    said = ["in", "Tarnhyth.", "I", "am", "Teoh", "Marsh,", "of", "Tarnhyth."]
    jaskel.words(recording, [Word(text, i * RATE, i * RATE + RATE * 4 // 5, 0.8) for i, text in enumerate(said)])
    return {**jaskel.get(f"/api/episodes/{made['id']}"), "folder": str(tmp_path)}


def add(jaskel, episode, term, *heard):
    return jaskel.post(f"/api/shows/{episode['show_id']}/spellings", {"term": term, "heard": list(heard)}, 201)


def text(jaskel, episode):
    return " ".join(t["text"] for t in tokens(jaskel, episode))


def listed(jaskel, episode):
    return {s["term"]: s["heard"] for s in jaskel.get(f"/api/episodes/{episode['id']}")["spellings"]}


def test_the_list_belongs_to_the_show(jaskel, episode):
    add(jaskel, episode, "Tarn Hythe")
    add(jaskel, episode, "tarn hythe", "turn hide")
    gone = add(jaskel, episode, "Heron")["id"]
    other = jaskel.post(f"/api/shows/{episode['show_id']}/episodes", {"title": "Next"}, 201)
    assert listed(jaskel, other) == {"tarn hythe": ["turn hide"], "Heron": []}
    assert jaskel.client.delete(f"/api/spellings/{gone}").status_code == 204
    assert "Heron" not in listed(jaskel, episode)


def test_an_episode_is_put_right_in_one_step_and_back(jaskel, episode):
    add(jaskel, episode, "Tarn Hythe")
    add(jaskel, episode, "Teo Marsh")
    before = text(jaskel, episode)
    jaskel.post(f"/api/episodes/{episode['id']}/spell", status=202)
    jaskel.work()
    assert text(jaskel, episode) == "in Tarn Hythe. I am Teo Marsh, of Tarn Hythe."
    assert turn(jaskel, edition(episode), "undo")["redo"]["summary"] == "retyped 3 places"
    assert text(jaskel, episode) == before


def test_the_full_name_of_a_voice_is_a_spelling_by_itself(jaskel, episode):
    for number, name in enumerate(["Teo Marsh", "Guest", "the editor"]):
        operate(jaskel, edition(episode), kind="give voice", begin=number * RATE, end=(number + 1) * RATE, voice=name)
    assert listed(jaskel, episode) == {}
    jaskel.post(f"/api/episodes/{episode['id']}/spell", status=202)
    jaskel.work("spell")
    assert "I am Teo Marsh, of" in text(jaskel, episode)


@pytest.mark.parametrize(
    ("name", "full"),
    [("Teo Marsh", True), ("Orla de Venn", False), ("Guest", False), ("Voice 2", False), ("the editor", False), ("", False)],
)
def test_what_a_full_name_is(name, full):
    assert is_full_name(name) is full


def test_without_a_list_it_says_what_to_do(jaskel, episode):
    told = jaskel.post(f"/api/episodes/{episode['id']}/spell", status=422)
    assert "Add a name or a term" in told["detail"]


def test_proposals_for_doubtful_words(jaskel, episode):
    assert jaskel.get(f"/api/editions/{edition(episode)}/proposals?begin=0&end={RATE}")["terms"] == []
    add(jaskel, episode, "Teo Marsh")
    (place,) = over(find(jaskel, episode, "Teoh"), find(jaskel, episode, "Marsh,"))
    found = jaskel.get(f"/api/editions/{edition(episode)}/proposals?begin={place['begin']}&end={place['end']}")
    assert found["terms"] == ["Teo Marsh"]


def test_the_same_correction_twice_proposes_a_spelling(jaskel, episode):
    first, second = [t for t in tokens(jaskel, episode) if t["text"] == "Tarnhyth."]
    head = operate(jaskel, edition(episode), kind="retype", ranges=over(first), text="Tarn Hythe.")
    assert head["proposal"] is None
    head = operate(jaskel, edition(episode), kind="retype", ranges=over(second), text="Tarn Hythe.")
    assert head["proposal"] == {"term": "Tarn Hythe", "heard": ["Tarnhyth"]}
    jaskel.post(f"/api/shows/{episode['show_id']}/spellings", head["proposal"], 201)
    assert jaskel.get(f"/api/editions/{edition(episode)}")["proposal"] is None


def test_an_empty_term_is_refused(jaskel, episode):
    assert (
        jaskel.post(f"/api/shows/{episode['show_id']}/spellings", {"term": " ", "heard": []}, 422)["code"] == "not-understood"
    )


def test_what_a_person_typed_or_accepted_stays(jaskel, episode):
    first, second = [token for token in tokens(jaskel, episode) if token["text"] == "Tarnhyth."]
    operate(jaskel, edition(episode), kind="retype", ranges=over(first), text="www.tarnhyth.example")
    operate(jaskel, edition(episode), kind="accept", begin=second["at"], end=second["at"] + second["len"])
    add(jaskel, episode, "Tarn Hythe", "Tarnhyth", "www.tarnhyth.example")
    jaskel.post(f"/api/episodes/{episode['id']}/spell", status=202)
    jaskel.work()
    assert text(jaskel, episode) == "in www.tarnhyth.example I am Teoh Marsh, of Tarnhyth."


def test_numbers_are_written_as_the_show_wants_them(jaskel, episode):
    recording = jaskel.upload(episode["id"], write_media(Path(episode["folder"]) / "b.flac", tone(6, 300)))["id"]
    jaskel.work()
    said = ["I", "paid", "thirty", "two."]
    jaskel.words(recording, [Word(text, i * RATE, i * RATE + RATE * 4 // 5, 0.8) for i, text in enumerate(said)])
    with jaskel.workshop.home.database.write() as session:
        session.get_one(Recording, recording).language = "en"

    def written(style: str) -> str:
        changed = jaskel.client.patch(f"/api/shows/{episode['show_id']}", json={"numbers": style})
        assert changed.status_code == 200
        assert jaskel.get(f"/api/episodes/{episode['id']}")["numbers"] == style
        jaskel.post(f"/api/episodes/{episode['id']}/spell", status=202)
        jaskel.work()
        return text(jaskel, episode)

    assert written("figures").endswith("I paid 32.")
    assert written("words").endswith("I paid thirty-two.")
    turn(jaskel, edition(episode), "undo")
    assert text(jaskel, episode).endswith("I paid 32.")
