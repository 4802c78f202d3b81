"""Sentences begun again: the attempts that were given up.

An attempt is given up where what follows begins with the same words, all of them, and goes on; or where a word says so
("sorry, again"). Lists with the same beginning differ in their last word and are no retakes; nor is what is repeated on
purpose: whole sentences, and what is joined by "and", "by" or "after". Each way to tell it is one of the :data:`RULES`.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from difflib import Match, SequenceMatcher
from functools import cached_property
from itertools import pairwise, takewhile

from jaskel.core.tidy.fillers import DOUBLED, FILLERS
from jaskel.core.tidy.finding import Finding, plain, set_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

CUES = set_of("sorry again wait no okay ok right actually so well once more let me start over take")
"""Words between an attempt that was given up and the next one."""

PLAIN_CUES = set_of("sorry again wait start over take")
"""These leave less doubt than "no" or "well" do."""

HOMOPHONES = {"weight": "wait", "write": "right", "rite": "right", "sew": "so", "sow": "so"}
"""Where a voice breaks off, recognisers have little to tell words by that sound the same. Where one of these ends a sentence,
it may have been the cue. ("Know" is not among them: "you know" ends sentences all the time.)"""

COUNTED = set_of("one two three four five six")

MEANT = set_of("and or by after to upon in")
"""Between two that are the same, these say that it is meant: better and better, little by little."""

SPOKEN_OF = set_of("is was are were")

HANGING = set_of("the a an to of in on at through with for from by is are was and but or my your our his her their")
"""No sentence pauses after these."""

BREAKS_OFF: Ticks = RATE // 5
"""Whoever breaks off within a sentence is silent for 0.2 s; a comma alone is also in "we tie no knot, a knot makes a hole"."""

LONGEST_ATTEMPT = 28
"""Words. Whoever gets further than that begins a new sentence."""

WITHIN: Ticks = 45 * RATE

LONG_PREFIX = 5
"""Sentences that begin with so many of the same words are one sentence begun twice, even if they go on otherwise: unless so
much is said between them that it would go with the first."""

SAME_AFTER_CUE, SAME_AFTER_PLAIN_CUE, SAME_AFTER_SENTENCE = 0.7, 0.6, 0.5
"""How much of an attempt must be said again where a word says that it was given up; where that leaves little doubt, and it
begins with the same words; and where three words and more say so, as "let me start again". What breaks off is misheard."""

CUE_SENTENCE, LONGEST_CUE_SENTENCE = 3, 5
"""Words."""

ALIKE, FEWEST_LETTERS = 0.7, 8
"""After a plain cue an attempt may also begin with another word, if so much of its letters comes again: it was misheard."""

FEWEST_IN_A_ROW = 3
"""Letters that are the same; fewer are by chance."""


@dataclass(frozen=True)
class Again:
    """Something begun at ``first`` that may be begun again at ``last``, with a cue from ``cue_at`` to there.

    The three count in ``said``, which has the index of each word but hesitations, and its plain text.
    """

    words: Sequence[Word]
    said: Sequence[tuple[int, str]]
    first: int
    cue_at: int
    last: int

    @cached_property
    def attempt(self) -> Sequence[str]:
        return [text for _, text in self.said[self.first : self.cue_at]]

    @cached_property
    def following(self) -> Sequence[str]:
        return [text for _, text in self.said[self.last : self.last + len(self.attempt) + 2]]

    @cached_property
    def cue(self) -> Sequence[str]:
        return [text for _, text in self.said[self.cue_at : self.last]]

    @cached_property
    def prefix(self) -> int:
        """With how many words of the attempt it is begun again."""
        pairs = zip(self.attempt, self.following, strict=False)
        return sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], pairs))

    @cached_property
    def same(self) -> int:
        """How many words of the attempt are said again in order, from its first on, allowing one word to be slipped in."""
        found = place = 0
        for text in self.attempt:
            if self.following[place : place + 1] == [text]:
                place += 1
            elif self.following[place + 1 : place + 2] == [text]:
                place += 2
            else:
                continue
            found += 1
        return found

    @cached_property
    def begins_later(self) -> bool:
        """Whether it is what begins further on in the attempt, after other words, that is begun again."""
        beginning = tuple(self.following[:2])
        return self.prefix < len(beginning) and beginning in list(pairwise(self.attempt))

    @cached_property
    def letters(self) -> Sequence[Match]:
        """Which letters of the attempt come again in order (by Ratcliff and Obershelp's measure)."""
        blocks = SequenceMatcher(None, "".join(self.attempt), "".join(self.following), autojunk=False).get_matching_blocks()
        return [block for block in blocks if block.size >= FEWEST_IN_A_ROW]

    @cached_property
    def alike(self) -> float:
        """How much of the attempt's letters comes again, 0 to 1."""
        return sum(block.size for block in self.letters) / max(1, len("".join(self.attempt)))

    @cached_property
    def ends(self) -> bool:
        """Whether a sentence ends before it is begun again, as it is written."""
        return any(word.ends_sentence for word in self.words[self.said[self.first][0] : self.said[self.last][0]])

    @cached_property
    def opens(self) -> bool:
        """Whether it is a sentence, or after a rest, that was begun."""
        place = self.said[self.first][0]
        return place == 0 or self.words[place - 1].ends_sentence or self.pause_after(place - 1) >= RATE // 2

    @cached_property
    def rests(self) -> bool:
        """Whether it audibly breaks off before it is begun again."""
        place = self.said[self.last][0]
        return self.pause_after(place - 1) >= BREAKS_OFF or not self.words[place - 1].text[-1:].isalnum()

    def hangs(self, count: int) -> bool:
        """Whether the first ``count`` words of the attempt break off where no sentence pauses."""
        place, text = self.said[self.first + count - 1]
        stops = not self.words[place].text[-1:].isalnum() or self.pause_after(place) >= RATE * 4 // 10
        return text in HANGING and stops

    def pause_after(self, place: int) -> Ticks:
        return self.words[place + 1].start - self.words[place].end if place + 1 < len(self.words) else 0


def _called_off(again: Again) -> bool:
    attempt, cue = again.attempt, again.cue
    if not cue:
        return False
    if len(attempt) == 1:
        return again.same == 1 and attempt[0] not in CUES
    if again.prefix == 0:
        # Only its first word was understood as another one.
        near = again.alike >= ALIKE and len("".join(attempt)) >= FEWEST_LETTERS
        return again.opens and near and again.letters[0].a <= len(attempt[0])
    if again.begins_later:
        return False
    sure = not PLAIN_CUES.isdisjoint(cue)
    enough = SAME_AFTER_SENTENCE if len(cue) >= CUE_SENTENCE else SAME_AFTER_PLAIN_CUE
    if sure and again.prefix >= 2 and max(again.same / len(attempt), again.alike) >= enough:
        return True
    return again.same >= max(2, SAME_AFTER_CUE * len(attempt)) or (sure and again.alike >= SAME_AFTER_CUE)


def _left_hanging(again: Again) -> bool:
    count = len(again.attempt)
    return (again.prefix >= 3 and again.hangs(again.prefix)) or (count - 2 <= again.prefix >= 2 and again.hangs(count))


def _misheard_at_its_end(again: Again) -> bool:
    """A last word may be what a recogniser makes of a little one where the voice breaks off: "smell that. Smell the …"."""
    if not len(again.attempt) - 1 == again.prefix >= 2 or len(again.following) < again.prefix + 2:
        return False
    heard, meant = again.attempt[-1], again.following[again.prefix]
    return again.rests and meant in HANGING and heard[:1] == meant[:1] and abs(len(heard) - len(meant)) <= 2


def _sentence_begun_again(again: Again) -> bool:
    """Recognisers put a full stop wherever a voice breaks off. What is said again whole is meant, and so are short echoes ("Six
    years. Six years is long") and those that only take up the end of a sentence ("not for four years. For four years I …").
    """
    count = again.last - again.first
    if not again.ends:
        return False
    if again.prefix == count:
        whole = again.words[again.said[min(again.last + count, len(again.said)) - 1][0]].ends_sentence
        return not whole and count >= (3 if again.opens else 4)
    return again.opens and again.prefix >= 4 and again.prefix >= (0.4 if again.prefix >= LONG_PREFIX else 0.6) * count


def _long_beginning(again: Again) -> bool:
    return not again.ends and again.prefix >= LONG_PREFIX and again.same >= 0.6 * len(again.attempt)


def _put_right(again: Again) -> bool:
    """A word put right: cut your patch two fingers, cut your patch three fingers."""
    count = len(again.attempt)
    enough = not again.ends and count >= 4 and again.same >= 0.75 * count and again.prefix >= 3
    return enough and again.attempt[-1] in again.following[again.prefix :]


def _word_for_word(again: Again) -> bool:
    """Word for word, and then its sentence goes on; a short one only where it audibly breaks off."""
    count = len(again.attempt)
    if again.ends or again.same < count or len(again.following) <= count or _is_echo(again):
        return False
    said_twice = again.words[again.said[again.last + count - 1][0]].ends_sentence
    if count >= 3 and not (said_twice and again.opens):
        return True
    return again.rests and not said_twice and (again.opens or again.pause_after(again.said[again.last][0] - 1) >= BREAKS_OFF)


def _is_echo(again: Again) -> bool:
    """Something named, and then spoken of: "Seven hours, seven hours is a long time"; often written with a comma."""
    named = len(again.attempt) <= 3 and again.attempt[0] not in DOUBLED and again.attempt[-1] not in HANGING
    return named and not again.cue and again.following[len(again.attempt)] in SPOKEN_OF


RULES: tuple[tuple[str, Callable[[Again], bool]], ...] = (
    ("said to be given up", _called_off),
    ("left hanging", _left_hanging),
    ("broken off", _misheard_at_its_end),
    ("a sentence begun again", _sentence_begun_again),
    ("a long beginning said again", _long_beginning),
    ("a word put right", _put_right),
    ("said again word for word", _word_for_word),
)
"""How an attempt is known to be given up, with what is told about it."""


def retakes(words: Sequence[Word], cues: Collection[str] = CUES) -> Iterator[Finding]:
    """Attempts that were given up, each up to where the next one begins."""
    plainly = [(index, plain(word.text)) for index, word in enumerate(words)]
    said = [
        (index, HOMOPHONES.get(text, text) if words[index].ends_sentence else text)
        for index, text in plainly
        if text not in FILLERS
    ]
    done = 0
    for first in range(len(said)):
        if said[first][0] < done:
            continue
        for last in _beginnings(words, said, first):
            again = Again(words, said, first, _cue_begins(words, said, first, last, cues), last)
            if why := _given_up(again):
                begin, until = (said[place][0] for place in _from_the_opening(again, done))
                text = " ".join(word.text for word in words[begin:until])
                yield Finding("retake", words[begin].start, words[until].start, text, why=why)
                done = until
                break


def _given_up(again: Again) -> str:
    """What tells that an attempt was given up; nothing where it was not, or was meant to be said twice."""
    if not again.cue and (len(again.attempt) == 1 or again.attempt[-1] in MEANT):
        return ""
    if len(again.attempt) > 1 and again.words[again.said[again.first][0]].ends_sentence:
        return ""  # the end of one sentence is not where the next one was begun
    return next((why for why, holds in RULES if holds(again)), "")


def _from_the_opening(again: Again, done: int) -> tuple[int, int]:
    """From where to where an attempt goes: from the opening of its sentence, where only that word was misheard."""
    earlier, restart = again.first - 1, again.last - 1
    if again.cue or again.opens or earlier < 0 or again.said[earlier][0] < done or restart <= again.first:
        return again.first, again.last
    place = again.said[restart][0]
    broken = again.pause_after(place - 1) >= BREAKS_OFF or not again.words[place - 1].text[-1:].isalnum()
    return (earlier, restart) if broken and replace(again, first=earlier).opens else (again.first, again.last)


def _beginnings(words: Sequence[Word], said: Sequence[tuple[int, str]], first: int) -> Iterator[int]:
    """Where what begins at ``first`` may be begun again, the nearest first: with its first word, or after a plain cue."""
    place, text = said[first]
    for last in range(first + 1, min(first + LONGEST_ATTEMPT, len(said))):
        word = words[said[last][0]]
        if word.start - words[place].start > WITHIN or word.voice != words[place].voice:
            return
        after_cue = said[last - 1][1] in PLAIN_CUES and said[last][1] not in CUES | COUNTED
        if said[last][1] == text or after_cue:
            yield last


def _begins_alike(words: Sequence[Word], said: Sequence[tuple[int, str]], first: int, last: int) -> bool:
    """Whether the same words open the sentence before both: "I'm sorry, but we …" gives nothing up."""

    def opens(at: int) -> bool:
        return said[at][0] == 0 or words[said[at][0] - 1].ends_sentence

    for back in range(1, min(first, last - first - 1, LONGEST_CUE_SENTENCE) + 1):
        if said[first - back][1] != said[last - back][1]:
            return False
        if opens(first - back) and opens(last - back):
            return back > 1
    return False


def _cue_begins(words: Sequence[Word], said: Sequence[tuple[int, str]], first: int, last: int, cues: Collection[str]) -> int:
    """Where the words begin that say, right before ``last``, that what came before was given up; ``last`` if there are none."""
    at = last
    if _begins_alike(words, said, first, last):
        return at
    while at - 1 > first and (said[at - 1][1] in cues or (said[at - 1][1] in COUNTED and said[at - 2][1] == "take")):
        at -= 1
    if at == last or said[last - 1][1] not in PLAIN_CUES:
        return at
    # A short sentence that ends like this says so as a whole: "Let me do that again."
    for begin in range(at, max(first, last - LONGEST_CUE_SENTENCE - 1), -1):
        if words[said[begin][0] - 1].ends_sentence:
            return begin
    return at
