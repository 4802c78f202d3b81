"""What requests work with: the workshop, and what has been compiled from editions."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import partial
from threading import Lock, get_ident
from typing import Any, TypeVar, cast

from cachetools import LRUCache
from flask import current_app
from sqlalchemy.orm import Session

from jaskel.core.captions.screens import Moment, Screen
from jaskel.core.muted import has_muted, muted_ranges
from jaskel.core.operations import Range, Strike, apply, joined
from jaskel.core.page import Paragraph, lay_out
from jaskel.core.plan import Material, Plan, SoundSlice, compile_plan
from jaskel.core.plan.material import Later
from jaskel.core.present import Presence
from jaskel.core.tidy.find import find_rests
from jaskel.core.tidy.finding import Finding
from jaskel.core.tidy.heard import NOTHING
from jaskel.core.tidy.review import Placed, placed
from jaskel.core.tidy.script import Followed, follow
from jaskel.core.tidy.settings import Rhythm, Threshold, rhythm_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript
from jaskel.jobs.tidy import found_in
from jaskel.jobs.workshop import Workshop
from jaskel.settings import Settings
from jaskel.store.editions import Opened
from jaskel.store.material import material_of, sessions_in
from jaskel.store.models import EditionRow, Show
from jaskel.store.sessions import shown_name, transcripts_in, words_name
from jaskel.store.tidying import heard_in, refusals_of, script_of, settings_of, sounds_as

LONG = 120
"""Minutes of a long episode. What comes of it is large: a few of them fill the memory, of short ones there may be many."""

CACHED = 24 * LONG

T = TypeVar("T")


class Itself:
    """A thing as a part of a key: no other has the same key, not even one like it, or one that comes to lie in its place."""

    def __init__(self, thing: object) -> None:
        self._thing = thing

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Itself) and other._thing is self._thing

    def __hash__(self) -> int:
        return id(self._thing)


class Memory:
    """The last results of compiling, by what they were compiled from; of those together so many minutes."""

    def __init__(self, size: int = CACHED) -> None:
        self._kept: LRUCache[Any, tuple[Any, int]] = LRUCache(size, lambda kept: kept[1])
        self._lock = Lock()

    def get(self, key: Any, make: Callable[[], T], minutes: int = LONG) -> T:
        with self._lock:
            if key in self._kept:
                return cast(T, self._kept[key][0])
        made = make()
        with self._lock:
            self._kept[key] = made, max(1, min(minutes, int(self._kept.maxsize)))
        return made


HANDED_OUT = 2048
"""So many blocks of sound that listeners were told of are remembered: more than an hour of listening."""


class Context:
    """One for each server process."""

    def __init__(self, settings: Settings) -> None:
        self.workshop = Workshop(settings)
        self.memory = Memory()
        self.presence = Presence()
        self.drawn = Memory(HANDED_OUT // 16 * LONG)
        """What lies over pictures, as it was drawn, by its name."""
        self.handed_out = Memory(HANDED_OUT * LONG)
        """What sounds in blocks that listeners were told of, by its digest: they ask for it by that."""

    def material(self, session: Session, opened: Opened) -> Material:
        """What an edition is compiled against."""
        key = "sessions", words_name(session, opened.edition.used)
        sessions = self.memory.get(key, lambda: sessions_in(session, opened.edition), minutes_of(opened))
        said = Later(self._when_asked(session, opened))
        return material_of(session, opened.edition, sessions, self.workshop.home.vault, said)

    def _when_asked(self, session: Session, opened: Opened) -> Callable[[], Mapping[str, Transcript]]:
        """Reads what is said when somebody wants to know it.

        Within the request whose ``session`` it is, it is read in that, which may have changed it. A plan is kept for later
        ones, too: they must not bring a closed session back to life, for its connection would never be given back.
        """
        thread = get_ident()

        def said() -> Mapping[str, Transcript]:
            if get_ident() == thread and session.in_transaction():
                return self.transcripts(session, opened)
            with self.workshop.home.database.read() as own:
                return self.transcripts(own, opened)

        return said

    def plan(self, session: Session, opened: Opened, mode: str = "edited", without: Sequence[Range] = ()) -> Plan:
        """The edition as it is heard in ``mode``, or as it would be ``without`` ranges."""
        material, ranges = self.material(session, opened), joined(without)
        words = words_name(session, opened.edition.used)
        known = (
            material.processed,
            frozenset(material.loudness),
            frozenset(material.lengths),
            material.captions,
            frozenset(material.faces),
            material.style,
            frozenset(material.people.items()),
            frozenset(material.footage.items()),
            frozenset(material.envelopes),
            material.titles,
        )
        key = "plan", opened.id, mode, opened.revision, words, known, ranges

        def make() -> Plan:
            edition = apply(opened.edition, Strike(ranges))[0] if ranges else opened.edition
            return compile_plan(edition, material, as_recorded=mode == "recorded")

        return self.memory.get(key, make, minutes_of(opened))

    def screens(self, session: Session, opened: Opened, plan: Plan) -> tuple[Moment, ...]:
        """What is drawn of the captions of a plan (see :meth:`plan`), from when on."""
        names = voice_names(session, opened)
        key = "screens", Itself(plan), tuple(names.items())
        return self.memory.get(key, lambda: plan.screens(names), minutes_of(opened))

    def hand_out(self, made: SoundSlice | Screen) -> str:
        """Remember what sounds in a block, or is on a screen; gives the key it is asked for by."""
        self.handed_out.get(made.digest, lambda: made)
        return made.digest

    def layout(self, session: Session, opened: Opened) -> tuple[str, Callable[[], tuple[Paragraph, ...]]]:
        """A name for the words of an edition as laid out now, and how to lay them out."""
        used = opened.edition.recordings
        order = hashlib.sha256(repr(opened.edition.runs).encode()).hexdigest()[:12]
        name = f"{opened.id}-{order}-{words_name(session, used)}"

        def make() -> tuple[Paragraph, ...]:
            return lay_out(opened.edition, transcripts_in(session, used, self.workshop.home.transcripts))

        return name, lambda: self.memory.get(("page", name), make, minutes_of(opened))

    def muted(self, session: Session, opened: Opened) -> list[tuple[Ticks, Ticks]]:
        """Laid from-to of the words whose voice is muted."""
        if not has_muted(opened.edition.marks):
            return []
        used = opened.edition.recordings
        key = "muted", opened.id, opened.revision, words_name(session, used)
        said = self.transcripts(session, opened)

        def make() -> list[tuple[Ticks, Ticks]]:
            return list(muted_ranges(opened.edition, said, self.material(session, opened).carriers))

        return self.memory.get(key, make, minutes_of(opened))

    def transcripts(self, session: Session, opened: Opened) -> dict[str, Transcript]:
        """What is said in the recordings and sessions of an edition."""
        used = opened.edition.recordings
        key = "transcripts", words_name(session, used)
        return self.memory.get(key, lambda: transcripts_in(session, used, self.workshop.home.transcripts), minutes_of(opened))

    def rhythm(self, session: Session, opened: Opened) -> Rhythm:
        """The median rests of the voices in an edition."""

        def make() -> Rhythm:
            return rhythm_of([word for said in self.transcripts(session, opened).values() for word in said.words])

        return self.memory.get(("rhythm", words_name(session, opened.edition.recordings)), make, minutes_of(opened))

    def followed(self, session: Session, opened: Opened) -> dict[str, Followed]:
        """What was said beside the scripts that were brought, by recording or session."""
        out: dict[str, Followed] = {}
        for name, transcript in self.transcripts(session, opened).items():
            if script := tuple(script_of(session, name)):
                key = "followed", words_name(session, [name]), script
                out[name] = self.memory.get(key, partial(follow, transcript.words, script))
        return out

    def findings(self, session: Session, opened: Opened, limit: Threshold | None = None) -> list[Placed]:
        """What could be tidied in an edition, as it stands there; with a ``limit`` for rests instead of the show's own."""
        refused, out = tuple(refusals_of(session, opened.id).values()), []
        for name, transcript in self.transcripts(session, opened).items():
            found = self._found(session, opened, name, transcript)
            if limit:
                settings = replace(settings_of(show_of(session, opened)), rests=limit, voices={})
                rests = find_rests(transcript.words, heard_in(session, name) or NOTHING, settings)
                found = [*(each for each in found if each.kind != "long rest"), *rests]
            out += placed(opened.edition, name, found, refused)
        return sorted(out, key=lambda each: each.begin)

    def _found(self, session: Session, opened: Opened, name: str, transcript: Transcript) -> list[Finding]:
        show = show_of(session, opened)
        heard = heard_in(session, name) is not None
        wanted = repr(show.tidy), tuple(script_of(session, name))
        key = "findings", words_name(session, [name]), sounds_as(session, name), heard, wanted
        return self.memory.get(key, partial(found_in, session, self.workshop, name, transcript, settings_of(show)))


def minutes_of(opened: Opened) -> int:
    """How long an edition is with what is struck of it, for :class:`Memory`."""
    return opened.edition.length // (60 * RATE)


def show_of(session: Session, opened: Opened) -> Show:
    """The show an edition belongs to."""
    return session.get_one(EditionRow, opened.id).episode.show


def context() -> Context:
    """The context of the application that handles the current request."""
    return cast(Context, current_app.extensions["jaskel"])


def voice_names(session: Session, opened: Opened) -> dict[str, str]:
    """The names of all voices of an edition's show, as they are shown, by their ids."""
    return {voice.id: shown_name(voice) for voice in show_of(session, opened).voices}
