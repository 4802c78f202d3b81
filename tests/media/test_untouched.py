"""Pictures that nothing touches are copied, and a film shows the same picture by picture, whatever the original is like."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
from conftest import RATE, tone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.camera import set_grade
from jaskel.core.operations import Strike, apply
from jaskel.core.picture.grade import Grade
from jaskel.core.plan import Material, Plan, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.source import Recorded
from jaskel.core.timebase import frame_count
from jaskel.media.captions.drawn import Overlay
from jaskel.media.graphics import Artist
from jaskel.media.render import CODINGS, Tags, film_pictures, write_film
from jaskel.media.sound import Shelf
from jaskel.media.untouched import copies_in, footage_of

SIZE = 160, 96
BITS = 10
TAGS = Tags("T", "S", "E")
AS_CAMERAS_DO = {"crf": "30", "g": "12", "bf": "2"}


def numbered(number: int, size: tuple[int, int] = SIZE) -> np.ndarray:
    """A picture that holds its own number, as black and white fields that any encoder leaves readable."""
    wide, high = size
    fields = np.array([[number >> bit & 1 for bit in range(BITS)]], np.uint8) * 200 + 28
    return np.repeat(np.repeat(fields, wide // BITS, axis=1), high, axis=0)


def number_in(picture: np.ndarray) -> int:
    """The number that a picture holds."""
    wide = picture.shape[1] // BITS
    fields = [picture[:, wide * bit + 3 : wide * (bit + 1) - 3].mean() > 128 for bit in range(BITS)]
    return sum(int(field) << bit for bit, field in enumerate(fields))


def filmed(
    path: Path,
    count: int = 150,
    options: dict[str, str] = AS_CAMERAS_DO,
    rate: Fraction = Fraction(25),
    times: list[float] | None = None,
    form: str = "mp4",
    grain: int = 0,
) -> Path:
    """A film of pictures that hold their numbers."""
    rng = np.random.default_rng(0)
    with av.open(str(path), "w", format=form) as out:
        video = out.add_stream("libx264", rate=rate, options=dict(options))
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p"
        if times:
            video.codec_context.time_base = Fraction(1, 1000)
        for number in range(count):
            picture = numbered(number) + rng.integers(0, grain + 1, (SIZE[1], SIZE[0]), np.uint8)
            frame = av.VideoFrame.from_ndarray(picture, "gray").reformat(format="yuv420p")
            frame.pts, frame.time_base = (round(times[number] * 1000), Fraction(1, 1000)) if times else (number, 1 / rate)
            out.mux(video.encode(frame))
        out.mux(video.encode())
    return path


def planned(
    cuts: list[tuple[float, float]], seconds: float = 6.0, rate: Fraction = Fraction(25), grade: Grade | None = None
) -> Plan:
    length = round(seconds * RATE)
    edition = Edition.of([Piece(Recorded("a"), 0, length)])
    if cuts:
        edition = apply(edition, Strike(tuple((round(a * RATE), round(b * RATE)) for a, b in cuts)))[0]
    if grade:
        edition = replace(edition, marks=edition.marks.changed(set_grade(edition.marks, "a", grade)))
    return compile_plan(edition, Material({"a": Session((Track("a", length, picture=Picture(*SIZE, rate)),))}))


def pictures_of(path: Path) -> list[np.ndarray]:
    with av.open(str(path)) as film:
        return [frame.to_ndarray(format="yuv420p")[: SIZE[1]] for frame in film.decode(video=0)]


@pytest.fixture(scope="module")
def sound(tmp_path_factory):
    path = tmp_path_factory.mktemp("sound") / "mic.flac"
    soundfile.write(path, tone(20), RATE, format="FLAC")
    return Shelf(lambda _: path).read


def written(out: Path, plan: Plan, original: Path, sound, form: str = "mp4", quality="best") -> list[np.ndarray]:
    film = film_pictures(plan, lambda _: original, Artist("T", "S"), CODINGS[form], quality)
    write_film(out, film, sound, lambda _: None, TAGS, coding=CODINGS[form])
    return pictures_of(out)


def check(tmp_path: Path, plan: Plan, original: Path, sound, form: str = "mp4") -> int:
    """Write a film with what can be copied and another without; both show the same. Gives how many pictures were copied."""
    copies = copies_in(plan, lambda _: original, "best")
    copied = written(tmp_path / "copied", plan, original, sound, form)
    encoded = written(tmp_path / "encoded", plan, original, sound, "webm")
    assert [*map(number_in, copied)] == [*map(number_in, encoded)]
    assert len(copied) == frame_count(plan.length, plan.frame.rate)
    # What is copied is what the original shows, to the bit.
    filmed = {number_in(picture): picture for picture in pictures_of(original)}
    for number in copies.numbers:
        assert np.array_equal(copied[number], filmed[number_in(copied[number])]), number
    with av.open(str(tmp_path / "copied")) as film:
        times = [frame.pts * frame.time_base for frame in film.decode(video=0)]
        steps = np.diff([float(at) for at in times])
        assert np.abs(steps - float(1 / plan.frame.rate)).max() < 0.0011  # Matroska counts in milliseconds
    return len(copies.numbers)


class TestCopied:
    @pytest.mark.parametrize("form", ["mp4", "mov", "mkv"])
    def test_between_joins_pictures_are_copied_to_the_bit(self, tmp_path, sound, form):
        original = filmed(tmp_path / "a.mp4")
        assert check(tmp_path, planned([(1.3, 2.1), (4.0, 4.5)]), original, sound, form) > 50

    def test_a_film_that_nothing_touches_is_copied_whole(self, tmp_path, sound):
        assert check(tmp_path, planned([]), filmed(tmp_path / "a.mp4"), sound) == 150

    @pytest.mark.parametrize("form", ["matroska", "mov", "mpegts"])
    def test_from_whatever_holds_them(self, tmp_path, sound, form):
        original = filmed(tmp_path / "a", form=form)
        copied = check(tmp_path, planned([(1.3, 2.1)]), original, sound)
        assert (copied > 50) == (form != "mpegts")  # which has its parameter sets in the stream

    @pytest.mark.parametrize(
        "options",
        [
            {"x264-params": "open-gop=1:keyint=12:bframes=3"},
            {"g": "12", "bf": "5", "x264-params": "b-pyramid=normal:ref=5"},
            {"g": "12", "profile": "baseline"},
            {"g": "12", "profile": "main", "x264-params": "sps-id=1"},
            {"g": "1"},
            {"g": "12", "x264-params": "intra-refresh=1"},
            {"g": "500"},
        ],
    )
    def test_however_they_were_compressed(self, tmp_path, sound, options):
        check(tmp_path, planned([(0.9, 1.7), (3.1, 3.2)]), filmed(tmp_path / "a.mp4", options={"crf": "30"} | options), sound)

    def test_pictures_that_come_at_uneven_times(self, tmp_path, sound):
        """As phones film: some pictures are shown twice, some never. What is copied shows each once."""
        rng = np.random.default_rng(2)
        times = np.cumsum(np.where(np.arange(150) % 50 < 30, 0.04, rng.uniform(0.02, 0.06, 150)))
        original = filmed(tmp_path / "a.mp4", times=[*times])
        assert check(tmp_path, planned([(1.3, 2.1)], seconds=5), original, sound) > 10

    @pytest.mark.parametrize("rate", [Fraction(24000, 1001), Fraction(30000, 1001), Fraction(50)])
    def test_at_other_rates(self, tmp_path, sound, rate):
        original = filmed(tmp_path / "a.mp4", rate=rate)
        assert check(tmp_path, planned([(0.6, 1.05)], seconds=150 / float(rate) - 0.1, rate=rate), original, sound) > 50

    @settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
    @given(st.lists(st.tuples(st.floats(0.1, 5), st.floats(0.05, 0.8)), min_size=1, max_size=6), st.integers(2, 40))
    def test_wherever_the_joins_are(self, tmp_path, sound, cuts, distance):
        original = filmed(tmp_path / "a.mp4", options={"crf": "30", "g": str(distance)})
        check(tmp_path, planned([(at, min(5.9, at + length)) for at, length in cuts]), original, sound)


class TestEncoded:
    """What is touched is never copied."""

    def test_where_something_lies_over_them(self, tmp_path):
        original = filmed(tmp_path / "a.mp4")
        copies = copies_in(planned([]), lambda _: original, "best", [(2 * RATE, 3 * RATE)])
        assert copies.numbers
        assert not copies.numbers & {*range(50, 75)}

    def test_captions_cover_as_long_as_they_are_seen(self):
        screen = object()
        overlay = Overlay([(10, screen), (20, None), (40, screen), (50, None)], None)  # type: ignore[list-item, arg-type]
        assert overlay.ranges == [(10, 20), (40, 50)]

    def test_pictures_with_other_levels(self, tmp_path):
        assert not copies_in(planned([], grade=Grade(exposure=0.5)), lambda _: filmed(tmp_path / "a.mp4"), "best")

    def test_a_small_film_and_one_of_too_many_bits(self, tmp_path):
        fine = filmed(tmp_path / "a.mp4", options={"crf": "2", "g": "12"}, grain=20)
        assert copies_in(planned([]), lambda _: fine, "best")
        assert not copies_in(planned([]), lambda _: fine, "good")
        small = filmed(tmp_path / "b.mp4")
        assert copies_in(planned([]), lambda _: small, "good")
        assert not copies_in(planned([]), lambda _: small, "small")

    def test_pictures_of_another_size_or_kind(self, tmp_path):
        original = filmed(tmp_path / "a.mp4")
        frame = planned([]).frame
        assert footage_of(original, frame)
        assert not footage_of(original, replace(frame, width=80))
        assert not footage_of(tmp_path / "none.mp4", frame)
        (tmp_path / "text").write_text("no film")
        assert not footage_of(tmp_path / "text", frame)

    def test_of_two_cameras_whose_sets_do_not_go_together_the_longer_is_copied(self, tmp_path, sound):
        """Each calls its own parameter sets by the same number: one decoder cannot have both."""
        one = filmed(tmp_path / "one.mp4")
        two = filmed(tmp_path / "two.mp4", options={"crf": "30", "g": "12", "x264-params": "ref=1:cabac=0"})
        pieces = [Piece(Recorded("a"), 0, 2 * RATE), Piece(Recorded("b"), 0, 4 * RATE)]
        known = {name: Session((Track(name, 6 * RATE, picture=Picture(*SIZE, Fraction(25))),)) for name in "ab"}
        plan = compile_plan(Edition.of(pieces), Material(known))
        files = {"a": one, "b": two}
        copies = copies_in(plan, files.__getitem__, "best")
        assert {each.footage.path for each in copies.copies} == {two}
        artist, shown = Artist("T", "S"), []
        for form in ("mp4", "webm"):
            out = tmp_path / f"out.{form}"
            film = film_pictures(plan, files.__getitem__, artist, CODINGS[form], "best")
            write_film(out, film, sound, lambda _: None, TAGS, coding=CODINGS[form])
            shown.append([*map(number_in, pictures_of(out))])
        assert shown[0] == shown[1]
