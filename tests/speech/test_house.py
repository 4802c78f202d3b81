"""House spellings against words as a recogniser mishears them, with the sounds of the real dictionary."""

from __future__ import annotations

import pytest

from jaskel.core.spellings import Spelling
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.speech.house import house, mended
from jaskel.speech.recognise import HeardWord

NAMES = ("Ropewalk", "Tarn Hythe", "Orla Venn", "Teo Marsh", "Ines Calder", "Heron", "larch")
# Made up, and spoken in none of the sentences below.
OTHERS = ("Marlow Quint", "Brackwater", "Kelda Moor", "Skerry", "Wick Sound", "Zennor", "Jory Blane", "Corran Vale", "gunwale")


def words(text: str, confidence: float = 0.9) -> list[Word]:
    return [Word(t, i * RATE // 2, i * RATE // 2 + RATE // 3, confidence) for i, t in enumerate(text.split())]


def read(text: str, names=NAMES, confidence: float = 0.9, heard: dict[str, tuple[str, ...]] | None = None) -> str:
    known = house([Spelling(name, (heard or {}).get(name, ())) for name in names])
    said = [word.text for word in words(text)]
    for mending in reversed(known.mendings(words(text, confidence))):
        if mending.sure:
            said[mending.first : mending.last] = [mending.text]
    return " ".join(said)


class TestMending:
    @pytest.mark.parametrize(
        ("misheard", "right"),
        [
            ("welcome to Rope Walk, stories", "welcome to Ropewalk, stories"),
            ("the boatyard in Tarnhyth. Come", "the boatyard in Tarn Hythe. Come"),
            ("I am Orlah Ven and", "I am Orla Venn and"),
            ("with me is Teoh Marsh, the", "with me is Teo Marsh, the"),
            ("Hello, Ines Kalder here", "Hello, Ines Calder here"),
            ("that is Tarnhyth's harbour", "that is Tarn Hythe's harbour"),
        ],
    )
    def test_names_are_put_right(self, misheard, right):
        assert read(misheard) == right

    @pytest.mark.parametrize(
        "text",
        [
            "I left her on the slip all winter",
            "the march of time is slow",
            "a large plank and a lark above it",
            "turn hide and go to the mash",
            "the boat had a torn height and a rope walked away",
        ],
    )
    def test_ordinary_words_that_resemble_them_are_left_alone(self, text):
        assert read(text) == text

    def test_names_nobody_says_change_nothing(self):
        text = "Welcome to Roplock, stories from Tarnife. I am Orla Venn, with Teoh Marsh, the shipwright of our harbor."
        assert read(text, OTHERS) == text

    def test_what_it_is_known_to_be_misheard_as(self):
        heard = {"Ropewalk": ("rope lock", "Roplock")}
        assert read("this was rope lock from", heard=heard) == "this was Ropewalk from"
        assert read("this was Roplock. Come", heard=heard) == "this was Ropewalk. Come"

    def test_a_sentence_may_begin_with_a_term(self):
        assert read("Larch is soft.") == "Larch is soft."

    def test_names_heard_right_stay(self):
        assert house([Spelling(name) for name in NAMES]).mendings(words("I am Orla Venn of Tarn Hythe")) == []


class TestProposing:
    def test_what_is_less_sure_becomes_an_unsure_word(self):
        known = house([Spelling("Heron")])
        heard = [HeardWord(text, i * 0.5, i * 0.5 + 0.3, 0.95) for i, text in enumerate(["put", "her", "on", "it"])]
        assert [word.text for word in mended(heard, known)] == ["put", "her", "on", "it"]
        assert [word.probability < 0.5 for word in mended(heard, known)] == [False, True, True, False]

    def test_a_term_of_two_words_gets_two_times(self):
        out = mended([HeardWord("Tarnhyth.", 1.0, 2.0, 0.4)], house([Spelling("Tarn Hythe")]))
        assert [(word.text, word.start, word.end) for word in out] == [("Tarn", 1.0, 1.5), ("Hythe.", 1.5, 2.0)]

    def test_the_likeliest_term_comes_first(self):
        assert house([Spelling(name) for name in NAMES]).proposals(words("Anus Colder", 0.3))[0] == "Ines Calder"


class TestListeningAgain:
    def said(self, text: str, probability: float = 0.9) -> list[HeardWord]:
        return [HeardWord(each, i * 0.5, i * 0.5 + 0.3, probability) for i, each in enumerate(text.split())]

    def mend(self, text: str, again: str, names=NAMES) -> tuple[str, list[str]]:
        asked: list[str] = []

        def listen(prompt: str) -> list[HeardWord]:
            asked.append(prompt)
            return self.said(again)

        out = mended(self.said(text), house([Spelling(name) for name in names]), listen)
        return " ".join(word.text for word in out), asked

    def test_a_name_that_was_spelt_out_is_put_together(self):
        text, _ = self.mend("but who is counting. T .O., you have said", "but who is counting. Teo, you have said", ("Teo",))
        assert text == "but who is counting. Teo, you have said"

    def test_other_words_of_the_second_time_are_not_taken_over(self):
        text, _ = self.mend("I am Orlovin, here by the sea", "I am Orla Venn, there on the Heron")
        assert text == "I am Orla Venn, here by the sea"

    def test_where_nothing_is_odd_nobody_listens_again(self):
        text, asked = self.mend("the boat is on the slip", "the Heron is on the slip")
        assert (text, asked) == ("the boat is on the slip", [])
