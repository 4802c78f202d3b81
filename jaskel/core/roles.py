"""Who may do what with a show: roles, and the rights they come down to.

On a Jaskel of one person nobody has a role and everything is allowed. Where several work together, each has one role in a
show; a guest has no account and sees one edition.
"""

from __future__ import annotations

from enum import StrEnum


class Right(StrEnum):
    """Something that can be done with a show, coarse enough to be said in a sentence."""

    LISTEN = "listen"
    """Hear one edition and read what is kept of it."""
    NOTE = "note"
    """Write notes, answer them, and suggest cuts."""
    READ = "read"
    """See everything of the show, and hear its recordings."""
    WORDS = "words"
    """Have words transcribed or bring them, correct them, and say whose they are."""
    CAPTIONS = "captions"
    """Set how captions read and look."""
    EXPORT_TEXT = "export text"
    """Export captions and text."""
    EXPORT = "export"
    """Export in every form."""
    EDIT = "edit"
    """Change everything else: the cut, sound, picture, recordings, settings; lock passages, accept suggested cuts."""
    OWN = "own"
    """Invite people, change their roles, see the log, delete the show."""


class Role(StrEnum):
    """What somebody is in a show."""

    OWNER = "owner"
    EDITOR = "editor"
    PROOFREADER = "proofreader"
    EXPORTER = "exporter"
    GUEST = "guest"


_GUEST = frozenset({Right.LISTEN, Right.NOTE})
_EXPORTER = frozenset({Right.LISTEN, Right.READ, Right.EXPORT_TEXT, Right.EXPORT})
_PROOFREADER = frozenset({*_GUEST, Right.READ, Right.WORDS, Right.CAPTIONS, Right.EXPORT_TEXT})
_EDITOR = frozenset(Right) - {Right.OWN}

RIGHTS: dict[Role, frozenset[Right]] = {
    Role.OWNER: frozenset(Right),
    Role.EDITOR: _EDITOR,
    Role.PROOFREADER: _PROOFREADER,
    Role.EXPORTER: _EXPORTER,
    Role.GUEST: _GUEST,
}

GIVEN = (Role.EDITOR, Role.PROOFREADER, Role.EXPORTER, Role.OWNER)
"""Roles that an invitation can give; guests come by a link to one edition."""

EVERYTHING = frozenset(Right)
"""What a person by themself may do."""

OF_OPERATIONS: dict[str, Right] = {
    "retype": Right.WORDS,
    "give voice": Right.WORDS,
    "accept": Right.WORDS,
    "passage": Right.WORDS,
    "caption rules": Right.CAPTIONS,
    "caption look": Right.CAPTIONS,
    "caption wording": Right.CAPTIONS,
    "caption break": Right.CAPTIONS,
    "caption alone": Right.CAPTIONS,
    "caption file": Right.CAPTIONS,
    "caption second": Right.CAPTIONS,
}
"""What operations on an edition need, by their kind; all others need :attr:`Right.EDIT`."""


OF_JOBS: dict[str, Right] = {
    **dict.fromkeys(("transcribe", "voices", "bring", "spell"), Right.WORDS),
    "export": Right.EXPORT,
}
"""What it needs to stop work, or to let it go on, by its kind; all other work needs :attr:`Right.EDIT`."""


def right_for(operation: str) -> Right:
    """The right an operation needs.

    >>> right_for("retype"), right_for("strike")
    (<Right.WORDS: 'words'>, <Right.EDIT: 'edit'>)
    """
    return OF_OPERATIONS.get(operation, Right.EDIT)


TOLD: dict[Right, str] = {
    Right.LISTEN: "listen here",
    Right.NOTE: "write notes",
    Right.READ: "look at this show",
    Right.WORDS: "correct words",
    Right.CAPTIONS: "change captions",
    Right.EXPORT_TEXT: "export",
    Right.EXPORT: "export sound and picture",
    Right.EDIT: "change that",
    Right.OWN: "do that",
}


def refusal(role: Role | None, right: Right) -> str:
    """The sentence that tells somebody what they may not do.

    >>> refusal(Role.PROOFREADER, Right.EDIT)
    'A proofreader cannot change that. Ask an owner of this show for another role.'
    """
    if role is None:
        return "You are not part of this show. Ask one of its owners for an invitation."
    article = "An" if role[0] in "aeiou" else "A"
    return f"{article} {role} cannot {TOLD[right]}. Ask an owner of this show for another role."
