"""Findings: what is proposed, and what is left alone."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from typing import ClassVar

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.level import Level
from jaskel.core.operations import apply
from jaskel.core.places import Places
from jaskel.core.source import Recorded
from jaskel.core.tidy.chatter import chatter
from jaskel.core.tidy.cut import REACH, RING, ranges_of
from jaskel.core.tidy.empty import empty_words
from jaskel.core.tidy.fillers import doubled, fillers, unspoken
from jaskel.core.tidy.find import find
from jaskel.core.tidy.finding import Finding, phrases_of, plain
from jaskel.core.tidy.heard import SOFTER, Heard, breaths_between
from jaskel.core.tidy.passages import passages_again
from jaskel.core.tidy.rests import long_rests
from jaskel.core.tidy.retakes import retakes
from jaskel.core.tidy.review import DONE, Spoken, accepting, placed
from jaskel.core.tidy.script import follow
from jaskel.core.tidy.settings import RHYTHMS, STEADY, Threshold, TidySettings, rhythm_of, thresholds
from jaskel.core.transcript import Word

S = 48_000
SAID = ["the", "tide", "comes,", "in.", "and", "um", "like", "so", "you", "know", "sorry", "again", "…"]


def spoken(text: str, voice: str = "a") -> list[Word]:
    """Words of a third of a second; "…" is a rest of 0.6 s."""
    words, at = [], 0
    for each in text.split():
        if each == "…":
            at += S * 6 // 10
            continue
        words.append(Word(each, at, at + S // 3, 1.0, voice))
        at += S // 3 + S // 50
    return words


def given_up(text: str) -> list[str]:
    return [finding.text for finding in retakes(spoken(text))]


class TestRetakes:
    @pytest.mark.parametrize(
        ("text", "attempts"),
        [
            ("The first hour you row, … the first hour you row is the worst one", ["The first hour you row,"]),
            ("The tide, … the tide, … the tide comes in at four", ["The tide,", "the tide,"]),
            ("We sail on Friday, sorry, again. We sail on Sunday morning", ["We sail on Friday, sorry, again."]),
            ("He left the, oh, where was I. He left the boat ashore", ["He left the, oh, where was I."]),
            ("Cut the patch two fingers wide, cut the patch three fingers wide", ["Cut the patch two fingers wide,"]),
            ("A rope tells you that. No weight. A rope tells you the strain", ["A rope tells you that. No weight."]),
            ("Thank you for, um, thank you for coming", ["Thank you for, um,"]),
            ("I have been take two I have been here before", ["I have been take two"]),
            # Misheard where the voice broke off, or where it began again; and what is said between the two as well.
            ("We wait. Tar goes on warm because it runs. Sorry, it's all goes on warm because it runs by itself",
             ["Tar goes on warm because it runs. Sorry,"]),
            ("The coat changes faster than you can. Sorry, the coat change is faster than it did",
             ["The coat changes faster than you can. Sorry,"]),
            ("of the same weight. The wind decides more than, no weight. The wind decides more than the tide",
             ["The wind decides more than, no weight."]),
            ("The heap. So we're here again. The heap does its work", ["The heap. So we're here again."]),
            ("a knot is a, a knot makes a hole", ["a knot is a,"]),
            ("Every plank that we put into her was, … every plank that we put in had a story",
             ["Every plank that we put into her was,"]),
            # What recognisers make of words that break off.
            ("You can smell that. … You can smell the moment it is done", ["You can smell that."]),
            ("rope of the same weight. The wind decides more than. No, wait. The wind decides more than the tide",
             ["The wind decides more than. No, wait."]),
            ("The mountain hut. No wait. The mountain had opened", ["The mountain hut. No wait."]),
            ("We counted ten boats but win the bridge. Let me start again. We counted ten boats between the bridge and the sea",
             ["We counted ten boats but win the bridge. Let me start again."]),
        ],
    )  # fmt: skip
    def test_attempts_that_were_given_up_are_found(self, text, attempts):
        assert given_up(text) == attempts

    @pytest.mark.parametrize(
        "text",
        [
            "It grew darker and darker all night",
            "little by little the water rose",
            "round and round and round she went",
            "Six years. Six years is a long time to wait",
            "Nine miles, … nine miles is a long way with one oar",
            "We need a needle, we need a palm, we need some thread",
            "She turned. … She turned like a door on one hinge",
            "no no no that is wrong",
            "the boat that sank was the boat that we built",
            "if you can plan it you can build it and if you can build it you can sail it",
            "That is how most yards work. No, that is why they close",
            "You can smell that. You can tell from the quay",
        ],
    )
    def test_what_is_meant_stays(self, text):
        assert given_up(text) == []

    def test_after_a_cue_that_is_followed_by_something_else_nothing_was_given_up(self):
        assert given_up("We waited for the tide. Sorry, the boat was late that day.") == []

    def test_what_tells_it_is_told(self):
        (finding,) = retakes(spoken("We sail on Friday, sorry, we sail on Sunday morning"))
        assert finding.why == "said to be given up"

    def test_another_voice_that_says_the_same_is_no_retake(self):
        words = spoken("He sweeps the floor, … ") + [
            Word(w.text, w.start + 3 * S, w.end + 3 * S, 1.0, "b") for w in spoken("he sweeps the floor better")
        ]
        assert list(retakes(words)) == []

    @given(st.lists(st.sampled_from(["the", "tide", "comes,", "in.", "and", "um", "sorry", "again"]), max_size=40))
    def test_findings_are_in_order_and_apart(self, texts):
        words = spoken(" ".join(texts))
        found = list(retakes(words))
        assert all(a.end <= b.start for a, b in pairwise(found))
        starts = {word.start for word in words}
        assert all(finding.start in starts and finding.end in starts for finding in found)


class TestFillers:
    def test_hesitations_whatever_their_letters_and_commas(self):
        assert [f.text for f in fillers(spoken("Um, so uh the hull er was, hmm, dry umbrella"))] == ["Um,", "uh", "er", "hmm,"]

    def test_only_those_that_are_wanted(self):
        assert [f.text for f in fillers(spoken("Um, so uh"), {"uh"})] == ["uh"]

    def test_small_words_said_twice_but_not_those_that_are_meant(self):
        assert [f.text for f in doubled(spoken("the the hull was very very dry in. In winter"))] == ["the"]

    def test_others_said_twice_with_a_comma_or_a_rest_between_them(self):
        words = spoken("Her, her recipe says a pinch and I gave her her coat for … for the winter")
        assert [finding.text for finding in doubled(words)] == ["Her,", "for"]

    def test_the_last_of_one_sentence_and_the_first_of_the_next_are_no_stumble(self):
        assert list(doubled(spoken("Nobody looks at it, … it looks like snow"))) == []
        assert [finding.text for finding in doubled(spoken("Nobody told it, it all, and the … the snow"))] == ["it,", "the"]

    def test_voice_without_words_between_them(self):
        words = [Word("so", S, S + S // 2), Word("yes", 3 * S, 4 * S)]
        voice = [(S, S + S // 2), (2 * S, 2 * S + S // 3), (3 * S, 4 * S), (5 * S, 8 * S)]
        (found,) = unspoken(words, voice)
        assert (found.start, found.end) == (2 * S, 2 * S + S // 3)

    def test_long_voice_that_runs_on_from_a_word_was_not_recognised(self):
        words = [Word("so", S, 2 * S), Word("yes", 6 * S, 7 * S)]
        for begun, until, count in ((S, 3 * S, 0), (S, 2 * S + S * 3 // 4, 1), (3 * S, 4 * S, 1)):
            assert len(list(unspoken(words, [(begun, until)]))) == count
        for rest, count in ((S, 0), (S // 2, 1)):
            close = [words[0], Word("yes", 2 * S + rest, 4 * S)]
            assert len(list(unspoken(close, [(S, 4 * S)]))) == count

    @pytest.mark.parametrize(("after_it", "found"), [(S // 4, 0), (S // 2, 1)])
    def test_a_word_that_rings_out_is_no_voice_of_its_own(self, after_it, found):
        words = [Word("so", S, S + S // 2), Word("yes", 4 * S, 5 * S)]
        assert len(list(unspoken(words, [(S, S + S // 2 + S * 8 // 100 + after_it)]))) == found


class TestEmptyWords:
    @pytest.mark.parametrize(
        ("text", "empty"),
        [
            ("It was, like, twenty feet long", ["like,"]),
            ("It was … like … twenty feet long", ["like"]),
            ("It leaks, you know, all winter", ["you know,"]),
            ("I mean, nobody asked for it", ["I mean,"]),
            ("So, we took her out", ["So,"]),
            ("She is sort of … leaning over", ["sort of"]),
            ("That is the keel, right?", ["right?"]),
            ("That is the keel, right.", ["right."]),
        ],
    )
    def test_those_that_are_set_off(self, text, empty):
        assert [f.text for f in empty_words(spoken(text))] == empty

    @pytest.mark.parametrize(
        "text",
        [
            "It looks like rain", "What is it like?", "I would like … a cup of tea", "Boats like this one leak",
            "Do you know, he asked, where she lies", "You know the harbour better than I do", "As you know, she leaks",
            "I know what you mean", "I mean the other boat", "A kind of varnish, dark and thick", "What sort of boat is she?",
            "It leaked so much that we gave up", "So far, nobody has seen it", "Turn right at the pier. All right?",
            "Right. Let us begin", "The one on the left is right.", "They float, you … know, she never had them weighed",
        ],
    )  # fmt: skip
    def test_those_that_are_meant_stay(self, text):
        assert list(empty_words(spoken(text))) == []

    @pytest.mark.parametrize(("long", "empty"), [(S // 4, ["you know,"]), (S // 10, [])])
    def test_one_that_is_too_short_for_its_letters_was_laid_in_a_wrong_place(self, long, empty):
        you, know = Word("you", S, S + long // 2), Word("know,", S + long // 2, S + long)
        words = [Word("grow,", 0, S), you, know, Word("as", S + long, 3 * S), Word("weeds", 3 * S, 4 * S)]
        assert [finding.text for finding in empty_words(words)] == empty

    def test_one_that_the_recogniser_is_not_sure_of_may_be_another_word(self):
        words = [replace(word, confidence=0.5) for word in spoken("So, we took her out")]
        assert list(empty_words(words)) == []


class TestChatter:
    def test_before_the_beginning_after_the_end_and_a_remark(self):
        words = spoken(
            "Are we recording? … … Yes, from the top. … … Welcome to the harbour. It is early. "
            "Note for the edit, leave the gulls out. The tide is low. Goodbye. … … That is it. Was that all right? I think so."
        )
        found = list(chatter(words))
        assert [f.text for f in found] == [
            "Are we recording? Yes, from the top.", "Note for the edit, leave the gulls out.",
            "That is it. Was that all right? I think so.",
        ]  # fmt: skip
        assert found[1].end == next(word.start for word in words if word.text == "The")

    @pytest.mark.parametrize(
        "text",
        [
            "Welcome to the harbour. It is early. And that is it.",
            "Nobody said welcome to me. I went in. It was dark.",
            "In this episode we row. That's all right with me. We edit nothing.",
        ],
    )
    def test_an_episode_without_any_is_left_alone(self, text):
        assert list(chatter(spoken(text))) == []

    @pytest.mark.parametrize(
        ("text", "found"),
        [
            ("The bread rests. Could? that? out. The crust was hard.", ["Could? that? out."]),
            (
                "The bread rests. Note for re? edit? the kettle boiled. The crust was hard.",
                ["Note for re? edit? the kettle boiled."],
            ),
            ("The bread rests. Could that out. The crust was hard.", []),  # heard surely, it is what was said
            ("The bread rests. The weather turns sooner than you can but? in a coat.", []),
            ("The bread rests. Hold the ladder? a moment. The crust was hard.", []),
        ],
    )
    def test_a_remark_that_was_misheard_is_told_where_the_recogniser_had_its_doubts(self, text, found):
        words = [
            replace(word, text=word.text.replace("?", ""), confidence=0.3 if "?" in word.text else 1.0) for word in spoken(text)
        ]
        assert [finding.text for finding in chatter(words)] == [each.replace("?", "") for each in found]

    def test_a_remark_within_a_long_sentence_does_not_take_it_along(self):
        said = "If the keel groans while it settles the cradle is low, … note for the edit the engine was running there."
        assert [f.text for f in chatter(spoken(said))] == ["note for the edit the engine was running there."]
        after = "Cut that out, … and the crew pulls as one or it does not pull at all."
        assert [f.text for f in chatter(spoken(after))] == ["Cut that out,"]

    def test_the_words_of_the_show_count(self):
        words = spoken("The tide is low. Bosun, mark it. The boat floats.")
        assert [f.text for f in chatter(words, phrases_of("bosun"))] == ["Bosun, mark it."]


class TestWhereAnAttemptBegins:
    @pytest.mark.parametrize(
        ("text", "goes"),
        [
            # Only the opening word was misheard: what goes begins with it.
            (
                "It blew. All sailors reef early and, old sailors reef early and sleep well.",
                ["All sailors reef early and,"],
            ),
            # "The bridge" belongs to the sentence before.
            (
                "We saw the bridge and the lake. The mountain hut opens when, sorry, again. The mountain hut opens in May.",
                ["The mountain hut opens when, sorry, again."],
            ),
            # Said twice on purpose, as a whole, or taken up again with no rest.
            ("She rested. Tap it twice, tap it twice. Then wait.", []),
            ("At the end we do not drive a nail, a nail lets in water.", []),
        ],
    )
    def test_it_takes_no_word_of_the_sentence_before_and_all_of_its_own(self, text, goes):
        assert [finding.text for finding in retakes(spoken(text))] == goes


class TestMisheardHesitations:
    @pytest.mark.parametrize(
        ("rest", "length", "confidence", "found"),
        [
            (0.0, 0.13, 0.7, False),  # runs on from a word
            (0.0, 0.13, 1.0, True),  # somebody typed it
            (0.3, 0.13, 0.7, True),
            (0.0, 0.35, 0.3, True),
            (0.3, 0.07, 0.0, False),  # written at a comma
            (0.3, 0.15, 0.04, True),
        ],
    )
    def test_what_is_short_and_runs_on_or_is_hardly_believed_is_none(self, rest, length, confidence, found):
        start = S + round(rest * S)
        words = [Word("tide,", 0, S), Word("um,", start, start + round(length * S), confidence)]
        assert bool(list(fillers(words))) == found


class TestTogether:
    def test_takes_are_grouped_with_what_speaks_for_them(self):
        words = spoken("The tide, … the tide, um, the tide comes in at four. Then it goes out again.")
        (group,) = (f for f in find(words) if f.kind == "retake")
        assert [take.text for take in group.takes] == ["The tide,", "the tide, um,", "the tide comes in at four."]
        assert (group.pick, group.takes[2].why, group.takes[1].why) == (2, ("complete", "fluent", "last"), ())
        assert group.gone() == tuple((take.start, take.end) for take in group.takes[:2])
        assert group.gone(0) == tuple((take.start, take.end) for take in group.takes[1:])

    def test_what_lies_within_something_larger_is_not_listed_by_itself(self):
        words = spoken("Thank you for, um, thank you for coming")
        assert [f.kind for f in find(words)] == ["retake"]

    @pytest.mark.parametrize("loose", range(4))
    def test_nothing_is_cut_beside_a_word_whose_place_is_only_guessed(self, loose):
        words = [Word(word.text, index * S, (index + 1) * S) for index, word in enumerate(spoken("we um went out"))]
        guessed = [replace(word, loose=index == loose) for index, word in enumerate(words)]
        assert [f.text for f in find(guessed) if f.kind == "filler"] == (["um"] if loose == 3 else [])

    def test_the_loudest_take_is_told(self):
        words = spoken("The tide, … the tide comes in at four.")
        (group,) = (f for f in find(words, loudness=lambda start, _: 1.0 if start == 0 else 0.5) if f.kind == "retake")
        assert "loudest" in group.takes[0].why
        assert "loudest" not in group.takes[1].why

    @pytest.mark.parametrize(
        ("script", "pick", "told"),
        [
            ("", 1, "last"),
            ("We sail on Friday. Nobody rows.", 0, "nearest to the script"),
            ("We sail on Sunday morning. Nobody rows.", 1, "nearest to the script"),
            ("Something else entirely is written here.", 1, "last"),
        ],
    )
    def test_a_script_leads(self, script, pick, told):
        words = spoken("We sail on Friday, sorry, again. We sail on Sunday morning.")
        (group,) = (finding for finding in find(words, script=script.split()) if finding.kind == "retake")
        assert (group.pick, group.takes[group.pick].why[-1]) == (pick, told)

    def test_nothing_is_found_where_nothing_is_transcribed(self):
        assert find([], Heard(voice=[(0, S)])) == []

    @given(st.lists(st.sampled_from(SAID), max_size=60))
    def test_findings_lie_in_order_and_take_out_no_word_beside_them(self, texts):
        words = spoken(" ".join(texts))
        found = find(words)
        assert [f.start for f in found] == sorted(f.start for f in found)
        gone = ranges_of(found, words)
        assert all(a[1] < b[0] for a, b in pairwise(gone))
        listed = [part for finding in found for part in finding.gone()]
        for word in words:
            if not any(a < word.end and b > word.start for a, b in listed):
                assert not any(a < word.end and b > word.start for a, b in gone), word


class TestScript:
    script = (
        "We sail on Sunday morning. The resin has to stand for a night before it is sanded. Tar goes on warm because it seeks "
        "the seams out. Nobody said this line here. And that is the end of it."
    )
    said = (
        "Let me just see if this is on. We sail on Friday, sorry, again. We sail on Sunday morning. The resin has to stand "
        "for, um, the resin has to stand for a night before it is rubbed. Tar goes on warm because it seeks the seams out. "
        "That reminds me of my uncle Bert. And that is the end of it."
    )

    def test_each_line_has_its_takes_and_what_was_never_said_or_said_off_it_is_told(self):
        followed = follow(spoken(self.said), self.script.split())
        assert [(len(line.takes), line.pick) for line in followed.lines] == [(2, 1), (2, 1), (1, 0), (0, None), (1, 0)]
        assert [take.text for take in followed.off] == [
            "Let me just see if this is on.",
            "That reminds me of my uncle Bert.",
        ]
        assert [take.why for take in followed.lines[0].takes] == [("60% of it",), ("complete",)]

    def test_takes_far_from_one_another_are_one_finding_where_a_script_tells_so(self):
        between = "Plank by plank we turned the deck. He kept the ledger by the door. You can hear the shingle from here."
        words = spoken(f"We sail on Sunday, no. {between} We sail on Sunday morning. {between}")
        assert not [f for f in find(words) if f.kind == "retake" and f.text == "We sail on Sunday, no."]
        script = f"We sail on Sunday morning. {between}".split()
        group = next(f for f in find(words, script=script) if f.kind == "retake")
        assert [take.text for take in group.takes] == ["We sail on Sunday, no.", "We sail on Sunday morning."]
        assert "nearest to the script" in group.takes[1].why

    @given(st.integers(0, 4), st.integers(1, 14), st.integers(1, 6), st.sampled_from(["", ",", "."]))
    def test_whoever_goes_back_within_a_line_loses_no_word_of_it(self, number, place, back, mark):
        lines = [f"{line.rstrip('.')}." for line in self.script.split(". ")]
        line = lines[number].split()
        place = min(place, len(line) - 1)
        broken = [*line[: place - 1], line[place - 1].rstrip(".,") + mark]
        said = [*lines[:number], *broken, *line[max(0, place - back) :], *lines[number + 1 :]]
        words = spoken(" ".join(said))
        gone = [part for finding in find(words, script=self.script.split()) for part in finding.gone()]
        left = [plain(word.text) for word in words if not any(a <= word.start and word.end <= b for a, b in gone)]
        rest = iter(left)
        assert all(plain(text) in rest for text in self.script.split()), left

    def test_a_text_of_something_else_tells_nothing(self):
        script = "Knots are older than wheels. Nobody knows who tied the first one of them in a rope."
        followed = follow(spoken(self.said), script.split())
        assert all(line.pick is None for line in followed.lines) and len(followed.off) == 1


class TestPassages:
    first = "The resin has to stand for a night before it is sanded. Tar goes on warm because it seeks the seams out."

    @pytest.mark.parametrize("cue", ["", "Let me do that again.", "Sorry, once more."])
    def test_sentences_that_are_said_again_are_takes_of_one_another(self, cue):
        words = spoken(f"We begin. {self.first} {cue} {self.first.replace('sanded', 'rubbed')} Then we wait.")
        (group,) = (finding for finding in find(words) if finding.kind == "retake")
        assert [len(take.text.split()) for take in group.takes] == [22 + len(cue.split()), 22]
        assert group.pick == 1 and group.takes[1].text.endswith("out.")

    @pytest.mark.parametrize("cue", ["… Sorry, again. …", "… Once more, …"])
    def test_a_passage_may_begin_within_a_sentence_and_after_a_cue_that_begins_one(self, cue):
        passage = self.first[0].lower() + self.first[1:]
        words = spoken(f"The cradle was low, {passage} {cue} {passage} Then we wait.")
        (attempt,) = passages_again(words)
        assert attempt.start == words[4].start and attempt.text.startswith(passage.split(".")[0])
        # Without a cue nobody is told to look for it there.
        assert not list(passages_again(spoken(f"The cradle was low, {passage} Then we rest. {passage}")))

    def test_one_that_breaks_off_in_its_second_sentence_is_given_up(self):
        words = spoken(f"{self.first.rsplit(' ', 5)[0]} … sorry, again. {self.first}")
        (group,) = (finding for finding in find(words) if finding.kind == "retake")
        assert group.takes[1].text == self.first

    @pytest.mark.parametrize(
        "text",
        [
            "Tap it twice. Tap it twice. Then it has to stand for a night before it is sanded.",
            "The first day was long and the road was steep. The second day was longer and the road was gone.",
            "He kept the same light for forty years. She rowed him over. He kept the same light for fifty years.",
        ],
    )
    def test_what_is_meant_is_left_alone(self, text):
        assert not list(passages_again(spoken(text)))

    def test_another_voice_that_says_the_same_answers(self):
        again = [replace(word, start=word.start + 60 * S, end=word.end + 60 * S, voice="b") for word in spoken(self.first)]
        assert not list(passages_again([*spoken(self.first), *again]))


class TestBreaths:
    words: ClassVar = [Word("a", 0, S), Word("b", 4 * S, 5 * S), Word("um", 6 * S, 7 * S), Word("c", 8 * S, 9 * S)]

    @pytest.mark.parametrize(
        ("breath", "goes"),
        [
            ((S * 36 // 10, S * 38 // 10), (S + S // 2, 4 * S - S // 2)),  # well within what stays
            ((S * 33 // 10, S * 38 // 10), (S + S * 3 // 10, S * 33 // 10)),  # it stays as a whole
            ((S * 14 // 10, S * 18 // 10), (S * 14 // 10, 4 * S - S // 2)),  # that of the words before goes as a whole
            ((S * 12 // 10, S * 39 // 10), None),  # nothing but a breath
        ],
    )
    def test_none_is_cut_off_where_a_rest_gets_shorter(self, breath, goes):
        found = list(long_rests(self.words[:2], {None: Threshold(2 * S, S)}, [breath]))
        assert [(each.start, each.end) for each in found] == ([goes] if goes else [])
        assert all(each.becomes == 3 * S - (each.end - each.start) for each in found)

    def test_none_is_cut_off_beside_a_hesitation(self):
        (um,) = fillers(self.words)
        breath = (7 * S + S // 2, 8 * S - S // 100)
        ((start, end),) = ranges_of([um], self.words, Heard(breaths=[breath]))
        assert start == 5 * S + RING and end == 7 * S + REACH
        shortened = [*self.words[:3], Word("c", 7 * S + S * 6 // 10, 9 * S)]
        inside = (7 * S + S // 10, 7 * S + S // 2)
        ((start, end),) = ranges_of([um], shortened, Heard(breaths=[inside]))
        assert not inside[0] < end < inside[1]

    def test_what_words_overlap_is_none(self):
        assert list(breaths_between(self.words, [(S // 2, S + S // 20), (S, 2 * S), (S * 39 // 10, 5 * S)])) == [
            (S + S // 50, 2 * S),
            (S * 39 // 10, 4 * S),
        ]

    def test_they_are_softened_only_where_that_is_wanted_and_can_be_put_back(self):
        heard = Heard(breaths=[(2 * S, 2 * S + S // 2)])
        settings = TidySettings(soften_breaths=True, rests=Threshold(10 * S, S))
        assert not [f for f in find(self.words, heard, TidySettings(rests=Threshold(10 * S, S))) if f.kind == "breath"]
        (breath,) = (f for f in find(self.words, heard, settings) if f.kind == "breath")
        edition = Edition.of([Piece(Recorded("r"), 0, 10 * S)])
        (standing,) = placed(edition, "r", [breath], ())
        assert (standing.state, breath.action, breath.gone()) == ("open", "soften", ())
        operation = accepting(edition, [(standing, 0)], {"r": Spoken(self.words, heard, ["r"])}, settings)
        after, inverse = apply(edition, operation)
        assert [level.decibels for level in after.marks.within(Level, "r", 2 * S, 3 * S)] == [SOFTER]
        assert after.kept_runs == edition.kept_runs
        assert placed(after, "r", [breath], ())[0].state == "accepted"
        assert placed(apply(after, inverse)[0], "r", [breath], ())[0].state == "open"

    @given(st.lists(st.tuples(st.integers(0, 9 * S), st.integers(1, S)), max_size=12))
    def test_whatever_is_heard_no_edge_lies_within_a_breath(self, heard):
        breaths = []
        for start, length in sorted(heard):
            if not breaths or start > breaths[-1][1]:
                breaths.append((start, start + length))
        between = list(breaths_between(self.words, breaths))
        found = find(self.words, Heard(breaths=breaths), TidySettings(rests=Threshold(S, S // 2)), ("long rest", "filler"))
        for start, end in ranges_of(found, self.words, Heard(breaths=breaths)):
            assert not any(a < edge < b for a, b in between for edge in (start, end))


class TestRhythm:
    def test_thresholds_come_from_the_speakers_own_rests(self):
        slow = [Word("a", 2 * i * S, 2 * i * S + S, 1.0, "slow") for i in range(12)]
        quick = [Word("b", 30 * S + i * S, 30 * S + i * S + S * 8 // 10, 1.0, "quick") for i in range(12)]
        limits = thresholds(rhythm_of([*slow, *quick]), TidySettings(rhythm=STEADY))
        assert rhythm_of([*slow, *quick])["slow"] == S
        assert limits["slow"].longer > 4 * limits["quick"].longer
        assert all(limit.becomes < limit.longer for limit in limits.values())

    def test_brisk_shortens_more_than_calm(self):
        words = [Word("a", i * S * 3 // 2, i * S * 3 // 2 + S, 1.0, "v") for i in range(12)]
        longer = [thresholds(rhythm_of(words), TidySettings(rhythm=rhythm))["v"].longer for rhythm in range(len(RHYTHMS))]
        assert longer == sorted(longer, reverse=True)

    def test_what_was_set_by_hand_leads_and_a_voice_before_all(self):
        own = TidySettings(rests=Threshold(S, S // 2), voices={"b": Threshold(2 * S, S)})
        words = [Word("a", 0, S, 1.0, "a"), Word("b", 2 * S, 3 * S, 1.0, "b")]
        limits = thresholds(rhythm_of(words), own)
        assert (limits["a"], limits["b"], limits[None]) == (Threshold(S, S // 2), Threshold(2 * S, S), Threshold(S, S // 2))


class TestRests:
    def test_only_longer_ones_and_their_middle(self):
        words = [Word("a", 0, S), Word("b", 3 * S, 4 * S), Word("c", 4 * S + S // 2, 5 * S)]
        (found,) = long_rests(words, {None: Threshold(S, S // 2)})
        assert (found.start, found.end, found.action) == (S + S // 4, 3 * S - S // 4, "shorten")

    def test_before_an_answer_it_may_stay(self):
        words = [Word("Why?", 0, S, 1.0, "a"), Word("Because.", 3 * S, 4 * S, 1.0, "b"), Word("Oh.", 7 * S, 8 * S, 1.0, "a")]
        limits = {None: Threshold(S, S // 2)}
        assert len(list(long_rests(words, limits))) == 2
        assert [f.start for f in long_rests(words, limits, keep_answers=True)] == [4 * S + S // 4]

    def test_what_sounds_between_words_is_no_rest(self):
        words = [Word("So.", 0, S), Word("Well.", 9 * S, 10 * S)]
        (first, second) = find(words, Heard(voice=[(3 * S, 6 * S)]), TidySettings(rests=Threshold(S, S // 2)), ["long rest"])
        assert first.end < 3 * S and second.start > 6 * S

    def test_before_a_laugh_it_may_stay(self):
        words = [Word("So.", 0, S), Word("(laughs)", 3 * S, 4 * S), Word("Well.", 7 * S, 8 * S)]
        keep, heard = TidySettings(rests=Threshold(S, S // 2), keep_laughter=True), Heard(bursts=[(6 * S, 6 * S + S // 2)])
        starts = [[f.start for f in find(words, each, keep, ["long rest"])] for each in (Heard(), heard)]
        assert starts == [[4 * S + S // 4], []]
        # What words are recognised in is said, not laughed.
        said = [*words[:2], Word("a-ha-ha", 6 * S, 6 * S + S // 2), *words[2:]]
        assert find(said, heard, keep, ["long rest"])

    def test_what_goes_with_a_hesitation_is_the_shorter_rest(self):
        words = [Word("so", 0, S), Word("um", S + S // 5, 2 * S), Word("we", 3 * S, 4 * S)]
        (um,) = fillers(words)
        assert ranges_of([um], words) == ((S + RING, 2 * S + REACH),)

    def test_what_goes_goes_as_far_as_it_is_heard(self):
        words = [Word("so", 0, S), Word("um", 3 * S, 4 * S), Word("we", 6 * S, 7 * S)]
        (um,) = fillers(words)
        assert ranges_of([um], words)[0][0] == S + RING
        late = Heard(voice=[(0, S), (3 * S - S // 3, 4 * S + S // 4), (6 * S, 7 * S)])
        assert ranges_of([um], words, late) == ((S + RING, 4 * S + S // 4),)
        close = [Word("so", 0, S), Word("um", S + S // 50, S + S // 2), Word("we", S + S // 2, 2 * S)]
        assert ranges_of(list(fillers(close)), close) == ((S + S // 50, S + S // 2),)

    def test_between_sentences_a_rest_of_the_speakers_size_stays(self):
        slow = [Word("a", i * 2 * S, i * 2 * S + S) for i in range(12)]
        um, we = Word("um", 23 * S + S // 2, 24 * S), Word("we", 24 * S + S // 2, 25 * S)
        words = [*slow[:-1], Word("end.", 22 * S, 23 * S), um, we]
        assert ranges_of(list(fillers(words)), words) == ((um.start - REACH, um.end + REACH),)

    def test_where_it_is_said_again_the_rest_that_the_speaker_needs_there_stays(self):
        slow = [Word("a", i * 2 * S, i * 2 * S + S) for i in range(12)]  # rests of a second
        taken, again = Word("We", 23 * S, 24 * S), Word("We", 26 * S, 27 * S)
        attempt = Finding("retake", taken.start, again.start, "We")
        ended, ran_on = Word("end.", 22 * S, 23 * S), Word("and", 22 * S, 23 * S)
        assert ranges_of([attempt], [*slow[:-1], ended, taken, again]) == ((23 * S, 25 * S),)
        assert ranges_of([attempt], [*slow[:-1], ran_on, taken, again]) == ((23 * S, 26 * S - RING),)
        # What is heard in that rest goes along, and what was there before the attempt is enough.
        um = Heard(voice=[(22 * S, 24 * S), (25 * S, 25 * S + S // 2), (26 * S, 27 * S)])
        assert ranges_of([attempt], [*slow[:-1], ended, taken, again], um) == ((23 * S, 25 * S + S // 2 + REACH),)
        rested = replace(ended, start=21 * S, end=22 * S)
        assert ranges_of([attempt], [*slow[:-1], rested, taken, again]) == ((23 * S - REACH, 26 * S - REACH),)

    def test_it_is_accepted_however_much_of_the_rest_stays(self):
        said = spoken("We waited. … Nobody came. … Then it rained. We lost, … … we lost half of the beans.")
        words = [replace(word, end=word.end + S // 50) for word in said]
        edition = Edition.of([Piece(Recorded("a"), 0, words[-1].end)])
        (group,) = placed(edition, "a", find(words, kinds=["retake"]), [])
        accepted = apply(edition, accepting(edition, [(group, group.pick)], {"a": Spoken(words)}, TidySettings()))[0]
        assert edition.kept_length - accepted.kept_length < (words[9].start - words[7].start) * DONE
        assert [each.state for each in placed(accepted, "a", find(words, kinds=["retake"]), [])] == ["accepted"]

    def test_no_rest_reaches_into_what_is_said_but_not_written(self):
        words = [Word("so", 0, S), Word("um", 2 * S, 3 * S), Word("knives", 5 * S, 6 * S)]
        (um,) = fillers(words)
        told, hidden = ([(0, S), (2 * S, 3 * S), (begun, 6 * S)] for begun in (5 * S - S // 20, 4 * S))
        assert ranges_of([um], words, Heard(voice=told)) == ((S + RING, 3 * S + REACH),)
        assert ranges_of([um], words, Heard(voice=hidden)) == ((S + RING, 3 * S + REACH),)
        late = [words[0], replace(words[1], start=3 * S, end=4 * S - S // 2), words[2]]
        (um,) = fillers(late)
        assert ranges_of([um], late, Heard(voice=hidden))[0][1] == 4 * S - RING
        before = Heard(voice=[(0, S + S // 2), (2 * S, 3 * S), (5 * S, 6 * S)])
        assert ranges_of(list(fillers(words)), words, before) == ((S + S // 2 + RING, 3 * S + REACH),)

    def test_what_lies_side_by_side_goes_as_one(self):
        found = [Finding("retake", 0, S, ""), Finding("long rest", S, 2 * S, "", 100)]
        assert ranges_of(found, []) == ((0, 2 * S),)


class TestPlaces:
    @pytest.mark.parametrize("after_it", [0, S // 50, S])
    def test_a_filler_that_is_the_last_of_a_recording_goes_up_to_its_end(self, after_it):
        words = spoken("We went down to the sea. … Um,")
        edition = Edition.of([Piece(Recorded("a"), 0, words[-1].end + after_it)])
        (um,) = placed(edition, "a", find(words, kinds=["filler"]), [])
        gone = apply(edition, accepting(edition, [(um, 0)], {"a": Spoken(words)}, TidySettings()))[0]
        assert [each.state for each in placed(gone, "a", find(words, kinds=["filler"]), [])] == ["accepted"]
        assert gone.kept_length == words[-1].start - REACH + max(0, after_it - REACH)

    def test_a_stretch_is_found_also_where_a_part_of_it_was_pasted_once_more(self):
        edition = Edition.of([Piece(Recorded("a"), 0, 10 * S), Piece(Recorded("a"), 4 * S, 5 * S)])
        assert Places(edition).whole("a", 6 * S, 7 * S) == (6 * S, 7 * S)
        assert Places(edition).whole("a", 9 * S, 11 * S) is None
        assert Places(edition).whole("b", 0, S) is None


class TestSaidTwice:
    """Whole sentences said twice in a row, complete both times: takes, but for a person to judge."""

    @pytest.mark.parametrize(
        ("text", "goes"),
        [
            ("We tie it here. We tie it here.", "We tie it here."),
            (
                "It was a cold day. The hull was dry by noon. The hull was dry by noon. Then we ate.",
                "The hull was dry by noon.",
            ),
            ("The hull was dry by noon. Um, the hull was dry by noon. Then we ate.", "The hull was dry by noon. Um,"),
            ("The hull was dry by noon, the hull was dry by noon. Then we ate.", "The hull was dry by noon,"),
            (
                "Nobody told us that the harbour would be closed. Nobody told us that the harbor would be closed.",
                "Nobody told us that the harbour would be closed.",
            ),
            ("The the hull was dry by noon. The hull was dry by noon.", "The the hull was dry by noon."),
            (
                "Good morning. The hull was dry by noon. Good morning. The hull was dry by noon.",
                "Good morning. The hull was dry by noon.",
            ),
            ("I'm sorry, but we are closed. I'm sorry, but we are closed.", "I'm sorry, but we are closed."),
        ],
    )
    def test_they_are_takes_from_beginning_to_beginning(self, text, goes):
        words = spoken(text)
        (finding,) = (each for each in find(words) if each.kind == "retake")
        assert finding.twice and len(finding.takes) == 2 and finding.pick == 1
        assert finding.takes[0].text == goes
        assert finding.takes[1].start == next(w.start for w in words if w.start >= finding.takes[0].end)

    @pytest.mark.parametrize(
        "text",
        [
            "I'm sorry, but we could not find anybody who has seen the boat since noon. ",
            "Good morning. This is where we left off yesterday, with the keel on the blocks. ",
            "Well. Then. This is where we left off yesterday, with the keel on the blocks. ",
        ],
    )
    def test_long_ones_go_with_what_opens_them(self, text):
        (finding,) = (each for each in find(spoken(text * 2)) if each.kind == "retake")
        assert [take.text for take in finding.takes] == [text.strip()] * 2

    @pytest.mark.parametrize("cue", ["Sorry, again.", "Let me do that again."])
    def test_a_cue_between_two_goes_with_the_first(self, cue):
        line = "This is where we left off yesterday, with the keel on the blocks."
        (finding,) = (each for each in find(spoken(f"{line} {cue} {line}")) if each.kind == "retake")
        assert finding.takes[-1].text == line

    def test_three_times_is_one_finding_with_three_takes(self):
        (finding,) = (each for each in find(spoken("We tie it here. " * 3)) if each.kind == "retake")
        assert finding.twice and len(finding.takes) == 3

    @pytest.mark.parametrize(
        "text",
        [
            "Tap it twice. Tap it twice. Then it has to stand.",
            "It went round and round and round and round. Then it stopped.",
            "He rowed for forty years. He rowed for fifty years.",
            "The first one was too small. The second one was too small.",
            "Row, row, row the boat. The wind came up. Row, row, row the boat.",
            "The tide comes in. Nobody sees it. The tide comes in. Nobody hears it.",
            "You can see the old pier. You can sell the old pier tomorrow.",
            "We looked and looked and looked and looked.",
            "I have never seen the sea. You have never seen the sea.",
        ],
    )
    def test_echoes_refrains_and_lists_are_meant(self, text):
        assert not [each for each in find(spoken(text)) if each.twice]

    def test_another_voice_that_says_the_same_answers(self):
        words = spoken("The hull was dry by noon. The hull was dry by noon.")
        words = [replace(word, voice="a" if index < len(words) // 2 else "b") for index, word in enumerate(words)]
        assert not [each for each in find(words) if each.kind == "retake"]

    def test_it_does_not_go_with_all_others(self):
        found = find(spoken("Um, we tie it here. We tie it here."))
        assert {each.kind for each in found if not each.twice} == {"filler"}
