"""Accounts, sign-ins, invitations and guests: who somebody is, and what they are in which show.

Secrets (of cookies and links) are handed out once and kept as their SHA-256; they have 256 random bits, so a plain digest is
enough. Passwords are kept as Argon2id hashes with the parameters that argon2-cffi recommends (RFC 9106).
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from secrets import token_urlsafe
from typing import Any, cast

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, literal, select, union_all
from sqlalchemy.orm import Session
from zxcvbn import zxcvbn

from jaskel.core.problem import Problem
from jaskel.core.roles import EVERYTHING, RIGHTS, Right, Role
from jaskel.store.models import (
    Account,
    BroughtText,
    EditionRow,
    Episode,
    Export,
    GuestLink,
    Happening,
    Invitation,
    Job,
    Member,
    Recording,
    SessionRow,
    Show,
    SignIn,
    SpellingRow,
    Take,
    Upload,
    Version,
    Voice,
    now,
)

SIGNED_IN_FOR = timedelta(days=30)
INVITED_FOR = timedelta(days=7)
SHORTEST, LONGEST = 12, 128
"""Characters of a password."""

_hasher = PasswordHasher()
_NOBODYS = _hasher.hash("nobody has this password")
"""Checked where there is no such account, so that this takes as long."""


@dataclass(frozen=True)
class Person:
    """Who is asking. ``id`` is their account's, or that of a guest; ``edition`` is the only one a guest sees."""

    id: str
    name: str
    mail: str = ""
    keeper: bool = False
    second: bool = False
    """Whether they sign in with a second factor."""
    roles: Mapping[str, Role] = field(default_factory=dict)
    edition: str = ""
    show: str = ""
    """The show of a guest's edition."""
    episode: str = ""

    @property
    def is_guest(self) -> bool:
        return bool(self.edition)

    def role_in(self, show_id: str) -> Role | None:
        """What they are in a show, None where they have no part in it."""
        if self.is_guest:
            return Role.GUEST if show_id == self.show else None
        return Role.OWNER if self.keeper else self.roles.get(show_id)

    def rights_in(self, show_id: str) -> frozenset[Right]:
        role = self.role_in(show_id)
        return RIGHTS[role] if role else frozenset()

    def sees(self, show_id: str) -> bool:
        return Right.READ in self.rights_in(show_id)


@dataclass(frozen=True)
class Anybody(Person):
    """Whoever sits at a Jaskel of one person: everything is theirs."""

    def role_in(self, show_id: str) -> Role | None:
        return Role.OWNER

    def rights_in(self, show_id: str) -> frozenset[Right]:
        return EVERYTHING


