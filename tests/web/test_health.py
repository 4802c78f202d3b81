"""Whether it runs and can work, and figures for those who look after it."""

from __future__ import annotations

import json
import logging
import os
import time

import pytest
from conftest import Jaskel
from prometheus_client.parser import text_string_to_metric_families

from jaskel import cli
from jaskel.jobs.lease import BEAT, LOST_SECONDS


def ask(jaskel, path):
    answer = jaskel.client.get(path)
    return answer.status_code, answer.json


def test_it_lives(jaskel):
    assert ask(jaskel, "/healthz") == (200, {"ok": True})


def test_it_is_ready_while_everything_can_be_used(jaskel, settings):
    assert ask(jaskel, "/readyz") == (503, {"ok": False, "wrong": ["worker"]})
    (settings.data / BEAT).touch()
    assert ask(jaskel, "/readyz") == (200, {"ok": True, "wrong": []})
    long_ago = time.time() - LOST_SECONDS - 1
    os.utime(settings.data / BEAT, (long_ago, long_ago))
    assert ask(jaskel, "/readyz")[1]["wrong"] == ["worker"]
    (settings.vault / "incoming").rename(settings.vault / "away")
    assert set(ask(jaskel, "/readyz")[1]["wrong"]) == {"vault", "worker"}


def test_figures_are_read_by_the_client_of_their_form(jaskel):
    episode = jaskel.episode()
    edition = episode["editions"][0]["id"]
    jaskel.post(f"/api/editions/{edition}/exports", {"form": "wav"}, 202)
    jaskel.get("/api/shows")
    told = jaskel.client.get("/metrics")
    found = {family.name: family for family in text_string_to_metric_families(told.text)}
    assert [(each.labels, each.value) for each in found["jaskel_jobs"].samples] == [({"kind": "export", "state": "queued"}, 1)]
    assert found["jaskel_episodes"].samples[0].value == 1
    assert found["jaskel_disk_free_bytes"].samples[0].value > 0
    counts = {
        each.labels["endpoint"]: each.value for each in found["jaskel_request_seconds"].samples if each.name.endswith("_count")
    }
    assert counts["shows.list_shows"] == 1


def test_figures_are_told_to_this_machine_alone(jaskel):
    assert jaskel.client.get("/metrics", environ_base={"REMOTE_ADDR": "192.0.2.7"}).status_code == 404
    assert jaskel.client.get("/healthz", environ_base={"REMOTE_ADDR": "192.0.2.7"}).status_code == 200


def test_two_in_one_process_have_figures_of_their_own(jaskel, settings):
    other = Jaskel(settings)
    other.get("/api/shows")
    assert "shows.list_shows" not in jaskel.client.get("/metrics").text
    other.workshop.close()


@pytest.mark.parametrize("form", ["", "json"])
def test_the_log_is_for_people_or_for_programs(monkeypatch, capsys, form):
    monkeypatch.setenv("JASKEL_LOG", form)
    root = logging.getLogger()
    before, root.handlers = root.handlers, []
    try:
        cli._begin_log()
        logging.getLogger("jaskel.web").info("request %s failed", "GET /")
    finally:
        root.handlers = before
    line = capsys.readouterr().err.strip()
    if form:
        assert json.loads(line)["message"] == "request GET / failed" and json.loads(line)["levelname"] == "INFO"
    else:
        assert line.endswith("jaskel.web request GET / failed")
