"""Sentences begun again: the attempts that were given up.

An attempt is given up where what follows begins with the same words, all of them, and goes on; or where a word says so
("sorry, again"). Lists with the same beginning differ in their last word and are no retakes; nor is what is repeated on
purpose: whole sentences, and what is joined by "and", "by" or "after".
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import Finding, plain, set_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

CUES = set_of("sorry again wait no okay ok right actually so well once more let me start over take")
"""Words between an attempt that was given up and the next one."""

COUNTED = set_of("one two three four five six")

MEANT = set_of("and or by after to upon in")
"""Between two that are the same, these say that it is meant: better and better, little by little."""

LONGEST_ATTEMPT = 28
"""Words. Whoever gets further than that begins a new sentence."""

WITHIN: Ticks = 45 * RATE

SAME_AFTER_CUE = 0.7
"""How much of an attempt must be said again where a word says that it was given up."""

PLAIN_CUES = set_of("sorry again wait start over take")
SAME_AFTER_PLAIN_CUE = 0.6
"""These words leave less doubt than "no" or "well" do; and recognisers mishear what is broken off."""

SAME_AFTER_SENTENCE, CUE_SENTENCE = 0.5, 3
"""And three words and more, as "let me start again", leave none."""


def retakes(words: Sequence[Word], cues: Collection[str] = CUES) -> Iterator[Finding]:
    """Attempts that were given up, each up to where the next one begins."""
    said = [(index, plain(word.text)) for index, word in enumerate(words) if plain(word.text) not in FILLERS]
    done = 0
    for first in range(len(said)):
        if said[first][0] < done:
            continue
        last = _next_attempt(words, said, first, cues)
        if last is not None:
            begin, until = said[first][0], said[last][0]
            text = " ".join(word.text for word in words[begin:until])
            yield Finding("retake", words[begin].start, words[until].start, text, why="begun again after it")
            done = until


def _next_attempt(words: Sequence[Word], said: Sequence[tuple[int, str]], first: int, cues: Collection[str]) -> int | None:
    """Where what begins at ``first`` is begun again, the nearest; None where it is not."""
    for last in range(first + 1, min(first + LONGEST_ATTEMPT, len(said))):
        if words[said[last][0]].start - words[said[first][0]].start > WITHIN:
            return None
        if words[said[last][0]].voice != words[said[first][0]].voice:
            return None
        if said[last][1] != said[first][1]:
            continue
        attempt = [text for _, text in said[first:last]]
        cued = 0
        while len(attempt) > 1 and (attempt[-1] in cues or (attempt[-1] in COUNTED and attempt[-2] == "take")):
            attempt.pop()
            cued += 1
        following = [text for _, text in said[last : last + len(attempt) + 2]]
        if _given_up(words, said, last, attempt, following, cued):
            return last
    return None


def _given_up(
    words: Sequence[Word], said: Sequence[tuple[int, str]], last: int, attempt: list[str], following: list[str], cued: int
) -> bool:
    """Whether an attempt is said again by what follows, and was not meant to be said twice."""
    if not cued and attempt[-1] in MEANT:
        return False
    same, prefix = _in_order(attempt, following), _prefix(attempt, following)
    cue = [text for _, text in said[last - cued : last]]
    if len(attempt) == 1:
        return bool(cued) and same == 1 and attempt[0] not in CUES
    if cued and same >= max(2, (_enough(cue) if prefix >= 2 else SAME_AFTER_CUE) * len(attempt)):
        return True
    first = last - cued - len(attempt)
    if prefix >= 3 and _left_hanging(words, said, first + prefix - 1):
        return True
    if len(attempt) - 2 <= prefix >= 2 and _left_hanging(words, said, first + len(attempt) - 1):
        return True
    if len(attempt) - 1 == prefix >= 2 and _broken_off(attempt[-1], following[prefix:]) and _rests(words, said, last):
        return True
    if any(word.ends_sentence for word in words[said[first][0] : said[last][0]]):
        return _sentence_begun_again(words, said, first, last, prefix)
    if prefix >= LONG_PREFIX and same >= 0.6 * len(attempt):
        return True
    # A word put right: cut your patch two fingers, cut your patch three fingers.
    if len(attempt) >= 4 and same >= 0.75 * len(attempt) and attempt[-1] in following[prefix:] and prefix >= 3:
        return True
    # Word for word, and then it goes on; a short one only where it audibly breaks off.
    goes_on = len(following) > len(attempt)
    return goes_on and same == len(attempt) and (len(attempt) >= 3 or _rests(words, said, last))


def _sentence_begun_again(words: Sequence[Word], said: Sequence[tuple[int, str]], first: int, last: int, prefix: int) -> bool:
    """Whether a sentence that ends, as it is written, was begun again. Recognisers put a full stop wherever a voice breaks off.

    What is said again whole is meant, and so are short echoes ("Six years. Six years is long") and those that only take up the
    end of a sentence ("not for four years. For four years I …").
    """
    count = last - first
    whole = prefix == count and words[said[min(last + count, len(said)) - 1][0]].ends_sentence
    if whole:
        return False
    opens = first == 0 or words[said[first][0] - 1].ends_sentence or _pause(words, said[first][0] - 1) >= RATE // 2
    if prefix == count:
        return prefix >= (3 if opens else 4)
    return opens and prefix >= 4 and prefix >= (0.4 if prefix >= LONG_PREFIX else 0.6) * count


LONG_PREFIX = 5
"""Sentences that begin with so many of the same words are one sentence begun twice, even if they go on otherwise: unless so
much is said between them that it would go with the first."""

HANGING = set_of("the a an to of in on at through with for from by is are was and but or my your our his her their")
"""No sentence pauses after these."""


def _left_hanging(words: Sequence[Word], said: Sequence[tuple[int, str]], index: int) -> bool:
    place, text = said[index]
    return text in HANGING and (not words[place].text[-1:].isalnum() or _pause(words, place) >= RATE * 4 // 10)


def _enough(cue: Sequence[str]) -> float:
    """How much of an attempt must be said again after a cue, if it begins with the same words."""
    if PLAIN_CUES.isdisjoint(cue):
        return SAME_AFTER_CUE
    return SAME_AFTER_SENTENCE if len(cue) >= CUE_SENTENCE else SAME_AFTER_PLAIN_CUE


def _broken_off(heard: str, following: Sequence[str]) -> bool:
    """Whether a last word is what a recogniser makes of a little one where the voice breaks off: "smell that. Smell the …"."""
    meant = following[0] if len(following) > 1 else ""
    return meant in HANGING and heard[:1] == meant[:1] and abs(len(heard) - len(meant)) <= 2


def _pause(words: Sequence[Word], place: int) -> Ticks:
    return words[place + 1].start - words[place].end if place + 1 < len(words) else 0


def _prefix(attempt: Sequence[str], following: Sequence[str]) -> int:
    count = 0
    for one, other in zip(attempt, following, strict=False):
        if one != other:
            break
        count += 1
    return count


def _rests(words: Sequence[Word], said: Sequence[tuple[int, str]], index: int) -> bool:
    place = said[index][0]
    return words[place].start - words[place - 1].end >= RATE // 5 or not words[place - 1].text[-1:].isalnum()


def _in_order(attempt: Sequence[str], following: Sequence[str]) -> int:
    """How many words of an attempt are said again in order, from its first on, allowing one word to be slipped in."""
    found = place = 0
    for text in attempt:
        if following[place : place + 1] == [text]:
            place += 1
        elif following[place + 1 : place + 2] == [text]:
            place += 2
        else:
            continue
        found += 1
    return found
