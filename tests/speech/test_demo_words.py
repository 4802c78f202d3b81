"""What comes with the demo is what the recogniser hears today, with the names of the show right."""

from __future__ import annotations

from functools import partial

import pytest
from conftest import RATE, truth
from sqlalchemy import select

from jaskel.core.tidy.finding import plain
from jaskel.core.transcript import Transcript
from jaskel.demo.prepare import INTERVIEW, MIXED, add_demo
from jaskel.demo.shipped import shipped
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.spell import spellings_of
from jaskel.jobs.transcribe import own_sound
from jaskel.jobs.workshop import Workshop
from jaskel.settings import Settings
from jaskel.speech.house import house, mended
from jaskel.speech.measure import edge_errors, word_error
from jaskel.speech.transcribe import transcribe
from jaskel.speech.weights import ENGLISH, recogniser_for
from jaskel.store.models import Job, Recording, SessionRow

pytestmark = pytest.mark.speech

SECONDS = 60
"""So much of each is heard again."""

SPOKEN = [MIXED, *(each for each in INTERVIEW if each.voice)]
HEARD = {each.name for each in SPOKEN}


@pytest.fixture(scope="module")
def workshop(tmp_path_factory):
    made = Workshop(Settings(tmp_path_factory.mktemp("demo")))
    made.home.database.migrate()
    _, jobs = add_demo(made.home)
    with made.home.database.read() as session:
        heard = [
            job.id for job in map(partial(session.get_one, Job), jobs) if session.get_one(Recording, job.subject).name in HEARD
        ]
    for job in heard:
        carry_out(made, job)
    yield made
    made.close()


@pytest.mark.parametrize("taken", SPOKEN, ids=lambda taken: taken.file)
def test_it_is_what_is_heard_today(workshop, taken):
    with workshop.home.database.read() as session:
        recording = session.scalars(select(Recording).where(Recording.name == taken.name)).one()
        spellings = house(spellings_of(session, recording.episode.show_id))
    known = shipped()[taken.file]
    assert recording.length == known.length
    words = []
    sound = own_sound(workshop, recording)
    heard = transcribe(
        sound, known.length, recogniser_for(ENGLISH), ENGLISH, mend=lambda words, again: mended(words, spellings, again)
    )
    for part in heard:
        words += part.words
        if part.end >= SECONDS * RATE:
            break
    expected = [word for word in known.words if word.end <= words[-1].end]
    assert word_error([plain(word.text) for word in expected], [plain(word.text) for word in words]) <= 0.03
    truth = [{"text": word.text, "start": word.start / RATE, "end": word.end / RATE, "exact": True} for word in expected]
    errors = edge_errors(truth, [(word.text, word.start / RATE, word.end / RATE) for word in words])
    assert max(errors.percentile(90)) <= 0.02


def test_the_session_lies_as_the_truth_has_it(workshop):
    """The cameras were started 1.72 s after and 2.48 s before the microphones."""
    with workshop.home.database.read() as session:
        row = session.scalars(select(SessionRow)).one()
        offsets = {track.recording.name: track.offset / RATE for track in row.tracks}
        voices = [track.voice.name for track in row.tracks if track.sounds]
    mics = [offsets[each.name] for each in INTERVIEW if each.voice]
    cameras = {each.file.removesuffix(".mp4")[-4:].strip("-"): offsets[each.name] for each in INTERVIEW if not each.voice}
    assert row.state == "joined"
    assert voices == ["Orla Venn", "Teo Marsh"]
    assert mics[0] == pytest.approx(mics[1], abs=0.01)
    for name, offset in truth("interview")["camera_offsets"].items():
        assert cameras[name] - mics[0] == pytest.approx(-offset, abs=0.02)


def test_laughter_is_heard_as_such():
    sounds = [(word.text, word.start / RATE) for each in SPOKEN for word in shipped()[each.file].words if word.is_sound]
    assert {text for text, _ in sounds} <= {"[laughter]", "[cough]"}
    assert sum(text == "[laughter]" for text, _ in sounds) >= 2


def test_the_names_of_the_show_are_right():
    for taken in SPOKEN:
        said = " ".join(word.text for word in shipped()[taken.file].words)
        for name in (
            () if taken.voice == "teo" else ("Welcome to Ropewalk", "in Tarn Hythe.", "Teo Marsh", "Orla Venn", "Teo, you")
        ):
            assert name in said, (taken.file, name)
        assert not {"T.O.", "Tarnife", "Walk,"} & set(said.split())
        assert not any(text in (".", ",") for text in said.split())


def test_words_follow_one_another():
    for known in shipped().values():
        Transcript(known.length, known.words)
