"""The transcript that comes with the demo is what the recogniser hears today, with the names of the show right."""

from __future__ import annotations

import pytest
from conftest import RATE

from jaskel.core.tidy.finding import plain
from jaskel.demo.hear import heard, recording
from jaskel.demo.words import shipped
from jaskel.speech.measure import edge_errors, word_error

pytestmark = pytest.mark.speech

SECONDS = 75
"""So much of it is heard again; the bench hears all of it."""


def test_it_is_what_is_heard_today():
    length, known = shipped()
    with recording() as (sound, whole):
        assert length == whole
        words = []
        for part in heard(sound, length):
            words += part.words
            if part.end >= SECONDS * RATE:
                break
    known = [word for word in known if word.end <= words[-1].end]
    assert word_error([plain(word.text) for word in known], [plain(word.text) for word in words]) <= 0.02
    truth = [{"text": word.text, "start": word.start / RATE, "end": word.end / RATE, "exact": True} for word in known]
    errors = edge_errors(truth, [(word.text, word.start / RATE, word.end / RATE) for word in words])
    assert max(errors.percentile(90)) <= 0.02


def test_the_names_of_the_show_are_right():
    said = " ".join(word.text for word in shipped()[1])
    for name in ("Welcome to Ropewalk,", "boatyard in Tarn Hythe.", "Teo Marsh", "Orla Venn", "Teo, you have"):
        assert name in said, name
    assert not {"T.O.", "Tarnife", "Walk,"} & set(said.split())
