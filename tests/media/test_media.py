"""Real media: what files hold, their decoded sound, mixing, and exports."""

from __future__ import annotations

import struct
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pysubs2
import pytest
import soundfile
from conftest import DEMO, RATE, tone, write_media
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from jaskel.core.edition import Edition, Piece
from jaskel.core.operations import Strike, apply
from jaskel.core.plan import Feed, Material, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.session import Picture, Session, Track
from jaskel.core.shape import size_in
from jaskel.core.source import Recorded
from jaskel.media.card import draw_card
from jaskel.media.conform import conform
from jaskel.media.graphics import Artist
from jaskel.media.picture import PictureSource, make_thumbnail, make_working_copy
from jaskel.media.probe import MediaInfo, probe
from jaskel.media.render import Tags, film_pictures, write_film, write_mp3, write_wav
from jaskel.media.sound import Shelf, mix, pcm16, wav_bytes

TAGS = Tags("The dry hull", "Ropewalk", "The dry hull")


def code_of(path: Path) -> str:
    with pytest.raises(Problem) as caught:
        probe(path, path.name)
    assert path.name in caught.value.sentence
    return caught.value.code


def conformed(path: Path) -> tuple[Path, MediaInfo, object]:
    info = probe(path, path.name)
    sound = path.with_suffix(".conformed.flac")
    return sound, info, conform(path, info, sound, path.with_suffix(".peaks"))


