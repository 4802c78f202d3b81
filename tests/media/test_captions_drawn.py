"""Captions on the picture: drawn the same for the monitor and for films, within the safe area, in every script."""

from __future__ import annotations

from dataclasses import replace

import av
import numpy as np
import pytest
from PIL import Image

from jaskel.core.captions.cues import cues
from jaskel.core.captions.look import LOOKS, Look
from jaskel.core.captions.rules import USUAL, Rules
from jaskel.core.captions.screens import Screen, Shown, screens
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.media.captions.drawn import Overlay, Renderer, safe_area
from jaskel.media.typefaces import FAMILIES, Typefaces, shipped

SIZES = [(1280, 720), (720, 720), (720, 1280), (320, 180)]


def spoken(text: str, pace: float = 0.4) -> list[ProgrammeWord]:
    """Words said one after the other, so many seconds each."""
    found = []
    for number, part in enumerate(text.split()):
        start, end = round(number * pace * RATE), round((number + 0.9) * pace * RATE)
        found.append(ProgrammeWord(Word(part, start, end), start, end))
    return found


def moments(text: str, look: Look, rules: Rules = USUAL):
    words = spoken(text)
    return [*screens(cues(words, words[-1].end + RATE, rules, usual=look))]


def still(text: str, look: Look) -> Screen:
    return next(screen for _, screen in moments(text, replace(look, move="still")) if screen)


TEXT = "A boat that stays out of the water all winter is a boat that is dying, slowly and from the inside."


@pytest.mark.parametrize("look", LOOKS, ids=lambda look: look.name)
@pytest.mark.parametrize("size", SIZES, ids=lambda size: f"{size[0]}x{size[1]}")
def test_every_look_stays_in_the_safe_area_of_every_shape(look, size):
    width, height = size
    renderer, safe = Renderer(width, height), safe_area(width, height)
    for _, screen in moments(TEXT, look):
        if screen and (drawing := renderer.draw(screen)):
            rows, columns = np.nonzero(drawing.pixels[:, :, 3] > 128)
            if not len(rows):
                continue
            # Outlines and what grows reach a little beyond the letters.
            reach = 0.012 * max(size) + 2
            assert drawing.x + columns.min() >= width * safe.sides / 100 - reach
            assert drawing.x + columns.max() <= width * (1 - safe.sides / 100) + reach
            assert drawing.y + rows.min() >= height * safe.top / 100 - reach
            assert drawing.y + rows.max() <= height * (1 - safe.bottom / 100) + reach


@pytest.mark.parametrize("look", LOOKS, ids=lambda look: look.name)
def test_what_the_monitor_shows_is_what_a_film_has(look):
    """The drawing over a picture in the colours of a screen, against the same blended into the planes of a film."""
    rng = np.random.default_rng(4)
    coarse = Image.fromarray(rng.integers(30, 220, (9, 16, 3), np.uint8))
    picture = np.asarray(coarse.resize((640, 360), Image.Resampling.BICUBIC))
    renderer, made = Renderer(640, 360), moments(TEXT, look)
    overlay = Overlay(made, Renderer(640, 360))
    compared = 0
    for number in range(40):
        at = number * RATE // 5
        frame = av.VideoFrame.from_ndarray(picture, "rgb24").reformat(format="yuv420p")
        film = overlay.over(frame, at).to_ndarray(format="rgb24")
        screen = next((each for place, each in reversed(made) if place <= at), None)
        drawing = renderer.draw(screen) if screen else None
        plain = Image.fromarray(frame.to_ndarray(format="rgb24"))
        monitor = np.asarray(drawing.over(plain) if drawing else plain)
        compared += drawing is not None
        assert alike(film, monitor) >= 0.97
    assert compared > 20


def alike(one: np.ndarray, other: np.ndarray) -> float:
    """Structural similarity of the brightness, in windows of 7 by 7 (Wang et al., 2004)."""
    from scipy.ndimage import uniform_filter

    a, b = (np.asarray(Image.fromarray(each).convert("L"), float) for each in (one, other))
    mean = lambda x: uniform_filter(x, 7)  # noqa: E731
    ma, mb = mean(a), mean(b)
    va, vb, cov = mean(a * a) - ma * ma, mean(b * b) - mb * mb, mean(a * b) - ma * mb
    c1, c2 = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    return float((((2 * ma * mb + c1) * (2 * cov + c2)) / ((ma * ma + mb * mb + c1) * (va + vb + c2))).mean())


