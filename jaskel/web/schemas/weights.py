"""Weights of the recogniser."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from jaskel.jobs.weights import ARCHIVE, FILES
from jaskel.web.schemas.common import Name
from jaskel.web.schemas.work import JobOut

Piece = Literal[
    "weights.zip",
    "model.bin",
    "config.json",
    "tokenizer.json",
    "vocabulary.json",
    "vocabulary.txt",
    "preprocessor_config.json",
]
"""Files that can be sent: an archive, or those of :data:`jaskel.jobs.weights.FILES`."""

assert set(Piece.__args__) == {ARCHIVE, *FILES}  # type: ignore[attr-defined]


class NewWeights(BaseModel):
    name: Name


class WeightsPath(BaseModel):
    weights_id: str


class FilePath(WeightsPath):
    file: Piece


class WeightsOut(BaseModel):
    id: str
    name: str
    state: Literal["arriving", "checking", "ready", "failed"]
    trouble: str
    languages: list[str] = Field(description="Codes of ISO 639-1.")
    size: int = Field(description="In bytes.")
    speed: float = Field(description="Seconds of sound heard in one second on this machine; 0 where that is not known.")
    ships: bool = Field(description="It comes with Jaskel, and cannot be deleted.")
    job: JobOut | None = None


class AllWeightsOut(BaseModel):
    weights: list[WeightsOut]