class TestProbe:
    @pytest.mark.parametrize("suffix", [".wav", ".mp3", ".flac", ".ogg", ".m4a", ".mkv"])
    def test_sound_files_are_read_at_their_full_length(self, tmp_path, suffix):
        path = write_media(tmp_path / f"speech{suffix}", tone(3.0), codec="libopus" if suffix == ".mkv" else "")
        sound, info, done = conformed(path)
        assert info.picture is None
        assert abs(done.length / RATE - 3.0) < 0.08
        assert done.missing == 0
        assert soundfile.info(sound).samplerate == RATE

    @pytest.mark.parametrize("suffix", [".mp4", ".mov", ".mkv"])
    def test_video_tells_its_picture(self, tmp_path, suffix):
        info = probe(write_media(tmp_path / f"film{suffix}", tone(2.0), pictures=50), "film")
        assert (info.picture.width, info.picture.height, info.picture.frame_rate) == (160, 96, 25)

    def test_other_rates_keep_length_and_pitch(self, tmp_path):
        path = write_media(tmp_path / "speech.wav", tone(4.0, 1000, 44_100), rate=44_100)
        sound, _, done = conformed(path)
        assert abs(done.length - 4 * RATE) <= 2
        spectrum = np.abs(np.fft.rfft(soundfile.read(sound)[0]))
        assert abs(np.argmax(spectrum) / 4 - 1000) < 1

    def test_the_sound_lies_where_the_picture_says(self, tmp_path):
        path = write_media(tmp_path / "click.mp4", np.eye(1, 2 * RATE, RATE, dtype=np.float32)[0], pictures=50)
        sound, _info, _done = conformed(path)
        assert abs(int(np.argmax(np.abs(soundfile.read(sound)[0]))) - RATE) < 200

    def test_empty(self, tmp_path):
        (tmp_path / "a.mp4").touch()
        assert code_of(tmp_path / "a.mp4") == "empty"

    def test_text_called_mp4(self, tmp_path):
        (tmp_path / "a.mp4").write_text("this is no film\n" * 400)
        assert code_of(tmp_path / "a.mp4") == "not-media"

    def test_captions_are_not_a_recording(self, tmp_path):
        (tmp_path / "a.srt").write_text("1\n00:00:01,000 --> 00:00:02,000\nhello\n")
        assert code_of(tmp_path / "a.srt") == "not-media"

    def test_picture_without_sound_is_other_video(self, tmp_path):
        info = probe(write_media(tmp_path / "silent.mp4", None, pictures=50), "silent.mp4")
        assert (info.kind, info.has_sound, info.picture.width) == ("video", False, 160)
        assert info.seconds == pytest.approx(2, abs=0.05)

    @pytest.mark.parametrize("ending", ["png", "jpg", "webp"])
    def test_a_still_picture_whatever_it_is_called(self, tmp_path, ending):
        Image.new("RGB", (640, 360), "teal").save(tmp_path / f"a.{ending}")
        info = probe((tmp_path / f"a.{ending}").rename(tmp_path / "harbour.mov"), "harbour.mov")
        assert (info.kind, info.still, info.picture.width, info.picture.height) == ("still", True, 640, 360)

    def test_a_still_is_shown_upright(self, tmp_path):
        exif = Image.Exif()
        exif[0x0112] = 6
        Image.new("RGB", (640, 360)).save(tmp_path / "a.jpg", exif=exif)
        assert probe(tmp_path / "a.jpg", "a.jpg").picture.height == 640
        make_thumbnail(tmp_path / "a.jpg", tmp_path / "a.png")
        assert Image.open(tmp_path / "a.png").size == (360, 640)

    def test_a_codec_that_is_not_there(self, tmp_path):
        path, sound = tmp_path / "strange.wav", bytes(4000)
        form = struct.pack("<HHIIHH", 0x4242, 1, 16_000, 16_000, 1, 8)
        chunks = b"WAVEfmt " + struct.pack("<I", 16) + form + b"data" + struct.pack("<I", len(sound)) + sound
        path.write_bytes(b"RIFF" + struct.pack("<I", len(chunks)) + chunks)
        with pytest.raises(Problem, match=r"is not known here\. Save it as WAV") as told:
            probe(path, path.name)
        assert told.value.code == "no-codec"

    def test_cut_off_before_the_index(self, tmp_path):
        path = write_media(tmp_path / "a.mp4", tone(3), pictures=75)
        path.write_bytes(path.read_bytes()[:4000])
        assert code_of(path) == "cut-off-before-index"

    @pytest.mark.parametrize("suffix", [".wav", ".mkv", ".flac", ".mp3"])
    def test_cut_off_in_the_middle_gives_what_can_be_read(self, tmp_path, suffix):
        path = write_media(tmp_path / f"a{suffix}", tone(6.0), codec="flac" if suffix == ".mkv" else "")
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
        _, _, done = conformed(path)
        assert 1.5 < done.length / RATE < 5
        assert 1.0 < done.missing < 4.5

    def test_damage_in_the_middle_is_passed_over(self, tmp_path):
        path = write_media(tmp_path / "a.mp3", tone(6.0))
        data = bytearray(path.read_bytes())
        data[len(data) // 2 : len(data) // 2 + 3000] = bytes(3000)
        path.write_bytes(data)
        _, _, done = conformed(path)
        assert done.length > 5 * RATE


@pytest.fixture(scope="module")
def spoken(tmp_path_factory) -> tuple[Shelf, int]:
    """Twenty seconds of the demo's speech."""
    folder = tmp_path_factory.mktemp("spoken")
    info = probe(DEMO / "mending-a-sail.mp4", "x")
    done = conform(DEMO / "mending-a-sail.mp4", info, folder / "a.flac", folder / "a.peaks")
    return Shelf(lambda _: folder / "a.flac"), done.length


def edition_of(length: int, *struck: tuple[int, int]) -> Edition:
    edition = Edition.of([Piece(Recorded("a"), 0, length)])
    return apply(edition, Strike(struck))[0] if struck else edition


class TestMix:
    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.tuples(st.integers(0, 900_000), st.integers(1, 90_000)), max_size=8))
    def test_blocks_joined_are_the_export_before_encoding(self, spoken, cuts):
        shelf, _ = spoken
        plan = compile_plan(edition_of(960_000, *((a, a + n) for a, n in cuts)))
        whole = mix(plan, 0, plan.length, shelf.read)
        joined = np.concatenate([mix(plan, b.at, b.until, shelf.read) for b in plan.blocks])
        assert np.array_equal(joined, whole)

    def test_blocks_as_sent_are_the_exported_file(self, spoken, tmp_path):
        shelf, length = spoken
        plan = compile_plan(edition_of(length, (3 * RATE, 4 * RATE), (10 * RATE + 77, 11 * RATE)))
        write_wav(tmp_path / "a.wav", plan, shelf.read, lambda _: None)
        exported, rate = soundfile.read(tmp_path / "a.wav", dtype="float32")
        assert rate == RATE
        assert len(exported) == plan.length
        from io import BytesIO

        sent = [soundfile.read(BytesIO(wav_bytes(mix(plan, b.at, b.until, shelf.read))), dtype="int16")[0] for b in plan.blocks]
        assert np.abs(np.concatenate(sent).astype(int) - pcm16(exported).astype(int)).max() <= 1

    def test_words_beside_a_splice_keep_every_sample(self, spoken):
        shelf, _ = spoken
        cut = (5 * RATE, 6 * RATE)
        plan = compile_plan(edition_of(12 * RATE, cut))
        out = mix(plan, 0, plan.length, shelf.read)
        assert np.array_equal(out[: cut[0]], shelf.read(Feed("a"), 0, cut[0]))
        assert np.array_equal(out[cut[0] + 480 :], shelf.read(Feed("a"), cut[1], 12 * RATE))

    def test_a_splice_makes_no_click(self, tmp_path):
        soundfile.write(tmp_path / "a.flac", tone(10), RATE)
        shelf = Shelf(lambda _: tmp_path / "a.flac")
        plan = compile_plan(edition_of(10 * RATE, (2 * RATE + 13, 3 * RATE + 41)))
        out = mix(plan, 0, plan.length, shelf.read)[:, 0]
        steps = np.abs(np.diff(out))
        assert steps[2 * RATE : 2 * RATE + 600].max() < 1.6 * steps[:RATE].max()


