"""Chatter: what is said before the episode begins and after it has ended, and remarks to whoever edits it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from difflib import SequenceMatcher

from jaskel.core.tidy.finding import Finding, phrases_of, plain, sentences_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

Phrases = Sequence[tuple[str, ...]]

REMARKS: Phrases = phrases_of(
    "note for the edit, note to the edit, note for the editor, note to the editor, for the editor, for the edit, cut "
    "that, cut this out, cut that out, cut this bit, edit that out, edit this out, take that out, leave that out, "
    "don't use that, please use the second, use the second answer, use the other take, we can cut that, you can cut "
    "that, can you wait a moment, can we wait a moment, hold on a moment, just a moment please, give me a moment, "
    "excuse me a moment"
)
"""What people say to whoever edits."""

OPENINGS: Phrases = phrases_of(
    "welcome to, welcome back, hello and, hello i'm, hello this is, hi and, hi i'm, good morning, good evening, this "
    "is, my name is, hello everybody, hello everyone, today we, in this episode, i'm your host, you are listening, "
    "you're listening"
)
"""How episodes begin."""

SET_UP: Phrases = phrases_of(
    "from the top, is it on, is this on, are we on, are we recording, we're recording, recording now, red light, "
    "ready when you are, shall we start, should we start, can you hear, testing, one two, sound check, check check, "
    "rolling, take one, here we go, in three, closer to it, how is my level, how are the levels, camera is running, "
    "camera is on, camera's running, camera's on, microphone is on, are you recording, is it running"
)
"""What is said while a recording is set up."""

CLOSINGS: Phrases = phrases_of(
    "was that all right, was that ok, was that okay, did we get, are we done, we're done, stop the recording, stop "
    "recording, shall i stop, can i stop, is it off, that's a wrap, do you want that again, is that it, switch it "
    "off, turn it off, did you get that, you can stop"
)
"""What is said when a recording is over."""

THAT_IS_IT: Phrases = phrases_of("that is it, that's it, that is all, that's all")

LEAD_IN, RING_OUT = RATE * 3 // 10, RATE * 6 // 10
"""Of the rests beside the programme, this much stays before its first and after its last word."""

LONGEST_REMARK, LONGEST_CHATTER = 8, 60
"""Words of the remark that ends a recording, and of all that is said from it on."""

SURE = 0.6
"""What the recogniser is less sure of may be another word."""

ALIKE, TELLING = 0.7, 4
"""So much of the letters is the same (by Ratcliff and Obershelp's measure) where a remark was misheard; one of four words and
more is told where a longer sentence begins with it, too."""

SET_OFF: Ticks = RATE * 35 // 100
LONG = 8
"""Eight words and more before or after a remark, with a rest of 0.35 s between them, are a sentence of their own."""

HEAD, TAIL = 180 * RATE, 90 * RATE
"""So far into a recording one looks for its beginning, and so far from its end for its ending."""

MOST, LARGE = 1 / 3, 1 / 6
"""Shares of what is said in a recording. More than a third of it is never taken for chatter: then the word that told was said
in the episode itself. More than a sixth is listed, but only a person takes it out."""


def chatter(words: Sequence[Word], remarks: Phrases = REMARKS) -> Iterator[Finding]:
    """One finding for what comes before the first real sentence, one for each remark, one for what comes after the last."""
    said = [plain(word.text) for word in words]
    sentences = list(sentences_of(words))
    begin = _beginning(words, said, sentences)
    until = _ending(words, said, sentences)
    if begin and _share(words, 0, begin) > MOST:
        begin = 0
    if until < len(words) and _share(words, until, len(words)) > MOST:
        until = len(words)
    if begin:
        yield _finding(words, 0, begin, "before the first sentence")
    for first, last in sentences:
        remark = _remark(words, said, first, last, remarks) if begin <= first and last <= until else None
        if remark:
            yield _finding(words, *remark, "a remark to whoever edits")
    if until < len(words):
        yield _finding(words, until, len(words), "after the last sentence")


def _finding(words: Sequence[Word], first: int, last: int, why: str) -> Finding:
    """The words from ``first`` up to ``last``, with the rests that would be too much without them."""
    text = " ".join(word.text for word in words[first:last])
    start, end = words[first].start, words[last - 1].end
    if not first and last < len(words):
        end = max(end, words[last].start - LEAD_IN)
    elif first and last == len(words):
        start = min(start, words[first - 1].end + RING_OUT)
    elif last < len(words):
        end = words[last].start  # of the two rests beside a remark one is enough
    return Finding("chatter", start, end, text, why=why, large=_share(words, first, last) > LARGE)


def _share(words: Sequence[Word], first: int, last: int) -> float:
    """How much of what is said in a recording the words from ``first`` up to ``last`` are."""
    return (words[last - 1].end - words[first].start) / (words[-1].end - words[0].start)


def _remark(words: Sequence[Word], said: Sequence[str], first: int, last: int, phrases: Phrases) -> tuple[int, int] | None:
    """From-to of the remark in a sentence; None where there is none.

    It is the whole sentence, unless what was said before or after it is long, and set off by a rest: then the recogniser took
    two sentences for one.
    """
    for phrase in phrases:
        for at in range(first, last - len(phrase) + 1):
            if tuple(said[at : at + len(phrase)]) != phrase:
                continue
            until = next((end for end in range(at + len(phrase), last) if _rest(words, end) >= SET_OFF), last)
            begun = next((start for start in range(at, first, -1) if _rest(words, start) >= SET_OFF), first)
            return begun if begun - first >= LONG else first, until if last - until >= LONG else last
    return (first, last) if _misheard(words, said, first, last, phrases) else None


def _says(said: Sequence[str], first: int, last: int, phrases: Phrases) -> bool:
    return any(
        tuple(said[at : at + len(phrase)]) == phrase for phrase in phrases for at in range(first, last - len(phrase) + 1)
    )


def _misheard(words: Sequence[Word], said: Sequence[str], first: int, last: int, phrases: Phrases) -> bool:
    """Whether a sentence may be a remark, or begin with a longer one, of which the recogniser made other words.

    What it was sure of stands in the remark, too, and with the rest its letters are much the same.
    """
    for phrase in phrases:
        for until in range(first + max(2, len(phrase) - 1), min(last, first + len(phrase) + 1) + 1):
            here = said[first:until]
            doubted = [text for text, word in zip(here, words[first:until], strict=True) if word.confidence < SURE]
            if not doubted or (until < last and len(phrase) < TELLING):
                continue
            if all(text in phrase or text in doubted for text in here) and _alike("".join(phrase), "".join(here)):
                return True
    return False


def _alike(one: str, other: str) -> bool:
    return SequenceMatcher(None, one, other, autojunk=False).ratio() >= ALIKE


def _beginning(words: Sequence[Word], said: Sequence[str], sentences: Sequence[tuple[int, int]]) -> int:
    """The first word of the first real sentence; 0 where nothing tells that anything comes before it."""
    early = [(first, last) for first, last in sentences if words[first].start - words[0].start < HEAD]
    set_up = [last for first, last in early if _says(said, first, last, SET_UP)]
    opening = next((first for first, last in early if _says(said, first, min(last, first + 6), OPENINGS)), None)
    if opening is not None and (not set_up or set_up[0] <= opening):
        # Without a word of setting up, only a rest tells that what came before is not part of it.
        return opening if set_up or (opening and _rest(words, opening) >= RATE) else 0
    return _after_set_up(words, set_up)


def _after_set_up(words: Sequence[Word], set_up: Sequence[int]) -> int:
    place = set_up[-1] if set_up else 0
    return place if 0 < place < len(words) and _rest(words, place) >= RATE * 6 // 10 else 0


def _ending(words: Sequence[Word], said: Sequence[str], sentences: Sequence[tuple[int, int]]) -> int:
    """One after the last word of the last real sentence."""
    for first, last in sentences:
        late = first and words[-1].end - words[first].start < TAIL
        short = last - first <= LONGEST_REMARK and len(words) - first <= LONGEST_CHATTER
        # “That is it” may be the last sentence of an episode; it is chatter where something is said after it.
        over = last < len(words) and any(tuple(said[max(first, last - len(phrase)) : last]) == phrase for phrase in THAT_IS_IT)
        if late and short and (over or _says(said, first, last, CLOSINGS)):
            return first
    return len(words)


def _rest(words: Sequence[Word], index: int) -> Ticks:
    return words[index].start - words[index - 1].end if index else 0
