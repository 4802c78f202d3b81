"""A film whose pictures others made in parts is the film that is made in a row."""

from __future__ import annotations

from fractions import Fraction

import av
import pytest
import soundfile
from conftest import RATE, assert_same_film, tone
from test_cameras import film

from jaskel.core.edition import Edition, Piece
from jaskel.core.plan import Material, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.media import film_pictures as parted
from jaskel.media.film_pictures import packets_of
from jaskel.media.graphics import Artist
from jaskel.media.picture import PictureSource
from jaskel.media.render import CODINGS, Tags, film_pictures, write_film
from jaskel.media.sound import Shelf

TAGS = Tags("T", "S", "T")
SECONDS = 6


@pytest.fixture(autouse=True)
def short_parts(monkeypatch):
    """Four parts of two seconds or less, the last of them short."""
    monkeypatch.setattr(parted, "PART", 2 * RATE)


@pytest.fixture
def filmed(tmp_path):
    return film(
        tmp_path / "cam.mp4", [n / 25 for n in range(25 * SECONDS + 10)], levels=[20 + n for n in range(25 * SECONDS + 10)]
    )


@pytest.fixture
def read(tmp_path):
    soundfile.write(tmp_path / "mic.flac", tone(SECONDS + 1), RATE, format="FLAC")
    return Shelf(lambda _: tmp_path / "mic.flac").read


def plan_of(*stretches):
    pieces = tuple(Piece(Recorded("s"), begin * RATE // 10, end * RATE // 10) for begin, end in stretches)
    picture = Picture(160, 96, Fraction(25))
    return compile_plan(Edition(pieces), Material({"s": Session((Track("a", (SECONDS + 1) * RATE, picture=picture),))}))


def both(tmp_path, plan, original, read, form, quality="small"):
    """The same film made in a row, and put together of parts that were made apart, the last of them first."""
    coding = CODINGS[form]

    def pictures():
        return film_pictures(plan, lambda _: original, Artist("T", "S"), coding, quality)

    write_film(tmp_path / "row", pictures(), read, lambda _: None, TAGS, coding=coding)
    files = {}
    for number, part in reversed([*enumerate(pictures().parts)]):
        if number != 1 and pictures().encodes(part):  # this one is made by who puts them together
            files[number] = tmp_path / f"part-{number}"
            pictures().write_part(part, files[number], lambda _: None)
    write_film(tmp_path / "parts", pictures(), read, lambda _: None, TAGS, coding=coding, elsewhere=files.get)
    return tmp_path / "row", tmp_path / "parts"


@pytest.mark.parametrize("form", ["mp4", "mkv", "mov", "webm", "av1"])
def test_it_is_the_same(tmp_path, filmed, read, form):
    row, parts = both(tmp_path, plan_of((0, 23), (30, 61)), filmed, read, form)
    assert_same_film(row, parts)
    with av.open(str(row)) as file:
        times = [round(picture.time * 25) for picture in file.decode(video=0)]
    assert times == [*range(len(times))] and len(times) == round(5.41 * 25)


def test_what_is_copied_lies_between_parts(tmp_path, filmed, read):
    plan = plan_of((0, 65))
    assert film_pictures(plan, lambda _: filmed, Artist("T", "S"), quality="best").copies
    row, parts = both(tmp_path, plan, filmed, read, "mp4", "best")
    assert_same_film(row, parts)


def test_what_is_copied_as_a_whole_is_no_part_for_others(filmed):
    pictures = film_pictures(plan_of((0, 65)), lambda _: filmed, Artist("T", "S"), quality="best")
    assert [pictures.encodes(part) for part in pictures.parts] == [False, False, False, True]


def test_each_part_begins_with_a_key_picture_and_says_which_pictures_it_has(tmp_path, filmed):
    pictures = film_pictures(plan_of((0, 55)), lambda _: filmed, Artist("T", "S"), quality="small")
    part = pictures.parts[1]
    pictures.write_part(part, tmp_path / "part", lambda _: None)
    packets = [*packets_of(tmp_path / "part", part, Fraction(25))]
    assert packets[0].is_keyframe and sorted(each.pts for each in packets) == [*part]


def test_what_comes_later_than_it_was_filmed_is_read_in_order(tmp_path, filmed, read, monkeypatch):
    """Encoders number pictures anew, which says nothing of where they were filmed."""
    jumps, jump = [], PictureSource._jump
    monkeypatch.setattr(PictureSource, "_jump", lambda self, wanted: (jumps.append(wanted), jump(self, wanted)))
    pictures = film_pictures(plan_of((40, 55), (0, 40)), lambda _: filmed, Artist("T", "S"), quality="small")
    write_film(tmp_path / "film.mp4", pictures, read, lambda _: None, TAGS)
    assert len(jumps) <= 2 * len(pictures.parts)


def test_what_is_seen_tells_films_apart(filmed):
    def seen(plan, quality="small"):
        return repr(film_pictures(plan, lambda _: filmed, Artist("T", "S"), quality=quality).seen)

    plan = plan_of((0, 55))
    assert seen(plan) == seen(plan_of((0, 55)))
    assert len({seen(plan), seen(plan_of((0, 54))), seen(plan, "good")}) == 3
