"""A strip for each voice that was told apart within one recording."""

from __future__ import annotations

import numpy as np
import pyloudnorm
import pytest
from conftest import RATE, write_media
from test_marks_follow import chain, sound
from test_retyping import operate, turn
from test_sessions import noise, speech

from jaskel.core.transcript import Word
from jaskel.store.models import Episode, Voice

TURN = 6
"""Seconds; two voices take turns four times."""


@pytest.fixture
def mixed(jaskel, tmp_path):
    """Two voices in one recording, the second 12 dB quieter, who take turns."""
    loud = np.concatenate([np.full(TURN * RATE, level, np.float32) for level in (1.0, 0.25, 1.0, 0.25)])
    heard = speech(4 * TURN, 20) * 0.5 * loud + noise(4 * TURN, 3) * 0.001
    made = jaskel.episode()
    recording = jaskel.upload(made["id"], write_media(tmp_path / "mixed.flac", heard.astype(np.float32)))["id"]
    jaskel.work("prepare")
    with jaskel.workshop.home.database.write() as session:
        show = session.get_one(Episode, made["id"]).show_id
        voices = [Voice(show_id=show, number=number + 1, name=name) for number, name in enumerate(("Orla", "Teo"))]
        session.add_all(voices)
        session.flush()
        orla, teo = (each.id for each in voices)
    words = [
        Word(f"w{at}.", at * RATE + RATE // 5, at * RATE + RATE * 4 // 5, voice=(orla, teo)[at // TURN % 2])
        for at in range(4 * TURN)
    ]
    jaskel.words(recording, words)
    edition = made["editions"][0]["id"]
    return {"id": made["id"], "edition": edition, "recording": recording, "orla": orla, "teo": teo}


def power(heard, begin, end):
    return 10 * np.log10(np.mean(heard[round(begin * RATE) : round(end * RATE)] ** 2) + 1e-12)


def test_the_level_of_a_voice_is_heard_in_its_turns_only(jaskel, mixed):
    before = sound(jaskel, mixed["edition"])
    head = operate(jaskel, mixed["edition"], kind="track level", track=f"{mixed['recording']}/{mixed['teo']}", decibels=6)
    assert [each["track"] for each in head["tracks"]] == [f"{mixed['recording']}/{mixed['teo']}"]
    after = sound(jaskel, mixed["edition"])
    for begin, raised in ((0, 0), (TURN, 6), (2 * TURN, 0), (3 * TURN, 6)):
        difference = power(after, begin + 0.2, begin + TURN - 0.2) - power(before, begin + 0.2, begin + TURN - 0.2)
        assert difference == pytest.approx(raised, abs=0.05)
    # On top of the level of the whole recording.
    operate(jaskel, mixed["edition"], kind="track level", track=mixed["recording"], decibels=-6)
    assert power(sound(jaskel, mixed["edition"]), TURN + 0.2, 2 * TURN - 0.2) == pytest.approx(
        power(before, TURN + 0.2, 2 * TURN - 0.2), abs=0.05
    )
    turn(jaskel, mixed["edition"], "undo")
    turn(jaskel, mixed["edition"], "undo")
    assert np.array_equal(sound(jaskel, mixed["edition"]), before)


def test_nothing_steps_where_one_turn_goes_over_into_the_next(jaskel, mixed):
    for voice in ("orla", "teo"):
        strip = f"{mixed['recording']}/{mixed[voice]}"
        operate(jaskel, mixed["edition"], kind="processors", track=strip, chain=chain("gain", decibels=0.0))
    jaskel.work("process")
    plain = jaskel.workshop.sound.mono_16k(mixed["recording"], 0, 4 * TURN * RATE)
    heard = sound(jaskel, mixed["edition"])[::3, 0][: len(plain)]
    # The same chain for all sounds like none: neither louder nor softer at the borders.
    for border in (TURN, 2 * TURN, 3 * TURN):
        part = slice(round((border - 0.1) * 16_000), round((border + 0.1) * 16_000))
        assert 10 * np.log10(np.mean(heard[part] ** 2) / np.mean(plain[part] ** 2)) == pytest.approx(0, abs=1)


def test_a_chain_of_one_voice_leaves_the_other_alone_and_selected_words_come_first(jaskel, mixed):
    before = sound(jaskel, mixed["edition"])
    strip = f"{mixed['recording']}/{mixed['teo']}"
    lower = chain("gain", decibels=-10.0)
    assert not operate(jaskel, mixed["edition"], kind="processors", track=strip, chain=lower)["tracks"][0]["processed"]
    jaskel.work("process")
    assert jaskel.get(f"/api/editions/{mixed['edition']}")["tracks"][0]["processed"]
    after = sound(jaskel, mixed["edition"])
    assert power(after, 0, TURN - 0.2) == pytest.approx(power(before, 0, TURN - 0.2), abs=0.01)
    assert power(after, TURN + 0.2, 2 * TURN - 0.2) - power(before, TURN + 0.2, 2 * TURN - 0.2) == pytest.approx(-10, abs=0.05)
    here = {"kind": "processors here", "track": mixed["recording"], "begin": 8 * RATE, "end": 10 * RATE}
    operate(jaskel, mixed["edition"], **here, chain=chain("gain", decibels=3.0))
    jaskel.work("process")
    now = sound(jaskel, mixed["edition"])
    assert power(now, 8.1, 9.9) - power(before, 8.1, 9.9) == pytest.approx(3, abs=0.05)
    assert power(now, 10.2, 11.8) - power(before, 10.2, 11.8) == pytest.approx(-10, abs=0.05)


def test_voices_within_one_recording_are_made_even(jaskel, mixed):
    jaskel.post(f"/api/editions/{mixed['edition']}/even", {}, 202)
    jaskel.work()
    heard = sound(jaskel, mixed["edition"])
    meter = pyloudnorm.Meter(RATE)
    one, other = (meter.integrated_loudness(heard[begin * TURN * RATE : (begin + 1) * TURN * RATE]) for begin in (0, 1))
    assert abs(one - other) <= 1


def test_the_shows_way_knows_the_voice_within(jaskel, mixed):
    strip = f"{mixed['recording']}/{mixed['teo']}"
    lower = chain("gain", decibels=-10.0)
    operate(jaskel, mixed["edition"], kind="processors", track=strip, chain=lower)
    url = f"/api/editions/{mixed['edition']}/sound"
    assert jaskel.client.put(url).status_code == 200
    operate(jaskel, mixed["edition"], kind="processors", track=strip, chain=[])
    head = jaskel.get(f"/api/editions/{mixed['edition']}")
    given = jaskel.post(url, {"revision": head["revision"]})
    assert [each["track"] for each in given["tracks"]] == [strip]


def test_who_is_disguised_goes_by_a_number_in_what_is_exported(jaskel, mixed):
    strip = f"{mixed['recording']}/{mixed['teo']}"
    operate(jaskel, mixed["edition"], kind="processors", track=strip, chain=chain("disguise"))
    job = jaskel.post(f"/api/editions/{mixed['edition']}/exports", {"form": "md"}, 202)["id"]
    jaskel.work()
    written = jaskel.get(f"/api/exports/{job}/file").text
    assert "Orla" in written and "Voice 2" in written and "Teo" not in written


def test_words_spoken_while_another_speaks_are_marked_and_the_step_is_undone(jaskel, mixed, monkeypatch):
    monkeypatch.setattr(
        "jaskel.speech.voices.voices_of", lambda _sound, words, _count: [i // TURN % 2 for i in range(len(words))]
    )
    monkeypatch.setattr("jaskel.speech.together.together", lambda _sound, _length: [(5 * RATE, 7 * RATE)])
    jaskel.post(f"/api/recordings/{mixed['recording']}/voices", {}, 202)
    jaskel.work("voices")

    def marked():
        page = jaskel.get(f"/api/editions/{mixed['edition']}/page")
        return [token["text"] for passage in page["passages"] for token in passage["tokens"] if token["over"]]

    assert marked() == ["w5.", "w6."]
    turn(jaskel, mixed["edition"], "undo")
    assert marked() == []


def test_nobody_speaks_over_the_only_voice(jaskel, mixed, monkeypatch):
    monkeypatch.setattr("jaskel.speech.voices.voices_of", lambda _sound, words, _count: [0] * len(words))
    monkeypatch.setattr("jaskel.speech.together.together", lambda _sound, _length: pytest.fail("there is nobody else"))
    jaskel.post(f"/api/recordings/{mixed['recording']}/voices", {}, 202)
    jaskel.work("voices")
    page = jaskel.get(f"/api/editions/{mixed['edition']}/page")
    assert not any(token["over"] for passage in page["passages"] for token in passage["tokens"])
