"""A line said again: borrowed from elsewhere, recorded, spoken with consent; heard in place, marked, put back."""

from __future__ import annotations

import io
import json
from dataclasses import replace

import av
import numpy as np
import pytest
import soundfile
from conftest import DEMO, RATE
from test_exports import exported
from test_marks_follow import sound
from test_retyping import operate, turn

from jaskel.core.pickup import PAD, Manner
from jaskel.core.transcript import Word
from jaskel.media.conform import decoded
from jaskel.media.pickup import Like, at_tempo, fitted, manner_of, pitch_of
from jaskel.store.models import Episode, Voice


@pytest.fixture(scope="module")
def teo(tmp_path_factory):
    """Teo's microphone of the demo, and what the recogniser heard in it."""
    path = tmp_path_factory.mktemp("teo") / "teo.flac"
    blocks = np.concatenate([*decoded(DEMO / "interview-teo.ogg", 1)])
    soundfile.write(path, blocks, RATE, subtype="PCM_16")
    heard = json.loads((DEMO / "heard.json").read_text())["interview-teo.ogg"]
    return path, [Word(*word) for word in heard["words"]]


@pytest.fixture
def said(jaskel, teo):
    """An episode with what Teo says, whose voice is known."""
    path, words = teo
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], path)["id"]
    jaskel.work("prepare")
    with jaskel.workshop.home.database.write() as session:
        voice = Voice(show_id=session.get_one(Episode, made["id"]).show_id, number=1, name="Teo Marsh")
        session.add(voice)
        session.flush()
        id = voice.id
    jaskel.words(recording, [replace(word, voice=id) for word in words])
    return {"id": made["id"], "edition": made["editions"][0]["id"], "recording": recording, "voice": id, "words": words}


def places(words, *texts):
    """From-to of the places where words follow one another."""
    plain = ["".join(each for each in word.text.casefold() if each.isalnum()) for word in words]
    count = len(texts)
    return [(words[at].start, words[at + count - 1].end) for at in range(len(words)) if plain[at : at + count] == [*texts]]


def look(jaskel, said, begin, end, text=""):
    return jaskel.get(f"/api/editions/{said['edition']}/pickups?begin={begin}&end={end}&text={text}")


def make(jaskel, said, begin, end, **body):
    jaskel.post(f"/api/editions/{said['edition']}/pickups", {"begin": begin, "end": end, **body}, 202)
    jaskel.work("pickup")
    return look(jaskel, said, begin, end)["made"]


def borrowed(jaskel, said, begin, end):
    """The best of the places where the same is said, made a line of."""
    best = look(jaskel, said, begin, end)["candidates"][0]
    stretch = {"recording": best["recording"], "source_start": best["start"], "source_end": best["end"]}
    return make(jaskel, said, begin, end, how="borrowed", text=best["words"], **stretch)[0]


def test_the_same_words_elsewhere_are_ranked_with_what_was_found(jaskel, said):
    (first, *others) = places(said["words"], "the", "first", "thing", "you")
    spot = look(jaskel, said, *first)
    assert spot["was"].lower().startswith("the first thing") and spot["voice"] == said["voice"]
    assert {(each["start"], each["end"]) for each in spot["candidates"]} == {*others}
    fits = [each["fit"] for each in spot["candidates"]]
    assert fits == sorted(fits, reverse=True) and all(0 < fit < 1 for fit in fits)
    assert any(each["why"] for each in spot["candidates"])


