"""What is proposed of what is said: the rules by themselves, on talks whose subjects are told apart by their words."""

from __future__ import annotations

import re
import zlib
from itertools import pairwise

import numpy as np
import pytest

from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.problem import Problem
from jaskel.core.reuse.alone import HARMS, alone, harms
from jaskel.core.reuse.chapters import Density, borders
from jaskel.core.reuse.clips import LONGEST, SHORTEST, clips
from jaskel.core.reuse.highlights import Wish, highlights, runs_of, why
from jaskel.core.reuse.outline import Wanted, chapters_of, outline, subject_of
from jaskel.core.reuse.phrases import keywords, links_in, names_in, phrases_in
from jaskel.core.reuse.programme import with_loudness
from jaskel.core.reuse.sentences import sentences_of
from jaskel.core.reuse.summary import summary, titles
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word

SUBJECTS = {
    "boats": "The hull of the boat needs oakum and tar. Every plank of the hull was wet. A dry hull will leak for two days. "
    "Caulking keeps the boat tight. Nobody sails a boat with an open hull. The shipwright knows each plank.",
    "bread": "Sourdough bread needs flour and water. The dough rises in a warm bowl. Bakers knead the dough twice. "
    "Good flour makes good bread. The oven bakes the bread for an hour. A crust of bread should crack.",
    "music": "The orchestra tunes its violins. A violin concert begins with silence. The conductor raises the baton. "
    "Every violin follows the conductor. The orchestra plays the last movement. The audience claps for the orchestra.",
}
WIDE = Density(10, 200)


def said(*texts, rest=0.3, voices=None, pace=0.4):
    """Words of some texts, each by a voice, with a rest before each."""
    words, at = [], 0
    for number, text in enumerate(texts):
        for word in text.split():
            words.append(Word(word, at, at + round(pace * RATE) - 100, voice=voices[number] if voices else "a"))
            at += round(pace * RATE)
        at += round(rest * RATE)
    return words


def means(texts):
    """Texts by their longer words; texts with no word in common have nothing in common."""
    rows = np.zeros((len(texts), 512))
    for row, text in zip(rows, texts, strict=True):
        for word in re.findall(r"[a-z]{4,}", text.lower()):
            row[zlib.crc32(word[:4].encode()) % 512] += 1
        row[0] += 0.1
    return rows / np.linalg.norm(rows, axis=1, keepdims=True)


@pytest.fixture
def talk():
    return subject_of(said(*SUBJECTS.values()), means, WIDE)


class TestSentences:
    def test_they_end_at_full_stops_long_rests_and_where_another_voice_begins(self):
        words = said("It leaks. And then", "we wait", "Why?", rest=2, voices="aab")
        assert [each.text for each in sentences_of(words)] == ["It leaks.", "And then", "we wait", "Why?"]
        last = sentences_of(words)[-1]
        assert (last.voice, last.asks, last.rest, last.first, last.last) == ("b", True, 2 * RATE + 100, 6, 7)

    def test_laughter_belongs_to_what_was_said_before_it(self):
        words = said("It leaks.", "[laughter]", "We wait.")
        assert [(each.text, each.reaction) for each in sentences_of(words)] == [("It leaks.", "laughter"), ("We wait.", "")]

    def test_without_full_stops_nobody_waits_for_the_end(self):
        words = said(" ".join(["on"] * 200))
        assert max(each.last - each.first for each in sentences_of(words)) <= 60
        assert sum(each.last - each.first for each in sentences_of(words)) == 200


