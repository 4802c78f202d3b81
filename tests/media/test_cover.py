"""Covers inside files, read back by another library and by FFmpeg; the sound is the same with and without."""

from __future__ import annotations

import base64
from io import BytesIO

import av
import numpy as np
import pytest
import soundfile
from conftest import RATE
from mutagen.flac import FLAC, Picture
from mutagen.id3 import ID3
from mutagen.mp4 import MP4
from mutagen.oggopus import OggOpus
from PIL import Image
from test_forms_of_sound import SECONDS, quiet, read

from jaskel.core.edition import Edition, Piece
from jaskel.core.plan import Material, compile_plan
from jaskel.core.source import Recorded
from jaskel.media.cover import SIDE, draw_cover
from jaskel.media.graphics import Artist
from jaskel.media.render import Tags, write_compressed, write_flac

COVER = draw_cover(Artist("The dry hull", "Ropewalk"))
TAGS = Tags("The dry hull", "Ropewalk", "The dry hull", cover=COVER)


def test_the_cover_is_a_square_picture():
    picture = Image.open(BytesIO(COVER))
    assert (picture.format, picture.size) == ("JPEG", (SIDE, SIDE))
    assert len(picture.resize((40, 40)).getcolors(1600)) > 5  # something is written on it


def inside(path):
    """The cover of a file."""
    match path.suffix:
        case ".mp3":
            (picture,) = ID3(path).getall("APIC")
            assert picture.type == 3 or picture.type == 0
            return picture.data
        case ".m4a":
            return bytes(MP4(path)["covr"][0])
        case ".flac":
            return FLAC(path).pictures[0].data
        case ".opus":
            return Picture(base64.b64decode(OggOpus(path)["metadata_block_picture"][0])).data


def write(path, tags):
    plan = compile_plan(Edition((Piece(Recorded("a"), 0, SECONDS * RATE),)), Material())
    if path.suffix == ".flac":
        write_flac(path, plan, read, quiet, tags)
    else:
        write_compressed(path, path.suffix, plan, read, quiet, tags)


def sound(path):
    with av.open(str(path)) as container:
        return np.concatenate([frame.to_ndarray().reshape(-1) for frame in container.decode(audio=0)])


@pytest.mark.parametrize("ending", [".mp3", ".m4a", ".flac", ".opus"])
def test_files_carry_their_cover_and_sound_the_same(tmp_path, ending):
    with_cover, without = tmp_path / f"a{ending}", tmp_path / f"b{ending}"
    write(with_cover, TAGS)
    write(without, Tags("The dry hull", "Ropewalk", "The dry hull"))
    assert inside(with_cover) == COVER
    assert np.array_equal(sound(with_cover), sound(without))
    with av.open(str(with_cover)) as container:
        assert container.metadata.get("title", container.streams.audio[0].metadata.get("title")) == "The dry hull"
        assert container.duration / 1e6 == pytest.approx(SECONDS, abs=0.1)


def test_flac_stays_what_it_was(tmp_path):
    write(tmp_path / "a.flac", TAGS)
    info = soundfile.info(tmp_path / "a.flac")
    assert (info.subtype, info.samplerate, info.frames) == ("PCM_24", RATE, SECONDS * RATE)


def test_players_take_m4a_for_sound(tmp_path):
    write(tmp_path / "a.m4a", TAGS)
    assert (tmp_path / "a.m4a").read_bytes()[8:12] == b"M4A "