def ink(screen: Screen, width: int = 640, height: int = 360) -> tuple[np.ndarray, int]:
    """How much is drawn in each column, and where the first of them stands."""
    drawing = Renderer(width, height).draw(screen)
    return (drawing.pixels[:, :, 3] > 100).sum(axis=0), drawing.x


PLAIN = Look(box="none", move="mark", easing="none", accent="#ff0000", colour="#ffffff")


def centre_of(colour: str, screen: Screen) -> float:
    """The middle column of what is drawn in a colour."""
    drawing = Renderer(640, 360).draw(screen)
    wanted = np.array([int(colour[at : at + 2], 16) for at in (1, 3, 5)])
    near = (np.abs(drawing.pixels[:, :, :3].astype(int) - wanted).max(axis=2) < 40) & (drawing.pixels[:, :, 3] > 128)
    return float(np.nonzero(near)[1].mean()) + drawing.x


def marked(texts: list[str], number: int, look: Look = PLAIN) -> Screen:
    line = tuple(Shown(text, accent=float(at == number)) for at, text in enumerate(texts))
    return Screen((line,), (tuple(at > 0 for at in range(len(texts))),), look)


def test_hebrew_is_read_from_the_right_and_english_within_it_from_the_left():
    texts = ["שלום", "from", "Tarn", "Hythe", "חברים"]
    places = [centre_of("#ff0000", marked(texts, number)) for number in range(len(texts))]
    assert places[0] > places[3] > places[2] > places[1] > places[4]


def test_english_is_read_from_the_left_and_arabic_within_it_from_the_right():
    texts = ["We", "say", "صباح", "الخير", "here"]
    places = [centre_of("#ff0000", marked(texts, number)) for number in range(len(texts))]
    assert places[0] < places[1] < places[3] < places[2] < places[4]


def test_japanese_has_no_spaces_between_its_words():
    (line,) = cues(spoken("船は 水に 戻る。"), 3 * RATE)
    assert line.lines == ("船は水に戻る。",)
    assert [part.spaced for part in line.parts[0]] == [False, False, False]


@pytest.mark.parametrize(
    "text",
    [
        "Žižek and Łódź",
        "Ωμέγα",
        "Щука",
        "नमस्ते",
        "สวัสดี",
        "გამარჯობა",
        "Բարեւ",
        "你好",
        "こんにちは",
        "안녕하세요",
        "مرحبا",
        "שלום",
    ],
)
def test_every_script_has_letters_in_every_family(text):
    """No empty box stands for a letter: what is drawn differs from what is drawn for letters nobody has."""
    for family in FAMILIES:
        runs = Typefaces().runs(text, family, 40, 600)
        assert "".join(part for part, _ in runs) == text
        for part, font in runs:
            for letter in part:
                missing = bytes(font.getmask("\U0010fffd"))
                assert not letter.strip() or bytes(font.getmask(letter)) != missing, (family, letter)


def test_at_least_eight_families_ship_and_each_is_there():
    assert len(FAMILIES) >= 8 and all(shipped(family) for family in FAMILIES)


def test_a_line_that_is_too_wide_is_set_smaller():
    wide = still("Donaudampfschifffahrtsgesellschaftskapitänsmütze " * 2, Look(size=12, characters=100))
    columns, left = ink(wide)
    inked = np.nonzero(columns)[0] + left
    assert inked.min() >= 640 * 0.05 - 2 and inked.max() <= 640 * 0.95 + 2


class TestMovement:
    def test_words_are_marked_from_when_they_are_said_never_earlier(self):
        look = Look(move="mark", easing="gentle")
        words = spoken(TEXT)
        for at, screen in moments(TEXT, look):
            for line in screen.lines if screen else ():
                for shown in line:
                    if shown.accent > 0:
                        starts = [each.start for each in words if each.word.text == shown.text]
                        assert min(starts) <= at

    def test_words_appear_one_by_one_and_stay(self):
        counts = []
        for _, screen in moments("One two three four", Look(move="word by word", easing="none")):
            if screen:
                counts.append(sum(shown.opaque > 0 for line in screen.lines for shown in line))
        assert counts == sorted(counts) and counts[0] == 1 and counts[-1] == 4

    def test_a_movement_comes_in_steps_and_is_over_within_160_ms(self):
        times = [at for at, screen in moments("Once", Look(move="appear", easing="even")) if screen]
        assert len(times) == 4 and times[-1] - times[0] <= 0.16 * RATE

    def test_nothing_is_drawn_between_captions(self):
        made = moments("First one. ", Look())
        assert made[-1][1] is None
