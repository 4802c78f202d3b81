"""Syncing the tracks of a session by their sound, and telling which voice is whose."""

from __future__ import annotations

import itertools

import numpy as np

from jaskel.core.session import Session, Track
from jaskel.core.timebase import RATE, Ticks, from_seconds
from jaskel.jobs.progress import Progress
from jaskel.jobs.workshop import Workshop
from jaskel.media.conform import stretched
from jaskel.speech.crosstalk import HOPS_A_SECOND, levels, own_speech, ranges
from jaskel.speech.sync import Fingerprint, Sync, listen, sync
from jaskel.store.models import Job, Recording, SessionRow, TrackRow
from jaskel.store.notices import post
from jaskel.store.sessions import clock_of


def sync_session(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Find offsets and drifts, and propose the session with them."""
    home = workshop.home
    with home.database.read() as session:
        row = session.get(SessionRow, job.subject)
        recordings = [track.recording for track in row.tracks] if row else []
    heard = []
    for recording in recordings:
        heard.append(listen_to(workshop, recording))
        progress(sum(known.length for known in recordings[: len(heard)]) // 2)
    pairs = list(itertools.combinations(range(len(heard)), 2))
    found: dict[tuple[int, int], Sync] = {}
    for one, other in pairs:
        found[one, other] = sync(heard[one], heard[other])
        progress(job.total // 2 + job.total * len(found) // (2 * len(pairs)))
    places = together(found, len(heard))
    for recording, place in zip(recordings, places, strict=True):
        corrected = home.vault.sound(recording.digest, place.drift)
        if place.drift and not corrected.exists():
            with home.vault.making(corrected) as new:
                stretched(home.vault.sound(recording.digest), place.drift, new)
    with home.database.write() as session:
        row = session.get(SessionRow, job.subject)
        if row is None:
            return  # kept apart meanwhile
        for track, place in zip(row.tracks, places, strict=True):
            track.offset, track.drift, track.sure = from_seconds(place.offset), place.drift, place.sure
        begin_with_earliest(row)
        row.state = "proposed"
        post(session, "session", row.episode_id, id=row.id)


def begin_with_earliest(row: SessionRow) -> None:
    """Begin the session's clock with its earliest track, and note its length."""
    clock = clock_of(row).from_zero()
    for track, placed in zip(row.tracks, clock.tracks, strict=True):
        track.offset, track.own = placed.offset, None
    row.length = clock.length
    row.revision += 1


def listen_to(workshop: Workshop, recording: Recording) -> Fingerprint:
    """What syncing needs to know of a recording."""

    def read(begin: float, end: float) -> np.ndarray:
        return workshop.sound.mono_16k(recording.id, from_seconds(begin), from_seconds(end))

    return listen(read, recording.length / RATE)


def together(found: dict[tuple[int, int], Sync], count: int) -> list[Sync]:
    """Places of all recordings to the first, by the surest chain of pairs; not known where no chain leads."""
    places: dict[int, Sync] = {0: Sync(0.0, 0.0, 1.0, 0)}
    by_worth = sorted(found.items(), key=lambda item: -item[1].sure * item[1].windows)
    while len(places) < count:
        step = next(((pair, s) for pair, s in by_worth if s.known and (pair[0] in places) != (pair[1] in places)), None)
        if step is None:
            break
        (one, other), placed = step
        near, far, link = (one, other, placed) if one in places else (other, one, placed.turned())
        base = places[near]
        stretch = (1 + base.drift) * (1 + link.drift)
        places[far] = Sync(base.offset + link.offset * (1 + base.drift), stretch - 1, min(base.sure, link.sure), link.windows)
    return [places.get(index, Sync(0.0, 0.0, 0.0, 0)) for index in range(count)]


def attribute(workshop: Workshop, session_id: str) -> None:
    """Note for each track that sounds where it is its own voice that is heard, unless that is known."""
    with workshop.home.database.read() as session:
        row = session.get_one(SessionRow, session_id)
        heard = [track for track in row.tracks if track.sounds]
        if all(track.own is not None for track in heard):
            return
        clock = clock_of(row)
    sounding = [track for track in clock.tracks if track.sounds]
    own = own_speech([_levels(workshop, clock, track) for track in sounding])
    with workshop.home.database.write() as session:
        for track, hops in zip(sounding, own, strict=True):
            inside = [[track.to_recording(from_seconds(edge)) for edge in stretch] for stretch in ranges(hops)]
            session.get_one(TrackRow, track.recording).own = [
                [max(0, a), min(track.length, b)] for a, b in inside if b > 0 and a < track.length
            ]


def _levels(workshop: Workshop, clock: Session, track: Track) -> np.ndarray:
    """Levels of a track on the session's clock, a minute at a time."""
    out = np.full(clock.length * HOPS_A_SECOND // RATE + 1, -100.0, np.float32)
    minute: Ticks = 60 * RATE
    for start in range(0, track.length, minute):
        end = min(track.length, start + minute)
        part = levels(workshop.sound.mono_16k(track.recording, start, end))
        at = track.to_session(start) * HOPS_A_SECOND // RATE
        first = max(0, -at)
        part = part[first : len(out) - at]
        out[at + first : at + first + len(part)] = part
    return out