def digest_of(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def new_account(session: Session, name: str, mail: str, password: str = "", *, keeper: bool = False) -> Account:
    """Make an account; without a password it has to be chosen by a link first.

    Raises
    ------
    Problem
        ``name-taken``, ``mail-taken``, ``bad-mail`` or ``weak-password``.
    """
    name, mail = " ".join(name.split()), mail.strip().casefold()
    if not re.fullmatch(r"[^@\s]+@[^@\s]+", mail) or len(mail) > 254:
        raise Problem("bad-mail", "That is no e-mail address. It looks like name@example.org.")
    if name.casefold() in {each.casefold() for each in session.scalars(select(Account.name))}:
        raise Problem("name-taken", f"Somebody here is called {name} already. Choose a name that tells you apart.")
    if session.scalar(select(Account.id).where(Account.mail == mail)):
        raise Problem("mail-taken", f"{mail} has an account already. Sign in with it, then open the link again.")
    account = Account(name=name, mail=mail, keeper=keeper)
    if password:
        set_password(account, password)
    session.add(account)
    session.flush()
    return account


def set_password(account: Account, password: str) -> None:
    """Give an account a password.

    Raises
    ------
    Problem
        ``weak-password``.
    """
    if not SHORTEST <= len(password) <= LONGEST:
        raise Problem("weak-password", f"A password has {SHORTEST} to {LONGEST} characters. A few words in a row are good.")
    # Looks it up in lists of passwords that leaked, too: https://pypi.org/project/zxcvbn
    found = zxcvbn(password[:72], user_inputs=[account.name, *account.mail.split("@"), "jaskel"])
    if found["score"] < 3:
        raise Problem(
            "weak-password", "That password is easily guessed. Take a few words in a row that do not belong together."
        )
    account.password = _hasher.hash(password)


def account_with(session: Session, mail: str, password: str) -> Account:
    """The account of a mail address and password.

    Raises
    ------
    Problem
        ``not-known``; which of the two was wrong is not told.
    """
    account = session.scalar(select(Account).where(Account.mail == mail.strip().casefold()))
    try:
        _hasher.verify(account.password if account and account.password else _NOBODYS, password)
    except (VerificationError, InvalidHashError):
        account = None
    if account is None or not account.password:
        raise Problem("not-known", "E-mail address and password do not belong together. Check both, and try again.")
    if _hasher.check_needs_rehash(account.password):
        account.password = _hasher.hash(password)
    return account


def sign_in(session: Session, account: Account) -> str:
    """Sign a browser in; gives the secret for its cookie."""
    session.execute(delete(SignIn).where(SignIn.created < now() - SIGNED_IN_FOR))
    return _signed(session, SignIn(account_id=account.id))


def enter(session: Session, link: GuestLink, name: str) -> str:
    """Let a guest in who calls themself ``name``; gives the secret for their cookie."""
    return _signed(session, SignIn(guest_link_id=link.id, guest=name))


def _signed(session: Session, row: SignIn) -> str:
    secret = token_urlsafe(32)
    row.digest = digest_of(secret)
    session.add(row)
    session.flush()
    return secret


def sign_out(session: Session, secret: str) -> None:
    session.execute(delete(SignIn).where(SignIn.digest == digest_of(secret)))


def sign_out_everywhere(session: Session, account_id: str) -> None:
    session.execute(delete(SignIn).where(SignIn.account_id == account_id))


def person_by(session: Session, digest: str) -> Person | None:
    """Who is signed in with a secret of this digest; None where that has ended."""
    found = session.get(SignIn, digest)
    if found is None or found.created < now() - SIGNED_IN_FOR:
        return None
    if account := found.account:
        return person_of(session, account)
    link = found.guest_link
    if link is None or link.ends < now() or link.edition.deleted:
        return None
    # One guest is told from another by their sign-in, without giving away its digest.
    guest = f"guest-{digest_of(digest)[:12]}"
    episode = link.edition.episode
    return Person(guest, f"{found.guest} (guest)", edition=link.edition_id, show=episode.show_id, episode=episode.id)


def person_of(session: Session, account: Account) -> Person:
    """Somebody with an account, and what they are in which show."""
    rows = session.scalars(select(Member).where(Member.account_id == account.id))
    roles = {row.show_id: Role(row.role) for row in rows}
    return Person(account.id, account.name, account.mail, account.keeper, bool(account.second), roles)


def invite(session: Session, label: str, *, show: Show | None = None, role: str = "", account: Account | None = None) -> str:
    """Make an invitation; gives the secret for its link."""
    secret = token_urlsafe(32)
    row = Invitation(digest=digest_of(secret), label=label, role=role, ends=now() + INVITED_FOR)
    row.show, row.account = show, account
    session.add(row)
    session.flush()
    return secret


def invitation_by(session: Session, secret: str) -> Invitation:
    """The invitation of a link.

    Raises
    ------
    Problem
        ``no-invitation``: it was used, taken back, or is too old.
    """
    found = session.scalar(select(Invitation).where(Invitation.digest == digest_of(secret)))
    if found is None or found.ends < now():
        raise Problem("no-invitation", "This link was used already, or is too old. Ask for a new one.")
    return found


def let_guests_in(session: Session, edition: EditionRow, label: str, ends: datetime) -> tuple[GuestLink, str]:
    """Make a link for guests to an edition; gives it with the secret in it."""
    secret = token_urlsafe(32)
    link = GuestLink(digest=digest_of(secret), label=label, ends=ends, edition=edition)
    session.add(link)
    session.flush()
    return link, secret


def guest_link_by(session: Session, secret: str) -> GuestLink:
    """The link for guests that holds a secret.

    Raises
    ------
    Problem
        ``no-guest-link``.
    """
    link = session.scalar(select(GuestLink).where(GuestLink.digest == digest_of(secret)))
    if link is None or link.ends < now() or link.edition.deleted:
        raise Problem("no-guest-link", "This link has ended. Ask whoever sent it to you for a new one.")
    return link


def set_role(session: Session, show_id: str, account_id: str, role: str | None) -> None:
    """Give somebody a role in a show, or none. A show keeps an owner.

    Raises
    ------
    Problem
        ``last-owner``.
    """
    member = session.get(Member, (show_id, account_id))
    owners = session.scalar(select(func.count()).where(Member.show_id == show_id, Member.role == Role.OWNER)) or 0
    if member and member.role == Role.OWNER and role != Role.OWNER and owners < 2:
        raise Problem("last-owner", "A show keeps at least one owner. Make somebody else an owner first.")
    if role is None:
        if member:
            session.delete(member)
    elif member:
        member.role = role
    else:
        session.add(Member(show_id=show_id, account_id=account_id, role=role))
    session.flush()


def names_of(session: Session) -> dict[str, str]:
    """What accounts are called, by their ids."""
    return {account.id: account.name for account in session.scalars(select(Account))}


def happened(session: Session, who: str, told: str, show_id: str | None = None) -> None:
    """Write a line of the log that owners read."""
    session.add(Happening(show_id=show_id, who=who, told=told))


@dataclass(frozen=True)
class Found:
    """A stored thing that a request names: which kind it is, and of which show."""

    kind: str
    show: str


CHUNK = 500


def found_by(session: Session, ids: Iterable[str]) -> dict[str, Found]:
    """What is stored under some ids, of all that belongs to a show."""
    wanted = list(dict.fromkeys(ids))
    found: dict[str, Found] = {}
    for first in range(0, len(wanted), CHUNK):
        some = wanted[first : first + CHUNK]
        for kind, id_, show in session.execute(union_all(*(query.where(table.id.in_(some)) for table, query in _homes()))):
            found[id_] = Found(kind, show)
    return found


def _homes() -> list[tuple[Any, Any]]:
    """For each table of things that belong to a show, a question for its rows with the show they belong to."""

    def of(table: Any, show: Any, *joins: tuple[Any, Any]) -> tuple[Any, Any]:
        query = select(literal(table.__tablename__), table.id, show)
        for other, on in joins:
            query = query.join(other, on)
        return table, query

    show = Episode.show_id
    in_episode = Recording, SessionRow, EditionRow, Take, Upload, Job
    return [
        of(Show, Show.id),
        of(Episode, show),
        *(of(table, show, (Episode, Episode.id == table.episode_id)) for table in cast(Any, in_episode)),
        *(of(table, table.show_id) for table in cast(Any, (Voice, SpellingRow, Invitation))),
        of(
            BroughtText,
            show,
            (Recording, Recording.id == BroughtText.recording_id),
            (Episode, Episode.id == Recording.episode_id),
        ),
        *(
            of(table, show, (EditionRow, EditionRow.id == table.edition_id), (Episode, Episode.id == EditionRow.episode_id))
            for table in cast(Any, (Version, Export, GuestLink))
        ),
    ]
