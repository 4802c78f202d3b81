"""Sounds that are no words: what a caption names, and laughter that was written as words."""

from __future__ import annotations

import numpy as np
import pytest

from jaskel.speech.align import TimedWord
from jaskel.speech.recognise import RATE_16K
from jaskel.speech.sounds import kind_of, with_sounds


class Captions:
    """A recogniser that names every sound alike, and remembers what it was asked about."""

    def __init__(self, name: str) -> None:
        self.name, self.asked = name, []

    def captions_of(self, sounds):
        self.asked += [len(sound) / RATE_16K for sound in sounds]
        return [self.name] * len(sounds)


def sound(seconds: float, *loud: tuple[float, float]) -> np.ndarray:
    made = np.random.default_rng(1).standard_normal(round(seconds * RATE_16K)).astype(np.float32)
    level = np.full(len(made), 1e-3, np.float32)
    for start, end in loud:
        level[round(start * RATE_16K) : round(end * RATE_16K)] = 0.1
    return made * level


def words(text: str, start: float, each: float = 0.17, probability: float = 0.95) -> list[TimedWord]:
    return [TimedWord(w, start + i * each, start + (i + 1) * each - 0.02, probability) for i, w in enumerate(text.split())]


@pytest.mark.parametrize(
    ("caption", "kind"),
    [
        (" (laughs)", "laughter"),
        (" *chuckles*", "laughter"),
        (" Ha ha ha!", "laughter"),
        (" HAHAHA", "laughter"),
        (" [APPLAUSE]", "applause"),
        (" (upbeat music)", "music"),
        (" ♪", "music"),
        (" (coughing)", "cough"),
        (" [BLANK_AUDIO]", None),
        (" (wind blowing)", None),
        (" The music was loud.", None),
        (" .", None),
    ],
)
def test_what_a_caption_names(caption, kind):
    assert kind_of(caption) == kind


class TestBetweenWords:
    def test_what_is_heard_between_words_is_named_where_it_is(self):
        said = [*words("it is a wet dog", 0.5, 0.3), *words("and so on", 5, 0.3)]
        found = with_sounds(sound(7, (0.5, 2), (3, 4.2), (5, 5.9)), said, Captions(" (laughs)"))
        assert [word.text for word in found] == [*["it", "is", "a", "wet", "dog"], "[laughter]", "and", "so", "on"]
        laughter = found[5]
        assert (laughter.start, laughter.end) == pytest.approx((3, 4.2), abs=0.03)

    def test_speech_and_silence_are_not_asked_about(self):
        recogniser = Captions(" (laughs)")
        said = words("all of it is said", 0.5, 0.3)
        assert with_sounds(sound(6, (0.5, 2)), said, recogniser) == said
        assert recogniser.asked == []

    def test_a_note_or_a_clap_is_not_worth_a_word(self):
        said = words("it is a wet dog", 0.5, 0.3)
        for name in (" (music)", " (applause)"):
            assert with_sounds(sound(6, (0.5, 2), (3, 3.6)), said, Captions(name)) == said

    def test_music_that_goes_on_is_heard_in_parts(self):
        recogniser = Captions(" [Music]")
        found = with_sounds(sound(45, (0, 45)), [], recogniser)
        assert {word.text for word in found} == {"[music]"}
        assert found[-1].end == pytest.approx(45, abs=0.1)
        assert max(recogniser.asked) < 30


class TestLaughterInWords:
    @pytest.mark.parametrize("heard", ["ha ha ha ha", "what's up what's up what's up", "come come come come come"])
    def test_it_is_laughter_where_the_recogniser_does_not_believe_it(self, heard):
        doubted = words(heard, 2)
        doubted[0] = TimedWord(doubted[0].text, doubted[0].start, doubted[0].end, 0.05)
        said = [*words("a wet dog", 0.5, 0.3), *doubted, *words("he said", 5, 0.3)]
        found = with_sounds(sound(7, (0.5, 1.4), (2, 3.1), (5, 5.6)), said, Captions(" ."))
        assert [word.text for word in found] == ["a", "wet", "dog", "[laughter]", "he", "said"]

    def test_what_is_said_again_and_again_stays(self):
        said = words("no no no no it is round and round and round", 0.5, 0.22)
        assert with_sounds(sound(5, (0.5, 3)), said, Captions(" .")) == said

    def test_what_is_said_slowly_stays(self):
        said = words("well well well then", 0.5, 0.6, probability=0.2)
        assert with_sounds(sound(5, (0.5, 3)), said, Captions(" .")) == said
