"""Numbers as a show wants them, questions, sounds in brackets, and passages by subject."""

from __future__ import annotations

import pytest

from jaskel.core.numbers import rewritten
from jaskel.core.passages import LONGEST_PASSAGE, PASSAGE_WORDS, SHORTEST_PART
from jaskel.core.questions import with_questions
from jaskel.core.sounds import KINDS, in_brackets, sound_in
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Transcript, Word, with_sounds_of

S = RATE


def told(text: str, style: str, language: str = "en") -> str:
    words = text.split()
    for change in reversed(rewritten(words, style, language)):
        words[change.first : change.last] = [change.text]
    return " ".join(words)


class TestNumbers:
    @pytest.mark.parametrize(
        ("heard", "figures"),
        [
            ("Thirty two, but who is counting.", "32, but who is counting."),
            ("in nineteen ninety, and two thousand and five.", "in 1990, and 2005."),
            ("I paid twenty five dollars.", "I paid $25."),
            ("at eight thirty in the morning", "at 8:30 in the morning"),
            ("five percent, two point five metres", "5%, 2.5 metres"),
            ("one by one, two or three of them", "one by one, two or three of them"),
            ("the twenty first of May, the second one", "the 21st of May, the second one"),
            ("twenty, thirty. Forty.", "20, 30. 40."),
            ("thirty-two planks", "32 planks"),
            ("We won.", "We won."),
        ],
    )
    def test_in_figures(self, heard, figures):
        assert told(heard, "figures") == figures

    @pytest.mark.parametrize(
        ("heard", "words"),
        [
            ("32, but who is counting.", "Thirty-two, but who is counting."),
            ("It was 1990. 10% of $25 is", "It was nineteen ninety. Ten percent of twenty-five dollars is"),
            ("at 8:30 on the 21st, in the 1980s", "at eight thirty on the twenty-first, in the nineteen eighties"),
            ("1,200 and 2.5", "One thousand two hundred and two point five"),
            ("T.O. and B2B", "T.O. and B2B"),
        ],
    )
    def test_in_words(self, heard, words):
        assert told(heard, "words") == words

    def test_other_languages_have_plain_numbers(self):
        assert told("vingt et un ans", "figures", "fr") == "21 ans"
        assert told("mit 21 Leuten", "words", "de") == "mit einundzwanzig Leuten"
        assert told("двадцать один", "figures", "ru") == "двадцать один"  # not known: left as heard

    def test_as_heard_changes_nothing(self):
        assert rewritten(["thirty", "two", "and", "32"], "heard", "en") == []


class TestQuestions:
    @pytest.mark.parametrize(
        "text",
        [
            "Did you bring the kettle in.",
            "And how long did it take.",
            "What does he do in the yard.",
            "Is it on, do you think.",
            "Who is that over there.",
            "What's on the slip right now.",
            "Can I ask you something.",
        ],
    )
    def test_what_is_asked_gets_its_mark(self, text):
        assert " ".join(with_questions(text.split())) == text[:-1] + "?"

    @pytest.mark.parametrize(
        "text",
        [
            "What I mean is that it leaks.",
            "When we came, it rained.",
            "Do it again.",
            "Have a seat.",
            "What is done is done.",
            "Were there fewer of them, we would have time for it.",
            "Who does not ask is not told.",
            "How long it was.",
            "So it goes.",
        ],
    )
    def test_what_is_said_stays(self, text):
        assert " ".join(with_questions(text.split())) == text

    def test_marks_that_were_heard_and_trailing_dots_stay(self):
        texts = ["Is", "it", "on?", "Do", "you", "know", "...", "He", "said", "“Is", "it", "you.”"]
        assert with_questions(texts) == texts


class TestSounds:
    def test_a_sound_is_what_stands_in_brackets(self):
        assert [sound_in(in_brackets(kind)) for kind in KINDS] == list(KINDS)
        assert sound_in("[laughter],") == "laughter"
        assert [sound_in(text) for text in ("laughter", "[", "[]", "(laughs)", "a[1]")] == [None] * 5

    def test_a_text_keeps_the_sounds_between_its_words(self):
        heard = (
            Word("A", 0, S),
            Word("[laughter]", S, 2 * S, 0.6),
            Word("wet", 2 * S, 3 * S),
            Word("[cough]", 3 * S, 4 * S, 0.6),
        )
        said = (Word("a", 0, S), Word("wet", 2 * S, 3 * S), Word("dog", 3 * S, 5 * S))
        assert [word.text for word in with_sounds_of(heard, said)] == ["a", "[laughter]", "wet", "dog"]


BOATS = "The planks of the boat shrink in the shed. The boat leaks where planks shrink. Caulking keeps planks tight."
SOUP = "Friday there is soup on the table. The baker brings bread for the soup. Everybody eats bread and soup together."


def spoken(text: str, rest: float = 0.1) -> tuple[Word, ...]:
    words, at = [], 0
    for each in text.split():
        words.append(Word(each, at, at + S // 4))
        at += S // 4 + (round(rest * S) if each.endswith(".") else 0)
    return tuple(words)


class TestPassages:
    def test_long_speech_is_parted_where_the_subject_changes(self):
        words = spoken(f"{BOATS} {BOATS} {SOUP} {SOUP}")
        passages = Transcript(999 * S, words).passages()
        assert [passage.text for passage in passages] == [f"{BOATS} {BOATS}", f"{SOUP} {SOUP}"]

    def test_short_speech_is_not(self):
        assert len(Transcript(999 * S, spoken(f"{BOATS} {SOUP}")).passages()) == 1

    def test_no_passage_is_longer_than_one_would_read(self):
        for text in (f"{BOATS} " * 40, "on and on " * 300):
            passages = Transcript(99_999 * S, spoken(text)).passages()
            sizes = [len(passage.words) for passage in passages]
            assert max(sizes) <= LONGEST_PASSAGE
            assert min(sizes[:-1]) >= SHORTEST_PART
        assert PASSAGE_WORDS < LONGEST_PASSAGE

    def test_what_a_person_decided_stays(self):
        words = list(spoken(f"{BOATS} {BOATS} {SOUP} {SOUP}"))
        border = len(f"{BOATS} {BOATS}".split())
        word = words[border]
        words[border] = Word(word.text, word.start, word.end, begins=False)
        begun = [passage.words[0] for passage in Transcript(999 * S, tuple(words)).passages()]
        assert words[border] not in begun
