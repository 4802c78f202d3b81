"""What the page shows: the passages of an edition in order, each a run of tokens with their place in laid time.

Tokens do not change when words are struck or put back, only the struck ranges over them do. So a page is built once and an
edit sends no more than those.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from jaskel.core.edition import Edition, Piece
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import SHORTEST_REST, Passage, Transcript, Word

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


@dataclass(frozen=True, slots=True)
class Paragraph:
    """A passage as laid out in an edition."""

    recording: str
    voice: str | None
    tokens: tuple[Token, ...]

    @property
    def at(self) -> Ticks:
        return self.tokens[0].at


def stretches(edition: Edition) -> Iterator[tuple[Piece, Ticks]]:
    """The recordings as laid: pieces that run on into one another as one, kept or not, with their laid time."""
    run: Piece | None = None
    at = 0
    for piece, laid in zip(edition.pieces, edition.starts, strict=False):
        if run is not None and run.runs_on_into(piece):
            run = Piece(run.recording, run.start, piece.end)
            continue
        if run is not None:
            yield run, at
        run, at = Piece(piece.recording, piece.start, piece.end), laid
    if run is not None:
        yield run, at


def lay_out(edition: Edition, transcripts: Mapping[str, Transcript]) -> tuple[Paragraph, ...]:
    """The page of ``edition``. Recordings without a transcript become one token of sound each."""
    page: list[Paragraph] = []
    for stretch, laid in stretches(edition):
        transcript = transcripts.get(stretch.recording)
        if transcript is None or not transcript.words:
            page.append(_sound(stretch, laid))
            continue
        reached = stretch.end if transcript.reached is None else max(transcript.reached, transcript.words[-1].end)
        read = max(0, min(stretch.end, reached) - stretch.start)
        if read:
            page += _paragraphs(stretch.part(0, read), laid, transcript)
        if read < stretch.length:
            page.append(_sound(stretch.part(read, stretch.length), laid + read))
    return tuple(page)


def _sound(stretch: Piece, laid: Ticks) -> Paragraph:
    return Paragraph(stretch.recording, None, (Token("sound", laid, stretch.length, stretch.start),))


def _paragraphs(stretch: Piece, laid: Ticks, transcript: Transcript) -> Iterator[Paragraph]:
    shift = laid - stretch.start
    passages = [p for p in transcript.passages() if p.end > stretch.start and p.start < stretch.end]
    if not passages:
        rest = Token("rest", laid, stretch.length, stretch.start)
        yield Paragraph(stretch.recording, None, (rest,))
    for index, passage in enumerate(passages):
        # The rest before a passage belongs to the one it follows, so that striking a passage takes its pause along.
        begin = stretch.start if index == 0 else passages[index].start
        end = stretch.end if index + 1 == len(passages) else passages[index + 1].start
        tokens = tuple(_tokens(passage, begin, end, shift))
        yield Paragraph(stretch.recording, passage.voice, tokens)


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
        yield Token("word", start + shift, stop - start, start, word.text, word.confidence)
        at = stop
    if at < end:
        yield Token("rest", at + shift, end - at, at)


def laid_words(edition: Edition, transcripts: Mapping[str, Transcript]) -> Iterator[tuple[Word, Ticks]]:
    """Every word of the edition with its laid time, in order; words cut through by the end of a stretch are left out."""
    for stretch, laid in stretches(edition):
        transcript = transcripts.get(stretch.recording)
        for word in transcript.words if transcript else ():
            if word.start >= stretch.start and word.end <= stretch.end:
                yield word, laid + word.start - stretch.start