def test_a_borrowed_line_stands_among_the_words_and_is_put_back(jaskel, said):
    first = places(said["words"], "the", "first", "thing", "you")[0]
    line = borrowed(jaskel, said, *first)
    before = jaskel.get(f"/api/editions/{said['edition']}")
    passages = len(jaskel.get(f"/api/editions/{said['edition']}/page")["passages"])
    tried = jaskel.get(f"/api/editions/{said['edition']}/pickups/{line['recording']}/tried?begin={first[0]}&end={first[1]}")
    heard, rate = soundfile.read(io.BytesIO(tried.data))
    assert rate == RATE and len(heard) == pytest.approx(4 * RATE + line["length"], abs=RATE // 5)

    head = operate(jaskel, said["edition"], kind="pickup", begin=first[0], end=first[1], recording=line["recording"])
    assert "said again" in head["newest"]["summary"] and "borrowed" in head["newest"]["summary"]
    assert head["running_time"] - before["running_time"] == pytest.approx(line["length"] - (first[1] - first[0]), abs=RATE // 5)
    page = jaskel.get(f"/api/editions/{said['edition']}/page")
    assert len(page["passages"]) == passages  # it stands in the passage it belongs to
    marked = [token for passage in page["passages"] for token in passage["tokens"] if token["pickup"] and token["k"] == "w"]
    assert [token["text"] for token in marked] == line["text"].split()
    assert look(jaskel, said, *first)["made"][0]["on_page"]

    back = operate(jaskel, said["edition"], kind="pickup off", recording=line["recording"])
    assert back["running_time"] == before["running_time"]
    again = turn(jaskel, said["edition"], "undo")
    assert again["running_time"] == head["running_time"]


def test_it_goes_through_the_strip_of_its_voice(jaskel, said):
    first = places(said["words"], "the", "first", "thing", "you")[0]
    line = borrowed(jaskel, said, *first)
    operate(jaskel, said["edition"], kind="pickup", begin=first[0], end=first[1], recording=line["recording"])
    operate(jaskel, said["edition"], kind="track level", track=said["recording"], decibels=-12)
    plan = jaskel.get(f"/api/editions/{said['edition']}/plan")
    span = next(each for each in plan["spans"] if each["laid"] <= first[1] + PAD < each["laid"] + each["until"] - each["at"])
    quiet = sound(jaskel, said["edition"])[span["at"] + RATE // 10 : span["until"] - RATE // 10]
    turn(jaskel, said["edition"], "undo")
    loud = sound(jaskel, said["edition"])[span["at"] + RATE // 10 : span["until"] - RATE // 10]
    assert 20 * np.log10(np.sqrt(np.mean(loud**2) / np.mean(quiet**2))) == pytest.approx(12, abs=0.1)


def test_a_machine_speaks_only_for_those_who_agreed(jaskel, said):
    first = places(said["words"], "the", "first", "thing", "you")[0]
    wanted = {"begin": first[0], "end": first[1], "text": "The last thing you", "how": "spoken"}
    refused = jaskel.post(f"/api/editions/{said['edition']}/pickups", wanted, 422)
    assert refused["code"] == "no-consent" and "Teo Marsh" in refused["detail"]
    agreed = jaskel.client.put(f"/api/voices/{said['voice']}/consent", json={"name": "Teo Marsh"}).get_json()
    assert agreed["how"] == "ticked" and len(agreed["date"]) == 10
    line = make(jaskel, said, *first, text=wanted["text"], how="spoken")[0]
    assert line["machine"] and line["was"].lower() != line["text"].lower()
    operate(jaskel, said["edition"], kind="pickup", begin=first[0], end=first[1], recording=line["recording"])
    file = exported(jaskel, {"editions": [{"id": said["edition"]}]}, "mp3")
    with av.open(io.BytesIO(file)) as media:
        assert "spoken by a machine" in media.metadata["comment"]
    assert jaskel.client.delete(f"/api/voices/{said['voice']}/consent").status_code == 204
    assert look(jaskel, said, *first)["consent"] is None


def test_consent_may_be_spoken_in_the_recording(jaskel, said):
    first = places(said["words"], "the", "first", "thing", "you")[0]
    body = {"name": "Teo Marsh", "edition_id": said["edition"], "begin": first[0], "end": first[1]}
    agreed = jaskel.client.put(f"/api/voices/{said['voice']}/consent", json=body).get_json()
    assert agreed["how"] == "spoken" and agreed["words"].lower().startswith("the first thing")


def test_a_line_is_recorded_over_the_spot(jaskel, said, teo):
    path, words = teo
    first, second, *_ = places(words, "the", "first", "thing", "you")
    take, _ = soundfile.read(path, start=second[0] - RATE // 2, stop=second[1] + RATE // 2)
    file = io.BytesIO()
    soundfile.write(file, take * 0.1, RATE, format="WAV")
    url = f"/api/editions/{said['edition']}/pickups/recorded?begin={first[0]}&end={first[1]}&text=The first thing you"
    assert jaskel.client.post(url, data=file.getvalue()).status_code == 202
    jaskel.work("pickup")
    (line,) = look(jaskel, said, *first)["made"]
    # The rest around what was said is left out, and it is as loud as its neighbours.
    assert line["how"] == "recorded" and line["length"] / RATE == pytest.approx((second[1] - second[0]) / RATE, abs=0.25)
    made = jaskel.workshop.sound.mono_16k(line["recording"], 0, line["length"])
    was = jaskel.workshop.sound.mono_16k(said["recording"], *first)
    assert 20 * np.log10(np.sqrt(np.mean(made**2) / np.mean(was**2))) == pytest.approx(0, abs=4)
    silent = io.BytesIO()
    soundfile.write(silent, np.zeros(RATE), RATE, format="WAV")
    assert jaskel.client.post(url, data=silent.getvalue()).status_code == 202
    jaskel.work("pickup")
    jobs = jaskel.get(f"/api/episodes/{said['id']}")["jobs"]
    assert any("Nothing is heard" in each["trouble"] for each in jobs)
    assert len(look(jaskel, said, *first)["made"]) == 1
    assert jaskel.client.post(url, data=b"no sound at all").status_code == 422


def test_words_of_two_recordings_or_voices_are_refused(jaskel, said):
    answer = jaskel.get(f"/api/editions/{said['edition']}/pickups?begin=0&end=1", 422)
    assert answer["code"] == "no-spot"
    first, second, *_ = places(said["words"], "the", "first", "thing", "you")
    line = borrowed(jaskel, said, *first)
    body = {"kind": "pickup", "begin": second[0], "end": second[1], "recording": line["recording"]}
    revision = jaskel.get(f"/api/editions/{said['edition']}")["revision"]
    refused = jaskel.post(f"/api/editions/{said['edition']}/operations", {"revision": revision, "operation": body}, 422)
    assert refused["code"] == "another-spot"


def test_a_duplicate_keeps_its_lines(jaskel, said):
    first = places(said["words"], "the", "first", "thing", "you")[0]
    line = borrowed(jaskel, said, *first)
    operate(jaskel, said["edition"], kind="pickup", begin=first[0], end=first[1], recording=line["recording"])
    copy = jaskel.post(f"/api/episodes/{said['id']}/duplicate", {"title": "Copy", "template": False}, 201)
    edition = copy["editions"][0]["id"]
    (made,) = jaskel.get(f"/api/editions/{edition}/pickups?begin={first[0]}&end={first[1]}")["made"]
    assert made["on_page"] and made["recording"] != line["recording"]
    assert np.array_equal(sound(jaskel, edition), sound(jaskel, said["edition"]))


def tone(hertz, seconds):
    at = np.arange(round(seconds * RATE)) / RATE
    return (0.1 * sum(np.sin(2 * np.pi * hertz * k * at) / k for k in range(1, 8))).astype(np.float32)


@pytest.mark.parametrize("hertz", [85.0, 120.0, 210.0, 320.0])
def test_pitch_is_found(hertz):
    assert pitch_of(tone(hertz, 1), [(0, RATE)]) == pytest.approx(hertz, rel=0.02)
    assert pitch_of(np.random.default_rng(1).normal(0, 0.1, RATE).astype(np.float32), [(0, RATE)]) == 0


def test_another_tempo_keeps_the_pitch():
    quick = at_tempo(tone(150, 2), 1.15)
    assert len(quick) == round(2 * RATE / 1.15)
    assert pitch_of(quick, [(0, len(quick))]) == pytest.approx(150, rel=0.02)


def test_a_line_comes_to_the_pace_loudness_and_room_of_its_neighbours():
    room = np.random.default_rng(2).normal(0, 0.002, 4 * RATE).astype(np.float32)
    wanted = Like(Manner(150, 11.0, -26.0), room=room)
    line, ((start, end),) = fitted(tone(150, 1), [(0, RATE)], 10, wanted, foreign=True)
    assert (end - start) / RATE == pytest.approx(10 / 11, abs=0.01) and start == PAD
    assert manner_of(line, [(start, end)], 10).loudness == pytest.approx(-26, abs=0.5)
    assert np.std(line[: PAD - 500]) == pytest.approx(0.002, rel=0.1)
