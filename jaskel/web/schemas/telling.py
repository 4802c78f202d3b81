"""Whom a show tells of what is done."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

Kind = Literal["export", "transcribe", "fetch", "fetch address", "process", "publish"]
Mail = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200, pattern=r"^[^@\s,;<>\"]+@[^@\s,;<>\"]+$")]
Call = Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000, pattern=r"^https?://\S+$")]


class TellingFields(BaseModel):
    """People are told by ``mail`` or by ``calls`` to addresses, of ``kinds`` of work."""

    mail: Annotated[list[Mail], Field(max_length=20)] = []
    calls: Annotated[list[Call], Field(max_length=10)] = []
    kinds: Annotated[list[Kind], Field(max_length=6)] = ["export", "publish"]


class TellingOut(TellingFields):
    """``secret`` signs the calls. ``mailbox`` is where simulated mail is looked at, ``can_mail`` whether any can be sent."""

    secret: str
    can_mail: bool
    mailbox: str


class NewAddress(BaseModel):
    """The address of a file of media; ``name`` is what it is to be called, where it is not to be called as there."""

    address: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=2000)]
    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=150)] = ""
