"""Where exports go: the destinations of a show, what is checked before an export runs, and the last listen."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np
from flask import Response
from sqlalchemy.orm import Session

from jaskel.core.checks import Check, checks, without_chapters
from jaskel.core.destination import BUILT_IN, Destination, by_key, fitted_plan
from jaskel.core.last_listen import Level, Place, places_to_hear
from jaskel.core.marks.chapter import Chapter
from jaskel.core.plan import Plan
from jaskel.core.problem import Missing, Problem
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.forms import FORMS
from jaskel.media.probe import room_for
from jaskel.store.destinations import destinations_of, keep_destinations
from jaskel.store.editions import Opened
from jaskel.store.material import marks_of, sessions_in
from jaskel.store.models import EditionRow, Recording, Show, new_id
from jaskel.store.notices import post
from jaskel.web.context import Itself, context, voice_names
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EditionPath, ShowPath
from jaskel.web.schemas.destinations import (
    CheckOut,
    ChecksOut,
    ChecksQuery,
    DestinationFields,
    DestinationPath,
    DestinationsOut,
    HearOut,
    LastListenOut,
    Passed,
    destination_out,
)
from jaskel.web.serializers import reply
from jaskel.web.shows import find_show

api = resource("destinations", __name__)

NAME_PARTS = ("show", "episode", "edition", "destination", "language", "step")
MOST_OWN = 40
MOST_PLACES = 60
"""So many places of a check are told."""


@api.get("/shows/<show_id>/destinations", responses={200: DestinationsOut})
def listed(path: ShowPath):  # type: ignore[no-untyped-def]
    """The destinations of a show: its own, then those there always are."""
    with context().workshop.home.database.read() as session:
        return reply(_listed(find_show(session, path.show_id)))


def _listed(show: Show) -> DestinationsOut:
    own = [destination_out(each, own=True) for each in destinations_of(show)]
    return DestinationsOut(destinations=own + [destination_out(each, own=False) for each in BUILT_IN])


@api.post("/shows/<show_id>/destinations", responses={201: DestinationsOut})
def make(path: ShowPath, body: DestinationFields):  # type: ignore[no-untyped-def]
    """Make a destination that is kept with the show."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        own = destinations_of(show)
        if len(own) >= MOST_OWN:
            raise Problem("too-many", f"A show keeps {MOST_OWN} destinations of its own. Delete one first.")
        _check(body, own, "")
        keep_destinations(show, [*own, body.destination(new_id())])
        return reply(_listed(show), 201)


@api.put("/shows/<show_id>/destinations/<key>", responses={200: DestinationsOut})
def change(path: DestinationPath, body: DestinationFields):  # type: ignore[no-untyped-def]
    """Change a destination of the show's own."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        own = _known(show, path.key)
        _check(body, own, path.key)
        keep_destinations(show, [body.destination(path.key) if each.key == path.key else each for each in own])
        return reply(_listed(show))


@api.delete("/shows/<show_id>/destinations/<key>", responses={200: DestinationsOut})
def remove(path: DestinationPath):  # type: ignore[no-untyped-def]
    """Delete a destination of the show's own. What was exported for it stays."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        keep_destinations(show, [each for each in _known(show, path.key) if each.key != path.key])
        return reply(_listed(show))


def _known(show: Show, key: str) -> tuple[Destination, ...]:
    own = destinations_of(show)
    if all(each.key != key for each in own):
        raise Missing("no-destination", "This destination is not one of the show's own, or not any more.")
    return own


def _check(body: DestinationFields, own: tuple[Destination, ...], key: str) -> None:
    if any(each.name.casefold() == body.name.casefold() and each.key != key for each in (*own, *BUILT_IN)):
        raise Problem("name-taken", f"There is a destination called “{body.name}” already. Give this one another name.")
    unknown = set(re.findall(r"\{([^{}]*)\}", body.names)) - set(NAME_PARTS)
    if unknown:
        known = ", ".join(f"{{{name}}}" for name in NAME_PARTS)
        raise Problem("no-pattern", f"“{{{min(unknown)}}}” is nothing a name can have. What there is: {known}.")