class TestChapters:
    def test_they_begin_where_the_subject_changes(self, talk):
        assert talk.begins == [0, 6, 12]
        found = chapters_of(talk, means)
        assert [each.start for each in found] == [0, *(talk.sentences[at].start for at in (6, 12))]
        assert [each.end for each in found[:-1]] == [each.start for each in found[1:]]
        for each, words in zip(found, ("hull boat plank", "bread dough flour", "orchestra violin conductor"), strict=True):
            assert any(word in each.title.lower() for word in words.split())

    def test_there_are_as_many_as_an_hour_may_have(self):
        sentences = sentences_of(said(*[text for text in SUBJECTS.values() for _ in range(20)], rest=30))
        hours = sentences[-1].end / RATE / 3600
        found = borders(sentences, means([each.text for each in sentences]))
        assert 4 * hours - 1 <= len(found) <= 12 * hours + 1

    def test_what_is_short_has_one(self):
        sentences = sentences_of(said(*SUBJECTS.values()))
        assert borders(sentences, means([each.text for each in sentences])) == [0]


@pytest.mark.parametrize(
    ("text", "harm"),
    [
        ("This is why we always do it twice.", "points back to what was said before"),
        ("He never told the owner of the yard.", "points back to what was said before"),
        ("And the owner never came back to the yard.", "goes on from what was said before"),
        ("Yes, we always tar the hull twice before winter.", "answers a question that is not heard"),
        ("How long does an old hull stay dry?", "asks and is not answered"),
        ("Never again.", "is too short to say something"),
        ("Sorry, let me start again with the tar and the oakum.", "speaks of the talk itself"),
        ("A hull that dries out will leak when", "does not end"),
        ("A hull that dries out will leak when...", "does not end"),
    ],
)
def test_what_speaks_against_hearing_it_alone(text, harm):
    (sentence,) = sentences_of(said(text))
    assert harm in [*harms([sentence])] and set(harms([sentence])) <= HARMS.keys()
    assert alone([sentence]) <= 1 - HARMS[harm]


def test_a_question_with_its_answer_stands_alone():
    asked = sentences_of(said("How long does an old hull stay dry?", "An old hull stays dry for about two years.", voices="ab"))
    assert alone(asked) == 1 and runs_of(asked) == [(0, 1), (0, 2), (1, 2)]


class TestHighlights:
    def length(self, talk, chosen):
        return sum(talk.sentences[each.last - 1].end - talk.sentences[each.first].start for each in chosen)

    @pytest.mark.parametrize("seconds", [10, 16, 25])
    def test_they_are_as_long_as_asked_for_or_half_a_sentence_off(self, talk, seconds):
        chosen = highlights(talk.sentences, talk.meanings, talk.begins, Wish(seconds * RATE))
        half = max(each.length for each in talk.sentences) / 2
        assert abs(self.length(talk, chosen) - seconds * RATE) <= max(0.03 * seconds * RATE, half)
        assert all(one.last <= other.first for one, other in pairwise(chosen))

    def test_with_time_for_all_each_chapter_is_told(self, talk):
        chosen = highlights(talk.sentences, talk.meanings, talk.begins, Wish(25 * RATE))
        assert {sum(begin <= each.first for begin in talk.begins) for each in chosen} == {1, 2, 3}

    def test_what_is_pinned_is_in_it_and_what_is_refused_is_not(self, talk):
        first, *_ = highlights(talk.sentences, talk.meanings, talk.begins, Wish(10 * RATE))
        other = next(at for at in range(len(talk.sentences)) if not first.first <= at < first.last)
        chosen = highlights(talk.sentences, talk.meanings, talk.begins, Wish(10 * RATE, {other}, {first.first}))
        told = {at for each in chosen for at in range(each.first, each.last)}
        assert other in told and first.first not in told
        assert abs(self.length(talk, chosen) - 10 * RATE) <= 3 * RATE

    def test_each_says_why(self, talk):
        assert all(each.why for each in highlights(talk.sentences, talk.meanings, talk.begins, Wish(20 * RATE)))

    def test_asked_for_more_than_there_is_all_that_may_be_is_told(self, talk):
        chosen = highlights(talk.sentences, talk.meanings, talk.begins, Wish(3600 * RATE))
        assert sum(each.last - each.first for each in chosen) == len(talk.sentences)


