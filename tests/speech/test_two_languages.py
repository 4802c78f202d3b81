"""A recording in two languages: told where which is spoken, and heard in both once it is parted."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import RATE, tone, write_media

from jaskel.jobs import transcribe as job
from jaskel.speech import language
from jaskel.speech.language import stretches_of
from jaskel.store.models import Recording

MINUTE = 60 * RATE


class ByLevel:
    """Takes loud sound for Italian, and quiet for English."""

    def __init__(self, _folder) -> None:
        pass

    def languages_of(self, voice):
        italian = float(np.mean(np.abs(voice) > 0.5))
        return {"it": italian, "en": 1 - italian}


@pytest.fixture
def by_level(monkeypatch):
    """Sentences of four seconds with half a second between them; the border has a rest of two."""
    monkeypatch.setattr(language, "WhisperRecogniser", ByLevel)
    monkeypatch.setattr(language, "multilingual_weights", lambda: None)

    def voiced(sound):
        loud = np.concatenate([[False], np.abs(sound) > 0.01, [False]])
        edges = np.flatnonzero(np.diff(loud.astype(int)))
        return [(a / 16_000, b / 16_000) for a, b in zip(edges[::2], edges[1::2], strict=True)]

    monkeypatch.setattr(language, "voiced", voiced)


def spoken(*stretches: tuple[float, float]):
    """Minutes at a level each, with the sound as the rules ask for it."""
    parts = []
    for minutes, level in stretches:
        sentence = np.concatenate([np.full(64_000, level), np.zeros(8_000)])
        parts += [np.resize(sentence, round(minutes * 60 * 16_000)), np.zeros(32_000)]
    sound = np.concatenate(parts).astype(np.float32)
    return lambda start, end: sound[start // 3 : end // 3], 3 * len(sound)


@pytest.mark.usefixtures("by_level")
class TestStretches:
    def test_the_border_is_the_rest_between_the_languages(self):
        sound, length = spoken((5, 0.2), (7, 0.9))
        (begin, first), (border, second) = stretches_of(sound, length, "en")
        assert (begin, first, second) == (0, "en", "it")
        assert border == pytest.approx(5 * MINUTE + RATE, abs=RATE)

    def test_there_and_back_again(self):
        sound, length = spoken((5, 0.2), (7, 0.9), (6, 0.2))
        assert [spoken_there for _, spoken_there in stretches_of(sound, length, "en")] == ["en", "it", "en"]

    def test_one_language_is_one_stretch_and_a_word_of_another_is_none(self):
        for stretches in (((9, 0.2),), ((5.9, 0.2), (0.3, 0.9), (5, 0.2)), ((0.2, 0.2),)):
            sound, length = spoken(*stretches)
            assert stretches_of(sound, length, "en") == [(0, "en")]

    def test_silence_changes_nothing(self):
        sound, length = spoken((9, 0.0))
        assert stretches_of(sound, length, "fr") == [(0, "fr")]


def test_each_stretch_is_heard_in_its_language_once_it_is_parted(jaskel, tmp_path, monkeypatch):
    recording = jaskel.upload(jaskel.episode()["id"], write_media(tmp_path / "a.wav", tone(10)))["id"]
    jaskel.work("prepare")

    def change(body, status=200):
        return jaskel._checked(jaskel.client.patch(f"/api/recordings/{recording}", json=body), status)

    assert "Only one language" in change({"parted": True}, 422)["detail"]
    with jaskel.workshop.home.database.write() as session:
        row = session.get_one(Recording, recording)
        row.language, row.languages = "en", [[0, "en"], [4 * RATE, "it"]]
    told = change({"parted": True})
    assert told["languages"] == [{"at": 0, "language": "en"}, {"at": 4 * RATE, "language": "it"}]
    heard = []
    monkeypatch.setattr(job, "recogniser_for", lambda language, _own=None: language)
    monkeypatch.setattr(
        job, "transcribe", lambda _sound, end, known, language, start, _mend: heard.append((start, end, known, language)) or ()
    )
    jaskel.post(f"/api/recordings/{recording}/transcript")
    jaskel.work("transcribe")
    assert heard == [(0, 4 * RATE, "en", "en"), (4 * RATE, 10 * RATE, "it", "it")]
    assert change({"language": "fr"})["parted"] is False  # whoever chooses a language means the whole recording
