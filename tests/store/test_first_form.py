"""A data folder written by the first form of the log opens, plays the same, and is undone and redone from end to end."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

import numpy as np
import pytest
import soundfile
from conftest import Jaskel

from jaskel.core.plan import compile_plan
from jaskel.media.sound import mix
from jaskel.settings import Settings
from jaskel.store.material import material_in

FORM = Path(__file__).resolve().parents[1] / "fixtures" / "first_form"
EXPECTED = json.loads((FORM / "expected.json").read_text())


@pytest.fixture
def known(tmp_path):
    shutil.copytree(FORM / "data", tmp_path / "data")
    made = Jaskel(Settings(tmp_path / "data"))
    yield made
    made.workshop.close()


def opened(jaskel, edition):
    with jaskel.workshop.home.database.read() as session:
        return jaskel.workshop.home.editions.open(session, edition)


def said(jaskel, edition):
    page = jaskel.get(f"/api/editions/{edition}/page")
    return " ".join(t["text"] for p in page["passages"] for t in p["tokens"] if t["k"] == "w")


def turn(jaskel, edition, step):
    return jaskel.post(f"/api/editions/{edition}/{step}", {"revision": opened(jaskel, edition).revision})


@pytest.mark.parametrize("number", range(len(EXPECTED)))
def test_it_plays_the_same(known, number):
    expected = EXPECTED[number]
    edition = opened(known, expected["id"])
    home = known.workshop.home
    with home.database.read() as session:
        plan = compile_plan(edition.edition, material_in(session, edition.edition, home.vault, {}))
    assert (edition.revision, plan.length) == (expected["revision"], expected["length"])
    assert said(known, expected["id"]) == expected["text"]
    sound, _ = soundfile.read(FORM / f"edition-{number}.flac", dtype="float64")
    heard = mix(plan, 0, plan.length, known.workshop.sound.read)
    assert np.abs(heard).max() > 0.1
    assert np.abs(heard - sound).max() <= 1.01 / 2**23


@pytest.mark.parametrize("number", range(len(EXPECTED)))
def test_it_is_undone_to_its_beginning_and_redone_to_its_end(known, number):
    edition = EXPECTED[number]["id"]
    newest, text = opened(known, edition), said(known, edition)
    steps = len(newest.history.undoable)
    for _ in range(steps):
        turn(known, edition, "undo")
    first = opened(known, edition)
    assert not first.history.undoable
    if number != 1:  # that one began as a copy of another, with its cuts
        assert all(piece.kept for piece in first.edition.pieces)
        assert not first.edition.marks
    for _ in range(steps):
        turn(known, edition, "redo")
    assert opened(known, edition).edition == newest.edition
    assert said(known, edition) == text