def seen_in(info: MediaInfo, length: int, **track: object) -> Material:
    """One recording with its picture."""
    shown = info.picture
    return Material(
        {"a": Session((Track("a", length, picture=Picture(shown.width, shown.height, shown.frame_rate), **track),))}
    )


def never(_: str) -> Path:
    raise AssertionError("there is no picture here")


class TestExport:
    def test_mp3_carries_its_tags_and_length(self, spoken, tmp_path):
        shelf, _ = spoken
        plan = compile_plan(edition_of(12 * RATE, (RATE, 2 * RATE)))
        write_mp3(tmp_path / "a.mp3", plan, shelf.read, lambda _: None, TAGS)
        with av.open(str(tmp_path / "a.mp3")) as file:
            assert file.metadata["title"] == "The dry hull"
            assert file.metadata["album"] == "Ropewalk"
            assert abs(file.duration / 1e6 - plan.length / RATE) < 0.06

    def test_film_has_the_right_pictures_at_the_right_time(self, tmp_path):
        path = write_media(tmp_path / "film.mp4", tone(8.0), pictures=200)
        sound, info, _done = conformed(path)
        shelf = Shelf(lambda _: sound)
        edition = apply(Edition.of([Piece(Recorded("a"), 0, 8 * RATE)]), Strike(((2 * RATE, 5 * RATE),)))[0]
        plan = compile_plan(edition, seen_in(info, 8 * RATE))
        out = tmp_path / "out.mp4"
        write_film(out, film_pictures(plan, lambda _: path, Artist("T", "S")), shelf.read, lambda _: None, TAGS)
        with av.open(str(out)) as film:
            video, audio = film.streams.video[0], film.streams.audio[0]
            assert (video.width, video.height, video.average_rate) == (160, 96, 25)
            shown = [f.to_ndarray(format="gray").mean() for f in film.decode(video)]
            assert abs(float(audio.duration * audio.time_base) - plan.length / RATE) < 0.05
        assert abs(len(shown) - plan.length * 25 / RATE) <= 1
        source = PictureSource(path)
        for number in (0, 10, 48, 52, 60, 100, 120):
            place = number * RATE // 25
            wanted = place if place < 2 * RATE else place + 3 * RATE - 480
            expected = source.at(Fraction(wanted, RATE)).to_ndarray(format="gray").mean()
            assert abs(shown[number] - expected) < 2.5, number
        source.close()

    @pytest.mark.parametrize(
        ("shape", "size"),
        [("as recorded", (1280, 720)), ("wide", (1280, 720)), ("square", (720, 720)), ("upright", (720, 1280))],
    )
    def test_shapes_keep_the_shorter_side(self, shape, size):
        assert size_in(shape, 1280, 720) == size

    def test_sound_alone_becomes_a_film_of_its_card(self, spoken, tmp_path):
        shelf, _ = spoken
        plan = compile_plan(edition_of(2 * RATE))
        title = "A very long title that has to be broken into several lines to fit"
        card = draw_card(title, "Ropewalk", (1280, 720))
        film = film_pictures(plan, never, Artist(title, "Ropewalk"))
        write_film(tmp_path / "a.mp4", film, shelf.read, lambda _: None, TAGS)
        with av.open(str(tmp_path / "a.mp4")) as film:
            first = next(film.decode(video=0)).to_ndarray(format="rgb24")
        assert np.abs(first.astype(int) - np.asarray(card).astype(int)).mean() < 6

    def test_the_working_copy_is_light_and_in_step(self, tmp_path):
        path = write_media(tmp_path / "film.mp4", tone(4.0), pictures=100)
        info = probe(path, "film")
        make_working_copy(path, info.picture, 4 * RATE, tmp_path / "copy.mp4")
        original, copy = PictureSource(path), PictureSource(tmp_path / "copy.mp4")
        for second in (0, 1, 2.48, 3.5, 0.5):
            a, b = (s.at(Fraction(second).limit_denominator(1000)).to_ndarray(format="gray").mean() for s in (original, copy))
            assert abs(a - b) < 3
        original.close()
        copy.close()


def test_captions_are_read_by_others(tmp_path):
    from jaskel.core.captions.cues import Cue
    from jaskel.media.captions.about import About
    from jaskel.media.captions.files import CAPTION_FORMS

    cues = [Cue(0, RATE, ("Hello,", "I am Ines.")), Cue(RATE, 3 * RATE, ("Ünïcode → ok",))]
    for form in ("srt", "vtt"):
        CAPTION_FORMS[form].write(tmp_path / f"a.{form}", cues, About())
        read = pysubs2.load(str(tmp_path / f"a.{form}"))
        assert [(e.start, e.end, e.plaintext) for e in read] == [(0, 1000, "Hello,\nI am Ines."), (1000, 3000, "Ünïcode → ok")]
