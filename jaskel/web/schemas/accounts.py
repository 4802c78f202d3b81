"""Accounts, roles, invitations, guests, and who is here."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, StringConstraints

from jaskel.core.roles import Role
from jaskel.web.schemas.common import Name, OneLine, TicksField

Mail = Annotated[str, StringConstraints(strip_whitespace=True, max_length=254)]
Password = Annotated[str, StringConstraints(max_length=1000)]
PersonName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60), OneLine]
Secret = Annotated[str, StringConstraints(min_length=20, max_length=100)]
Code = Annotated[str, StringConstraints(strip_whitespace=True, max_length=20)]
Given = Literal[Role.OWNER, Role.EDITOR, Role.PROOFREADER, Role.EXPORTER]
Label = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), OneLine]


class MeOut(BaseModel):
    """Who asks. Without a ``team`` there are no accounts, and nobody signs in; guests have an ``edition`` of an ``episode``.

    ``second`` tells that they sign in with a second factor.
    """

    team: bool
    signed_in: bool
    id: str = ""
    name: str = ""
    mail: str = ""
    keeper: bool = False
    second: bool = False
    edition: str = ""
    episode: str = ""


class SignInIn(BaseModel):
    """``code`` are the figures of the second factor, where the account has one."""

    mail: Mail
    password: Password
    code: Code = ""


class PasswordIn(BaseModel):
    old: Password
    new: Password


class SecondFactorOut(BaseModel):
    """A new secret for an authenticator app, and the ``address`` with it in it that a QR code holds."""

    secret: str
    address: str


class SecondFactorIn(BaseModel):
    """The secret an app was given, the figures it shows, and the password of the account."""

    secret: Secret
    code: Code
    password: Password


class NoSecondFactorIn(BaseModel):
    code: Code
    password: Password


class SecretIn(BaseModel):
    secret: Secret


class InvitationOut(BaseModel):
    """What a link is for: a ``role`` in a ``show``, or, for ``mail``, choosing a password. ``ends`` is a date (ISO 8601)."""

    show: str
    role: str
    name: str
    mail: str
    ends: str


class JoinIn(BaseModel):
    """Who opens an invitation: somebody new, or (with nothing but the secret) somebody who is signed in."""

    secret: Secret
    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=60), OneLine] = ""
    mail: Mail = ""
    password: Password = ""


class EnterIn(BaseModel):
    secret: Secret
    name: PersonName


class MemberOut(BaseModel):
    id: str
    name: str
    mail: str
    role: Role
    keeper: bool


class WaitingInvitationOut(BaseModel):
    id: str
    label: str
    role: str
    ends: str


class GuestLinkOut(BaseModel):
    id: str
    label: str
    edition: str
    episode: str
    ends: str


class TeamOut(BaseModel):
    """Those of a show. Addresses, invitations and links are for its owners."""

    members: list[MemberOut]
    invitations: list[WaitingInvitationOut]
    guests: list[GuestLinkOut]


class InvitationIn(BaseModel):
    role: Given
    label: Label = ""


class RoleIn(BaseModel):
    role: Given


class GuestsIn(BaseModel):
    """A link for guests, for so many days."""

    label: Name
    days: Annotated[int, Field(ge=1, le=365)] = 14


class LinkOut(BaseModel):
    """A link that is shown this once; only its digest is kept."""

    link: str
    ends: str


class InvitationPath(BaseModel):
    invitation_id: str


class GuestLinkPath(BaseModel):
    guest_link_id: str


class MemberPath(BaseModel):
    show_id: str
    account_id: str


class HappeningOut(BaseModel):
    """A line of the log; ``at`` is a time (ISO 8601)."""

    who: str
    told: str
    at: str


class HappeningsOut(BaseModel):
    happenings: list[HappeningOut]


class HereIn(BaseModel):
    """Where a window is, in laid time."""

    at: TicksField
    window: Annotated[str, StringConstraints(max_length=80)] = ""


class PresentOut(BaseModel):
    """Somebody else who has this edition open, and where, in laid time."""

    name: str
    initials: str
    at: TicksField


class PresenceOut(BaseModel):
    others: list[PresentOut]
