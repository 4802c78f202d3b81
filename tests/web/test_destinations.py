"""Destinations: what a show has, what is made for them, what is checked before, and the last listen."""

from __future__ import annotations

import io
import json
import re
import time
from fractions import Fraction

import av
import numpy as np
import pytest
from conftest import RATE, tone, write_media
from sqlalchemy import delete, select
from test_retyping import operate

from jaskel.core.destination import BUILT_IN
from jaskel.core.plan import Frame
from jaskel.core.transcript import Word
from jaskel.jobs.lease import claim
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import seconds_left
from jaskel.media.effort import of_picture
from jaskel.media.loudness import Meter
from jaskel.store.models import Job, Show, TranscriptPart

OWN = {"name": "Members' feed", "form": "opus", "beside": ["txt"], "loudness": -19.0, "names": "{show}: {episode} {step}"}


@pytest.fixture
def film(jaskel, tmp_path):
    """An episode of 66 s with a picture of 320 × 180, and a word each second."""
    episode = jaskel.episode()
    sound = 0.05 * tone(66) / np.abs(tone(1)).max()
    path = write_media(tmp_path / "talk.mp4", np.float32(sound), pictures=1650)
    episode["recording"] = jaskel.upload(episode["id"], path)["id"]
    jaskel.work("prepare", "picture")  # nobody is in it: faces need not be looked for
    words = [Word(f"word{n}.", n * RATE, n * RATE + RATE // 2, 0.9) for n in range(66)]
    jaskel.words(episode["recording"], words)
    episode["edition"] = episode["editions"][0]["id"]
    return episode


def exported(jaskel, film, destination, status=202):
    job = jaskel.post(f"/api/editions/{film['edition']}/exports", {"destination": destination}, status)
    jaskel.work("export")
    known = jaskel.get(f"/api/episodes/{film['id']}")
    return job, [each for each in known["exports"] if each["job_id"] == job.get("id")], known["jobs"]


def file(jaskel, export):
    return jaskel.client.get(f"/api/exports/{export['id']}/file").data


def strike(jaskel, film, *ranges):
    operate(jaskel, film["edition"], kind="strike", ranges=[{"begin": a, "end": b} for a, b in ranges], why="by hand")


class TestOwn:
    def url(self, film):
        return f"/api/shows/{film['show_id']}/destinations"

    def test_ten_are_there_and_own_ones_are_kept(self, jaskel, film):
        assert len(jaskel.get(self.url(film))["destinations"]) == len(BUILT_IN) == 10
        first = jaskel.post(self.url(film), OWN, 201)["destinations"][0]
        assert first["own"] and first["name"] == "Members' feed" and first["shape"] == "own"
        changed = jaskel.put(f"{self.url(film)}/{first['key']}", OWN | {"rate": "29.97", "longest": 90})["destinations"][0]
        assert (changed["key"], changed["rate"], changed["longest"]) == (first["key"], "29.97", 90)
        left = jaskel._checked(jaskel.client.delete(f"{self.url(film)}/{first['key']}"), 200)["destinations"]
        assert len(left) == 10 and not any(each["own"] for each in left)

    @pytest.mark.parametrize(
        ("wrong", "told"),
        [({"name": "podcast FEED"}, "another name"), ({"names": "{show} {season}"}, "{season}"), ({"short": 33}, "even")],
    )
    def test_what_cannot_be_is_told(self, jaskel, film, wrong, told):
        assert told in json.dumps(jaskel.post(self.url(film), OWN | wrong, 422), ensure_ascii=False)
        assert len(jaskel.get(self.url(film))["destinations"]) == 10

    def test_those_that_come_along_cannot_be_changed(self, jaskel, film):
        jaskel.put(f"{self.url(film)}/podcast", OWN, 404)

    def test_an_export_for_one_has_its_forms_names_and_loudness(self, jaskel, film):
        key = jaskel.post(self.url(film), OWN, 201)["destinations"][0]["key"]
        _, made, _ = exported(jaskel, film, key)
        assert {each["file_name"] for each in made} == {"Ropewalk The dry hull 1.opus", "Ropewalk The dry hull 1.txt"}
        sound = next(each for each in made if each["form"] == "opus")
        assert loudness(file(jaskel, sound)) == pytest.approx(-19, abs=0.5)

    def test_one_that_was_deleted_meanwhile_is_told(self, jaskel, film):
        assert "not kept" in exported(jaskel, film, "nowhere", 422)[0]["detail"]


def loudness(data):
    meter = Meter(2)
    with av.open(io.BytesIO(data)) as media:
        resampler = av.AudioResampler("fltp", "stereo", RATE)
        for frame in media.decode(audio=0):
            for each in resampler.resample(frame):
                meter.add(np.ascontiguousarray(each.to_ndarray().T))
    return meter.loudness().integrated


def test_a_feed_gets_sound_at_its_loudness_and_words_beside_it(jaskel, film):
    jaskel.post(f"/api/episodes/{film['id']}/chapters", {"edition": film["edition"], "laid": RATE, "title": "Later"}, 201)
    _, made, _ = exported(jaskel, film, "podcast")
    assert {each["form"] for each in made} == {"mp3", "vtt", "chapters"}
    assert {each["destination"] for each in made} == {"Podcast feed"}
    named = {each["form"]: each for each in made}
    assert named["mp3"]["file_name"] == "Ropewalk - The dry hull - Podcast feed.mp3"
    assert loudness(file(jaskel, named["mp3"])) == pytest.approx(-16, abs=0.5)
    assert json.loads(file(jaskel, named["chapters"]))["chapters"][-1]["title"] == "Later"
    # The edition's own loudness is not touched.
    assert jaskel.get(f"/api/editions/{film['edition']}")["loudness"]["target"] is None


def test_an_upright_film_is_upright_and_refused_when_it_is_a_picture_too_long(jaskel, film):
    job, made, jobs = exported(jaskel, film, "upright 60")
    assert not made and "longer than the 60 s" in next(each for each in jobs if each["id"] == job["id"])["trouble"]
    strike(jaskel, film, (60 * RATE + 1, 66 * RATE))
    (told,) = [each for each in checked(jaskel, film, "upright 60") if each["kind"] == "too long"]
    assert told["stops"] and told["told"].startswith("0.0")
    strike(jaskel, film, (20 * RATE, 60 * RATE + 1))
    assert not any(each["stops"] for each in checked(jaskel, film, "upright 60"))
    _, (one,), _ = exported(jaskel, film, "upright 60")
    with av.open(io.BytesIO(file(jaskel, one))) as media:
        video = media.streams.video[0]
        assert (video.width, video.height, video.average_rate) == (1080, 1920, 25)


def checked(jaskel, film, destination):
    return jaskel.get(f"/api/editions/{film['edition']}/checks?destination={destination}")["checks"]


def test_what_is_to_be_looked_at_is_listed_with_its_places(jaskel, film):
    words = [Word("unsure", 2 * RATE, 3 * RATE, 0.2), Word("sure.", 4 * RATE, 5 * RATE, 0.9)]
    with jaskel.workshop.home.database.write() as session:
        session.execute(delete(TranscriptPart))
    jaskel.words(film["recording"], words)
    found = {each["kind"]: each for each in checked(jaskel, film, "podcast")}
    assert found["words in doubt"]["places"] == [2 * RATE] and found["words in doubt"]["count"] == 1
    assert "no chapters" in found and "loudness" not in found
    assert "loudness" in {each["kind"] for each in checked(jaskel, film, "archive")}
    strike(jaskel, film, (0, jaskel.get(f"/api/editions/{film['edition']}")["recorded_time"]))
    assert [each["kind"] for each in checked(jaskel, film, "podcast")] == ["nothing kept"]
    jaskel.get(f"/api/editions/{film['edition']}/checks?destination=nowhere", 404)


def test_media_that_are_not_there_are_told_before(jaskel, film):
    (original,) = [each for each in jaskel.settings.vault.glob("originals/**/*") if each.is_file()]
    original.rename(original.with_suffix(".away"))
    told = checked(jaskel, film, "podcast")[0]
    assert told["kind"] == "media missing" and told["stops"] and "talk.mp4" in told["told"]


def test_a_proof_is_one_page_that_runs_nothing_but_its_own_script(jaskel, film):
    _, (one,), _ = exported(jaskel, film, "proof")
    page = file(jaskel, one).decode()
    assert one["file_name"].endswith("proof, step 1.html")
    assert re.search(r"script-src 'sha256-[\w+/=]{44}'", page) and "http" not in page.split("base64,")[0].replace(
        "http-equiv", ""
    )
    assert page.count("data-at=") == 66


class TestLastListen:
    def listen(self, jaskel, film):
        return jaskel.get(f"/api/editions/{film['edition']}/last-listen")

    def test_a_cut_at_a_word_comes_and_stays_passed_until_it_sounds_otherwise(self, jaskel, film):
        assert self.listen(jaskel, film) == {"length": 0, "places": []}
        strike(jaskel, film, (10 * RATE + RATE // 2, 12 * RATE), (40 * RATE, 42 * RATE))
        found = self.listen(jaskel, film)
        assert len(found["places"]) == 2 and found["length"] == 4 * RATE
        first = found["places"][0]
        assert "a word close to the cut" in first["why"] and first["begin"] < 10.5 * RATE < first["until"]
        jaskel.post(f"/api/editions/{film['edition']}/last-listen", {"key": first["key"]}, 204)
        strike(jaskel, film, (50 * RATE, 51 * RATE))
        assert [each["passed"] for each in self.listen(jaskel, film)["places"]] == [True, False, False]
        strike(jaskel, film, (12 * RATE, 12 * RATE + RATE // 10))
        assert not any(each["passed"] for each in self.listen(jaskel, film)["places"])


def test_time_left_is_told_once_a_tenth_is_done():
    job = Job(state="running", started=time.time() - 30, beat=time.time(), since=0, done=9, total=100)
    assert seconds_left(job) is None
    job.done = 25
    assert seconds_left(job) == pytest.approx(90, abs=2)
    job.state = "queued"
    assert seconds_left(job) is None


def test_time_left_goes_by_the_pace_since_work_was_begun_and_by_the_last_report():
    now = time.time()
    job = Job(state="running", started=now - 30, beat=now - 10, since=50, done=60, total=80)
    assert seconds_left(job) == pytest.approx(30, abs=2)
    job.done = 51
    assert seconds_left(job) is None


def test_pace_is_not_counted_from_getting_ready(jaskel, film):
    begun = jaskel.post(f"/api/editions/{film['edition']}/exports", {"destination": "wide"}, 202)
    assert begun["destination"] == "Wide film"
    job, home = begun["id"], jaskel.workshop.home

    def stands():
        with home.database.read() as session:
            known = session.get_one(Job, job)
            return known.done, known.since, known.started

    with home.database.write() as session:
        session.get_one(Job, job).done = 7
    assert claim(home, job).since == 7
    progress = Progress(home, job)
    progress.report(0)
    *come, started = stands()
    assert come == [0, 0]
    progress.report(0)
    assert stands()[2] > started
    still = stands()[2]
    progress.report(5)
    assert stands() == (5, 0, still)


@pytest.mark.parametrize("within", [99.0, 0.0])
def test_progress_goes_onward_however_often_the_sound_is_gone_through(jaskel, film, monkeypatch, within):
    told = []
    report = Progress.report

    def listened(self, done):
        report(self, done)
        with jaskel.workshop.home.database.read() as session:
            job = session.scalars(select(Job).where(Job.state == "running")).one()
            told.append((job.done, job.total))

    monkeypatch.setattr(Progress, "report", listened)
    monkeypatch.setattr("jaskel.jobs.progress.REPORT_SECONDS", 0.0)
    monkeypatch.setattr("jaskel.media.loudness.WITHIN", within)
    exported(jaskel, film, "podcast")
    come = [done for done, _ in told]
    assert come == sorted(come) and all(done <= total for done, total in told)
    assert come[-1] == told[-1][1]
    with jaskel.workshop.home.database.read() as session:
        assert {*session.scalars(select(Show)).one().paces["podcast"]} == {"loudness", "passes", "mp3", "vtt"}


def test_a_film_counts_for_more_than_its_sound(jaskel, film):
    totals = {}
    for form in ("mp4", "wav"):
        name = jaskel.post(f"/api/editions/{film['edition']}/exports", {"form": form}, 202)["id"]
        (waiting,) = [each for each in jaskel.get(f"/api/episodes/{film['id']}")["jobs"] if each["id"] == name]
        assert waiting["left"] is None and waiting["total"] == jaskel.get(f"/api/editions/{film['edition']}")["running_time"]
        jaskel.work("export")
        with jaskel.workshop.home.database.read() as session:
            totals[form] = session.get_one(Job, waiting["id"]).total
    assert totals["mp4"] > 5 * totals["wav"] > 0
    large, small = Frame(1920, 1080, Fraction(25)), Frame(640, 360, Fraction(25))
    assert of_picture("libx264", large) == pytest.approx(9 * of_picture("libx264", small))
    assert of_picture("libx264", small, "best") > of_picture("libx264", small)
