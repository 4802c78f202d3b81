"""Forms of sound beside MP3 and WAV, and the list of music, read back by other libraries."""

from __future__ import annotations

import csv

import av
import numpy as np
import pytest
import soundfile
from conftest import RATE, tone
from mutagen.flac import FLAC
from mutagen.mp4 import MP4
from mutagen.oggopus import OggOpus

from jaskel.core.chapters import ProgrammeChapter
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Beginning, End
from jaskel.core.marks.bed import Bed
from jaskel.core.marks.mark import Marks
from jaskel.core.plan import Material, compile_plan
from jaskel.core.source import Recorded
from jaskel.media.cue_sheet import write_cue_sheet
from jaskel.media.render import Tags, write_compressed, write_flac

SECONDS = 6
CHAPTERS = (ProgrammeChapter(0, 4 * RATE, "Dry planks"), ProgrammeChapter(4 * RATE, SECONDS * RATE, "What helps"))
TAGS = Tags("The dry hull", "Tidelines", "The dry hull", ("a line",), CHAPTERS)
SOUND = np.stack([tone(SECONDS), tone(SECONDS)], axis=1)


@pytest.fixture
def plan():
    return compile_plan(Edition((Piece(Recorded("a"), 0, SECONDS * RATE),)), Material())


def read(_feed, start, end):
    return SOUND[max(0, start) : end]


def quiet(_at):
    pass


def heard(path):
    with av.open(str(path)) as file:
        blocks = [frame.to_ndarray() for frame in file.decode(audio=0)]
    return np.concatenate([block.reshape(block.shape[0], -1) for block in blocks], axis=1)[0]


def test_m4a_has_tags_and_chapters(plan, tmp_path):
    write_compressed(tmp_path / "a.m4a", ".m4a", plan, read, quiet, TAGS)
    file = MP4(tmp_path / "a.m4a")
    assert file.info.length == pytest.approx(SECONDS, abs=0.1)
    assert (file["\xa9nam"], file["\xa9alb"]) == (["The dry hull"], ["Tidelines"])
    assert [(each.title, each.start) for each in file.chapters] == [("Dry planks", 0), ("What helps", 4)]


def test_opus_has_tags_and_sounds_like_it(plan, tmp_path):
    write_compressed(tmp_path / "a.opus", ".opus", plan, read, quiet, TAGS, 96_000)
    file = OggOpus(tmp_path / "a.opus")
    assert file.info.length == pytest.approx(SECONDS, abs=0.1) and file["title"] == ["The dry hull"]
    sound = heard(tmp_path / "a.opus")
    at = slice(RATE, 3 * RATE)
    assert float(np.sqrt((sound[at] ** 2).mean())) == pytest.approx(float(np.sqrt((SOUND[at, 0] ** 2).mean())), rel=0.05)


def test_flac_loses_nothing(plan, tmp_path):
    write_flac(tmp_path / "a.flac", plan, read, quiet, TAGS)
    file = FLAC(tmp_path / "a.flac")
    assert (file.info.bits_per_sample, file["title"], file["album"]) == (24, ["The dry hull"], ["Tidelines"])
    sound, rate = soundfile.read(tmp_path / "a.flac")
    assert (len(sound), rate) == (SECONDS * RATE, RATE)
    assert float(np.abs(sound - SOUND).max()) <= 2 / 2**23


def test_the_music_is_listed_with_its_times(tmp_path):
    bed = Bed("bed.1", (Beginning(RATE), End()), "m", loop=True)
    edition = Edition((Piece(Recorded("a"), 0, SECONDS * RATE),), marks=Marks({"bed.1": bed}))
    plan = compile_plan(edition, Material(lengths={"m": 30 * RATE}))
    write_cue_sheet(tmp_path / "a.csv", plan, {"m": "=Theme, slow"})
    rows = [*csv.reader((tmp_path / "a.csv").open(encoding="utf-8", newline=""))]
    assert rows[0] == ["number", "title", "begins", "ends", "length"]
    assert rows[1] == ["1", "'=Theme, slow", "0:01.0", "0:06.0", "0:05.0"]
