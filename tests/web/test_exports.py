"""What is exported: words that are heard, sound at the bit rate that was asked for, names that can be read."""

from __future__ import annotations

import io

import av
import pytest
from conftest import RATE, tone, write_media
from test_retyping import operate

from jaskel.core.transcript import Word


@pytest.fixture
def episode(jaskel, tmp_path):
    made = jaskel.episode()
    made["recording"] = jaskel.upload(made["id"], write_media(tmp_path / "a.wav", tone(6)))["id"]
    jaskel.work()
    words = [
        Word(text, i * RATE, i * RATE + RATE // 2, 0.9) for i, text in enumerate(["So", "we", "begin", "with", "the", "hull."])
    ]
    jaskel.words(made["recording"], words)
    return made


def exported(jaskel, episode, form, **how):
    edition = episode["editions"][0]["id"]
    job = jaskel.post(f"/api/editions/{edition}/exports", {"form": form, **how}, 202)["id"]
    jaskel.work("export")
    return jaskel.get(f"/api/exports/{job}/file").data


@pytest.mark.parametrize("form", ["txt", "md", "srt", "vtt"])
def test_words_of_a_muted_voice_are_left_out_unless_they_are_wanted(jaskel, episode, form):
    edition = episode["editions"][0]["id"]
    head = operate(jaskel, edition, kind="adjust", begin=RATE, end=3 * RATE, track=episode["recording"], decibels=-120)
    assert head["muted"] == [[RATE, RATE + RATE // 2], [2 * RATE, 2 * RATE + RATE // 2]]
    written = exported(jaskel, episode, form).decode()
    assert "So" in written and "hull." in written and "we" not in written and "begin" not in written
    assert "begin" in exported(jaskel, episode, form, muted=True).decode()


@pytest.mark.parametrize(("form", "bits"), [("mp3", 96_000), ("mp3", 320_000), ("mp4", 96_000)])
def test_sound_has_the_bit_rate_that_was_asked_for(jaskel, episode, form, bits):
    with av.open(io.BytesIO(exported(jaskel, episode, form, bits=bits))) as media:
        rate = media.streams.audio[0].bit_rate
    # MP3 has constant rates; AAC only comes near, and needs few bits for a tone.
    assert rate == bits if form == "mp3" else rate < 1.2 * bits


def test_no_other_bit_rates(jaskel, episode):
    edition = episode["editions"][0]["id"]
    jaskel.post(f"/api/editions/{edition}/exports", {"form": "mp3", "bits": 7}, 422)