@api.get("/editions/<edition_id>/checks", responses={200: ChecksOut})
def check(path: EditionPath, query: ChecksQuery):  # type: ignore[no-untyped-def]
    """What there is to look at before an edition is exported for a destination."""
    home = context().workshop.home
    with home.database.read() as session:
        opened = home.editions.open(session, path.edition_id)
        episode = session.get_one(EditionRow, path.edition_id).episode
        destination = by_key(query.destination, destinations_of(episode.show))
        if destination is None:
            raise Missing("no-destination", "This destination is not kept with the show any more. Choose another one.")
        base = context().plan(session, opened)
        plan = fitted_plan(opened.edition, base.material, destination)
        missing = [*_missing(session, opened)]
        chapters = bool(marks_of(episode).marks.all(Chapter))
        names = voice_names(session, opened)
    found = [*checks(plan, destination, names, missing)]
    if plan.length and not chapters and (told := without_chapters(destination)):
        found.append(told)
    size = sum(FORMS[form].bytes_a_second for form in destination.forms) * plan.length // RATE
    try:
        room_for(home.vault.root, size, destination.name)
    except Problem as problem:
        found.insert(0, Check("disk space", str(problem), stops=True))
    return reply(ChecksOut(length=plan.length, size=size, checks=[_out(plan, each) for each in found]))


def _out(plan: Plan, check: Check) -> CheckOut:
    places = [plan.laid_at(at) for at in check.places[:MOST_PLACES]]
    return CheckOut(kind=check.kind, told=check.told, stops=check.stops, places=places, count=len(check.places))


def _missing(session: Session, opened: Opened) -> Iterator[str]:
    """The names of recordings that are heard or seen and whose files are not there."""
    vault = context().workshop.home.vault
    tracks = {t.recording for known in sessions_in(session, opened.edition).values() for t in known.tracks}
    for name in sorted(tracks):
        recording = session.get(Recording, name)
        if recording and recording.state == "ready" and not vault.intact(recording.digest, recording.size):
            yield recording.name


@api.get("/editions/<edition_id>/last-listen", responses={200: LastListenOut})
def last_listen(path: EditionPath):  # type: ignore[no-untyped-def]
    """The places that are likeliest to be noticed, a second around each; in all three minutes at most."""
    home = context().workshop.home
    with home.database.read() as session:
        opened = home.editions.open(session, path.edition_id)
        passed = set(session.get_one(EditionRow, path.edition_id).passed)
        plan = context().plan(session, opened)
        level = _level(session, opened)
    found = context().memory.get(("last listen", Itself(plan)), lambda: places_to_hear(plan, level, read=True))
    out = [_to_hear(plan, place, passed) for place in found]
    return reply(LastListenOut(length=sum(each.until - each.begin for each in found), places=out))


def _to_hear(plan: Plan, place: Place, passed: set[str]) -> HearOut:
    # It is passed as long as it sounds the same, whatever is cut elsewhere and however loud the whole becomes.
    key = plan.mixed(place.begin, place.until).digest
    begin, until = plan.laid_at(place.begin), plan.laid_at(place.until - 1) + 1
    return HearOut(key=key, laid=plan.laid_at(place.at), begin=begin, until=until, why=[*place.why], passed=key in passed)


def _level(session: Session, opened: Opened) -> Level:
    """Levels from the envelopes that are kept of every recording: of a session, from that of its first track that is heard."""
    vault = context().workshop.home.vault
    envelopes: dict[str, tuple[np.ndarray, Ticks]] = {}
    for name, known in sessions_in(session, opened.edition).items():
        track = next((each for each in known.tracks if each.sounds), None)
        recording = session.get(Recording, track.recording) if track else None
        file = vault.peaks(recording.digest) if recording else None
        if track and file and file.exists():
            envelopes[name] = np.frombuffer(file.read_bytes(), np.uint8), track.offset
    each = RATE // 100

    def level(name: str, start: Ticks, end: Ticks) -> tuple[float, float] | None:
        if name not in envelopes:
            return None
        peaks, offset = envelopes[name]
        part = peaks[max(0, (start - offset) // each) : max(0, (end - offset) // each)]
        if len(part) < 20:
            return None
        loud, quiet = np.percentile(part, [85, 10])
        return float(20 * np.log10(loud + 1)), float(20 * np.log10(quiet + 1))

    return level


@api.post("/editions/<edition_id>/last-listen", responses={204: None})
def passed(path: EditionPath, body: Passed):  # type: ignore[no-untyped-def]
    """Say of a place that was heard that it is good, or that it is not after all."""
    with context().workshop.home.database.write() as session:
        context().workshop.home.editions.open(session, path.edition_id)
        row = session.get_one(EditionRow, path.edition_id)
        without = [key for key in row.passed if key != body.key]
        row.passed = [*without[-MOST_PASSED:], body.key] if body.passed else without
        post(session, "heard", row.episode_id, id=row.id)
    return Response(status=204)


MOST_PASSED = 2000
"""Places of which is kept that they were passed."""
