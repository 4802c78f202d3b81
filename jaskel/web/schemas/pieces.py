"""Pieces and their sources as they go over the wire."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, StringConstraints, model_validator

from jaskel.core.edition import Piece
from jaskel.core.source import CLOSING, OPENING, SILENCE, Card, Drawn, Recorded, RoomTone, SaidAgain, Silence, Source
from jaskel.web.schemas.common import OneLine, SeveralLines, TicksField

Id = Annotated[str, StringConstraints(min_length=1, max_length=80), OneLine]
DrawnText = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=600), SeveralLines]


class SourceField(BaseModel):
    """What a piece is of: something ``recorded``, a line ``said again``, room tone, silence, a card, ``drawn`` words.

    A line takes the place of ``start`` to ``end`` of ``home``, in which ``track`` has its voice.
    """

    kind: Literal["recorded", "said again", "room tone", "silence", "card", "drawn"]
    recording: Id | None = None
    home: Id | None = None
    track: Id | None = None
    start: TicksField = 0
    end: TicksField = 0
    closing: bool = False
    text: DrawnText | None = None

    @model_validator(mode="after")
    def _complete(self) -> SourceField:
        if (self.kind == "said again") != bool(self.home and self.track):
            raise ValueError("a line said again has its home and its track")
        if (self.kind in ("recorded", "said again", "room tone")) != (self.recording is not None) or (
            self.kind == "drawn"
        ) != bool(self.text):
            raise ValueError("recordings have an id, and drawn pictures their words")
        return self

    @property
    def source(self) -> Source:
        match self.kind:
            case "recorded":
                return Recorded(self.recording or "")
            case "said again":
                return SaidAgain(self.recording or "", self.home or "", self.track or "", self.start, self.end)
            case "room tone":
                return RoomTone(self.recording or "")
            case "silence":
                return SILENCE
            case "card":
                return CLOSING if self.closing else OPENING
            case "drawn":
                return Drawn(self.text or "")


def source_field(source: Source) -> SourceField:
    """A source as it goes over the wire."""
    match source:
        case SaidAgain(recording, home, track, start, end):
            return SourceField(kind="said again", recording=recording, home=home, track=track, start=start, end=end)
        case Recorded(recording):
            return SourceField(kind="recorded", recording=recording)
        case RoomTone(recording):
            return SourceField(kind="room tone", recording=recording)
        case Silence():
            return SourceField(kind="silence")
        case Card(closing):
            return SourceField(kind="card", closing=closing)
        case Drawn(text):
            return SourceField(kind="drawn", text=text)


class PieceField(BaseModel):
    """A stretch of a source as it was copied."""

    source: SourceField
    start: TicksField
    end: TicksField
    kept: bool = True
    why: Annotated[str, StringConstraints(max_length=80), OneLine] = ""
    lifted: bool = False

    @model_validator(mode="after")
    def _possible(self) -> PieceField:
        if self.start >= self.end or (self.kept and self.lifted):
            raise ValueError("a piece begins before it ends, and what is lifted is not kept")
        return self

    @property
    def piece(self) -> Piece:
        return Piece(self.source.source, self.start, self.end, self.kept, self.why, self.lifted)


def piece_field(piece: Piece) -> PieceField:
    """A piece as it goes over the wire."""
    return PieceField(
        source=source_field(piece.source), start=piece.start, end=piece.end, kept=piece.kept, why=piece.why, lifted=piece.lifted
    )
