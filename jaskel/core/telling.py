"""Operations in words, for the history."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from jaskel.core.edition import CARD, CLOSING, is_rest
from jaskel.core.levels import MUTED
from jaskel.core.operations import (
    Adjust,
    Append,
    Become,
    Insert,
    Lift,
    Move,
    Operation,
    PutBack,
    Range,
    Replace,
    Retype,
    Rewrite,
    SetLevels,
    SetSplices,
    Slip,
    Strike,
    Substitute,
    Together,
    Trim,
    joined,
)
from jaskel.core.page import shortened
from jaskel.core.retype import Change
from jaskel.core.timebase import RATE, clock


def describe(operation: Operation, words: Callable[[Range], str]) -> str:
    """One line for the history, such as ``struck “so uh” at 3:11``; ``words`` says what stands in a laid range."""
    match operation:
        case Strike() | Lift() if operation.why in TIDIED:
            return _describe_tidied([operation])
        case Strike() | PutBack() | Lift() | Move():
            ranges = joined(operation.ranges)
            verb = _VERBS[operation.kind]
            if len(ranges) != 1:
                return f"{verb} {len(ranges)} stretches"
            return f"{verb} {words(ranges[0]) or 'a stretch'} at {clock(ranges[0][0])}"
        case Append():
            return "added a recording"
        case Insert():
            return _describe_insert(operation)
        case Trim():
            return f"moved the edges of the splice at {clock(operation.at, 2)}"
        case Slip():
            return f"slipped what is heard at {clock(operation.at)} by {operation.by / RATE:+.2f} s"
        case SetSplices():
            return "changed a splice" if len(operation.splices) == 1 else f"changed {len(operation.splices)} splices"
        case Adjust():
            return _describe_levels(operation)
        case SetLevels():
            return "changed levels"
        case Together():
            tidied = [each for each in operation.operations if isinstance(each, Strike | Lift) and each.why in TIDIED]
            softer = next((each for each in operation.operations if isinstance(each, Adjust)), None)
            told = _describe_tidied(tidied) if tidied else describe(operation.operations[0], words)
            return f"{told}; {_describe_levels(softer)}" if tidied and softer else told
        case Become():
            return f"went back to {operation.what}" if operation.what else "went back"
        case Substitute():
            return "replaced a recording by another file of it"
        case Retype():
            return _describe_retype(operation.changes)
        case Replace():
            return "joined recordings into a session" if operation.by else "took a recording off the page"
        case Rewrite():
            return _describe_rewrite(operation)


TIDIED = {
    "filler": ("filler", "fillers"),
    "doubled": ("word said twice", "words said twice"),
    "empty word": ("empty word", "empty words"),
    "voice without words": ("sound without words", "sounds without words"),
    "long rest": ("long rest", "long rests"),
    "retake": ("retake", "retakes"),
    "chatter": ("stretch of chatter", "stretches of chatter"),
}
"""What accepting findings took out, by the reason that is written down with it: one, and several."""


def _describe_tidied(operations: Sequence[Strike | Lift]) -> str:
    told = [f"{len(each.ranges)} {TIDIED[each.why][len(each.ranges) != 1]}" for each in operations]
    verb = "shortened" if {each.why for each in operations} == {"long rest"} else "took out"
    return f"{verb} {', '.join(told[:-1])}{' and ' if len(told) > 1 else ''}{told[-1]}"


_VERBS = {Strike.kind: "struck", PutBack.kind: "put back", Lift.kind: "lifted", Move.kind: "moved"}


def _describe_insert(operation: Insert) -> str:
    length = sum(piece.length for piece in operation.pieces) / RATE
    what = "a rest" if all(is_rest(piece.recording) for piece in operation.pieces) else "a stretch"
    return f"put in {what} of {length:.1f} s at {clock(operation.at)}"


def _describe_rewrite(operation: Rewrite) -> str:
    pieces = [piece for edit in operation.edits for piece in edit.pieces]
    if not pieces:
        return "took a card off"
    if all(piece.recording == CARD for piece in pieces):
        which = "closing" if pieces[0].start >= CLOSING else "opening"
        return f"set a card of {pieces[0].length / RATE:.1f} s for the {which}"
    return "changed the order"


def _describe_levels(operation: Adjust) -> str:
    if operation.tracks:
        return f"set a track to {operation.tracks[0][1]:+.1f} dB"
    decibels = operation.stretches[0].decibels
    places = {(level.recording, level.start) for level in operation.stretches}
    if len(places) > 1:
        return f"{len(places)} stretches at {decibels:+.1f} dB"
    told = "muted" if decibels <= MUTED else "as recorded" if not decibels else f"{decibels:+.1f} dB"
    return f"a stretch of one track: {told}"


def _describe_retype(changes: Sequence[Change]) -> str:
    if len(changes) != 1:
        return f"retyped {len(changes)} places"
    (change,) = changes
    old, new = (" ".join(word.text for word in words) for words in (change.old, change.new))
    if old == new:
        if {word.voice for word in change.old} != {word.voice for word in change.new}:
            return f"gave “{shortened(old)}” to another voice"
        return f"changed where a passage begins at “{shortened(old)}”"
    if not new:
        return f"took the text of “{shortened(old)}” off"
    return f"retyped “{shortened(old)}” as “{shortened(new)}”" if old else f"put in “{shortened(new)}”"
