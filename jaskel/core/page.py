"""What the page shows: the passages of an edition in order, each a run of tokens with their place in laid time.

Tokens do not change when words are struck or put back, only the struck ranges over them do. So a page is built once and an
edit sends no more than those.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from jaskel.core.edition import Edition, Piece
from jaskel.core.source import Recorded, SaidAgain, Source, home_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import SHORTEST_REST, Passage, Transcript, Word, shortened
from jaskel.core.written import written

Range = tuple[Ticks, Ticks]

UNSURE = 0.5
"""Words the recogniser gave less than even odds are marked as doubtful."""


@dataclass(frozen=True, slots=True)
class Token:
    """A word, a rest, or sound without a transcript, from ``at`` on in laid time.

    ``start`` is the same place in the recording. The lengths of a page's tokens add up to the edition's.
    """

    kind: Literal["word", "rest", "sound"]
    at: Ticks
    length: Ticks
    start: Ticks
    text: str = ""
    confidence: float = 1.0
    loose: bool = False
    over: bool = False
    """Whether another voice speaks meanwhile."""
    pickup: str = ""
    """The recording of a line said again; it stands among the words it belongs to."""


@dataclass(frozen=True, slots=True)
class Aside:
    """Words under those of another voice: where they begin and end in laid time, who says them, and what."""

    at: Ticks
    end: Ticks
    voice: str | None
    text: str


@dataclass(frozen=True, slots=True)
class Paragraph:
    """A passage as laid out in an edition. It may be *cut* at either end: there the passage goes on elsewhere, or nowhere."""

    source: Source
    voice: str | None
    tokens: tuple[Token, ...]
    asides: tuple[Aside, ...] = ()
    cut_before: bool = False
    cut_after: bool = False

    @property
    def at(self) -> Ticks:
        return self.tokens[0].at


INSERTED: Ticks = -1
"""The place in its recording of a rest that was put in: it has none."""

MOST_TOKENS = 240
"""Words laid together from many places are parted after so many, for the page to be drawn passage by passage."""


def lay_out(edition: Edition, transcripts: Mapping[str, Transcript]) -> tuple[Paragraph, ...]:
    """The page of ``edition``. Recordings without a transcript become one token of sound each."""
    page: list[Paragraph] = []
    for source, start, end, laid in edition.runs:
        stretch = Piece(source, start, end)
        if not isinstance(source, Recorded):
            page.append(Paragraph(source, None, (Token("rest", laid, end - start, INSERTED),)))
            continue
        transcript = transcripts.get(source.recording)
        if transcript is None or not transcript.words:
            page.append(_sound(stretch, laid))
            continue
        reached = stretch.end if transcript.reached is None else max(transcript.reached, transcript.words[-1].end)
        read = max(0, min(stretch.end, reached) - stretch.start)
        if read:
            page += _paragraphs(stretch.part(0, read), laid, transcript)
        if read < stretch.length:
            page.append(_sound(stretch.part(read, stretch.length), laid + read))
    return tuple(_flowing(page))


def heard_of(page: Sequence[Paragraph], silent: Sequence[Range]) -> tuple[Paragraph, ...]:
    """A page with nothing of what lies in ranges of laid time: what somebody reads who is not to know what was taken out."""

    def heard(at: Ticks, end: Ticks) -> bool:
        first = bisect_right(silent, at, key=lambda each: each[1])
        return first == len(silent) or silent[first][0] >= end

    return tuple(
        replace(passage, tokens=tokens, asides=tuple(each for each in passage.asides if heard(each.at, each.end)))
        for passage in page
        if (tokens := tuple(each for each in passage.tokens if heard(each.at, each.at + each.length)))
    )


def _flowing(page: Sequence[Paragraph]) -> Iterator[Paragraph]:
    """The same with what was parted by moving words or by rests put in set as one again, where one voice goes on."""
    last: Paragraph | None = None
    for paragraph in page:
        if last is not None and _goes_on(last, paragraph):
            put_in = not isinstance(paragraph.source, Recorded) or isinstance(paragraph.source, SaidAgain)
            last = replace(
                last,
                tokens=last.tokens + paragraph.tokens,
                asides=last.asides + paragraph.asides,
                cut_after=last.cut_after if put_in else paragraph.cut_after,
            )
            continue
        if last is not None:
            yield last
        last = paragraph
    if last is not None:
        yield last


def _goes_on(before: Paragraph, after: Paragraph) -> bool:
    if after.tokens[0].start == INSERTED:
        return before.tokens[0].kind != "sound"  # a rest belongs to what it follows
    words = "sound" not in (before.tokens[0].kind, after.tokens[0].kind)
    same = words and home_of(before.source) == home_of(after.source) and before.voice == after.voice
    said_again = isinstance(after.source, SaidAgain)
    return same and (said_again or before.cut_after or after.cut_before) and len(before.tokens) < MOST_TOKENS


def _sound(stretch: Piece, laid: Ticks) -> Paragraph:
    return Paragraph(stretch.source, None, (Token("sound", laid, stretch.length, stretch.start),))


def _paragraphs(stretch: Piece, laid: Ticks, transcript: Transcript) -> Iterator[Paragraph]:
    shift = laid - stretch.start
    passages = [p for p in transcript.passages() if p.end > stretch.start and p.start < stretch.end]
    if not passages:
        rest = Token("rest", laid, stretch.length, stretch.start)
        yield Paragraph(stretch.source, None, (rest,))
    for index, passage in enumerate(passages):
        # The rest before a passage belongs to the one it follows, so that striking a passage takes its pause along.
        begin = stretch.start if index == 0 else passages[index].start
        end = stretch.end if index + 1 == len(passages) else passages[index + 1].start
        tokens = tuple(_tokens(passage, begin, end, shift))
        if isinstance(stretch.source, SaidAgain):
            tokens = tuple(replace(each, pickup=stretch.source.recording) for each in tokens)
        asides = tuple(_asides(transcript, begin, end, shift))
        yield Paragraph(stretch.source, passage.voice, tokens, asides, begin > passage.start, end < passage.end)


ASIDE_REST: Ticks = RATE // 2
"""Words under another voice that follow within half a second are one aside."""


def _asides(transcript: Transcript, begin: Ticks, end: Ticks, shift: Ticks) -> Iterator[Aside]:
    run: list[Word] = []
    first = bisect_left(transcript.asides, begin, key=lambda word: word.start)
    for word in transcript.asides[first : bisect_left(transcript.asides, end, key=lambda word: word.start)]:
        if run and (word.voice != run[-1].voice or word.start - run[-1].end > ASIDE_REST):
            yield _aside(run, shift)
            run = []
        run.append(word)
    if run:
        yield _aside(run, shift)


def _aside(words: list[Word], shift: Ticks) -> Aside:
    return Aside(words[0].start + shift, words[-1].end + shift, words[0].voice, written(word.text for word in words))


def _tokens(passage: Passage, begin: Ticks, end: Ticks, shift: Ticks) -> Iterator[Token]:
    words = [word for word in passage.words if word.end > begin and word.start < end]
    at = begin
    for index, word in enumerate(words):
        start = max(begin, word.start)
        if start - at >= SHORTEST_REST:
            yield Token("rest", at + shift, start - at, at)
        elif start > at:
            start = at  # a gap too short to be a rest leads into the word after it
        until = words[index + 1].start if index + 1 < len(words) else end
        stop = min(end, word.end)
        if 0 < until - stop < SHORTEST_REST and index + 1 == len(words):
            stop = until
        yield Token("word", start + shift, stop - start, start, word.text, word.confidence, word.loose, word.over)
        at = stop
    if at < end:
        yield Token("rest", at + shift, end - at, at)


"""Laid time, from and to."""


def text_in(page: Sequence[Paragraph], laid: Range) -> str:
    """The words between two laid times: those that have their middle there."""
    return written(token.text for token in _tokens_in(page, laid) if token.kind == "word" and _middle_in(token, laid))


def phrase_for(page: Sequence[Paragraph], laid: Range) -> str:
    """What stands between two laid times, as one says it: its words, else what there is instead of words."""
    if text := text_in(page, laid):
        return f"“{shortened(text)}”"
    seconds = (laid[1] - laid[0]) / RATE
    if any(token.kind == "sound" for token in _tokens_in(page, laid)):
        return f"{seconds:.1f} s of sound without words"
    rests = [(token, _shared(token, laid)) for token in _tokens_in(page, laid) if token.kind == "rest"]
    if any(shared >= MOST_OF_IT * token.length for token, shared in rests):
        return "a rest"
    within = sum(shared for _, shared in rests) * 2 > laid[1] - laid[0]
    return f"{seconds:.1f} s of a rest" if within else f"{seconds:.2f} s of sound"


MOST_OF_IT = 0.8
"""A rest is called so where four fifths of it are meant: selections reach a little further, or not quite so far."""


def _shared(token: Token, laid: Range) -> Ticks:
    return min(laid[1], token.at + token.length) - max(laid[0], token.at)


def _tokens_in(page: Sequence[Paragraph], laid: Range) -> list[Token]:
    starts = [passage.at for passage in page]
    within = page[max(0, bisect_right(starts, laid[0]) - 1) : bisect_left(starts, laid[1])]
    return [each for passage in within for each in passage.tokens if each.at + each.length > laid[0] and each.at < laid[1]]


def _middle_in(token: Token, laid: Range) -> bool:
    return laid[0] <= token.at + token.length // 2 < laid[1]


def laid_words(edition: Edition, transcripts: Mapping[str, Transcript]) -> Iterator[tuple[str, Word, Ticks]]:
    """Every word of the edition with its recording before and its laid time after it, in order.

    Words cut through by the end of a stretch are left out.
    """
    for source, start, end, laid in edition.runs:
        if not isinstance(source, Recorded):
            continue
        transcript = transcripts.get(source.recording)
        for word in transcript.words if transcript else ():
            if word.start >= start and word.end <= end:
                yield source.recording, word, laid + word.start - start