def test_clips_are_parted_and_neither_too_short_nor_too_long(talk):
    chosen = clips(talk.sentences, talk.meanings, [0], 3)
    lengths = [talk.sentences[each.last - 1].end - talk.sentences[each.first].start for each in chosen]
    assert len(chosen) == 2 and all(SHORTEST <= length <= LONGEST for length in lengths)  # there is no room for a third
    assert chosen[0].last <= chosen[1].first and all("begins" in each.why and "ends" in each.why for each in chosen)
    refused = set(range(chosen[0].first, chosen[0].last))
    assert all(
        not refused & set(range(each.first, each.last))
        for each in clips(talk.sentences, talk.meanings, [0], 3, refused=refused)
    )


def test_a_summary_tells_of_every_chapter_first(talk):
    assert [sum(begin <= at for begin in talk.begins) for at in summary(talk.sentences, talk.meanings, talk.begins, 3)] == [
        1,
        2,
        3,
    ]
    assert len(summary(talk.sentences, talk.meanings, talk.begins, 10)) == 10


def test_phrases_neither_begin_nor_end_with_an_empty_word():
    assert [*phrases_in("The hull of the boat, and tar")] == ["hull", "hull of the boat", "boat", "tar"]


def test_what_has_a_name_is_told_by_its_capitals():
    sentences = sentences_of(said("We met Orla Venn at Tarn Hythe. Boats are dear. Then Orla Venn left, and Teo stayed."))
    assert names_in(sentences) == ["Orla Venn", "Tarn Hythe", "Teo"]


def test_titles_are_made_of_their_own_words():
    sentences = sentences_of(said("Why does the hull leak?", SUBJECTS["boats"], voices="ab"))
    made = titles(sentences, keywords(sentences))
    assert ("curious", "Why does the hull leak?") in made and {tone for tone, _ in made} == {
        "plain",
        "formal",
        "curious",
        "playful",
    }
    spoken = {word.lower() for sentence in sentences for word in re.findall(r"\w+", sentence.text)}
    given = {"and", "a", "conversation"}
    assert all(word.lower() in spoken | given for _, text in made for word in re.findall(r"\w+", text))


class TestTooLittle:
    def test_nothing_said(self):
        with pytest.raises(Problem, match="Nobody says anything"):
            outline(said("[laughter]"), means, Wanted(RATE))

    def test_hardly_anything_said(self):
        with pytest.raises(Problem, match="Only 2 sentences are said"):
            outline(said("It leaks. We wait."), means, Wanted(RATE))

    def test_what_is_tiny_has_one_chapter_and_no_clip(self):
        found = outline(said("It leaks. We wait. Then the hull is tight."), means, Wanted(2 * RATE, 3))
        assert (len(found.chapters), found.clips) == (1, []) and len(found.highlights) == 1


def test_links_are_found_as_they_are_spoken_and_written():
    told = sentences_of(said("Go to dryhull dot example slash plans.", "Or www.tidelines.example today.", "I met Mr. Tam."))
    assert links_in(told) == ["dryhull.example/plans", "www.tidelines.example"]


def test_what_is_said_with_force_counts_and_says_so():
    words = said("The boat lay in the harbour.", "Nobody believed the shipwright.", "Water came in everywhere.", rest=4)
    placed = [ProgrammeWord(word, word.start, word.end) for word in words]
    second = {id(word) for word in words[6:10]}
    heard = with_loudness(sentences_of(words), placed, lambda each: 90.0 if id(each.word) in second else 30.0)
    assert [round(each.loud, 1) for each in heard] == [1.0, 3.0, 1.0]
    assert "said with force" in why(heard[1:2]) and "force" not in why(heard[:1])
    assert [each.loud for each in with_loudness(sentences_of(words), placed, lambda _: 0.0)] == [1.0] * 3
