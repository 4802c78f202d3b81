"""Channel strips: what chains are made of, comparing with and without, and what a recording needs."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
from flask import Response
from sqlalchemy.orm import Session

from jaskel.core.marks.chain import chains
from jaskel.core.marks.mark import strip_parts
from jaskel.core.plan import Feed
from jaskel.core.problem import Missing, Problem
from jaskel.core.session import Track
from jaskel.core.sound.chains import CHAINS
from jaskel.core.sound.match import matched
from jaskel.core.sound.processor import AS_IT_IS, PROCESSORS, Chain, Equaliser, Processor, by_words, settings_of
from jaskel.core.sound.ride import ride_of, shared
from jaskel.core.sound.suggest import Found, suggest
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word
from jaskel.jobs import queue
from jaskel.jobs.loudness import start_measuring
from jaskel.media.analysis import analyse, spectrum, turned
from jaskel.media.conformed import ConformedSound
from jaskel.media.processors import equaliser_curve
from jaskel.media.sound import ridden, wav_bytes
from jaskel.media.tried import as_loud_as, tried
from jaskel.store.editions import Opened
from jaskel.store.material import sessions_in
from jaskel.store.models import EditionRow, Recording
from jaskel.store.vault import Vault
from jaskel.web.context import context
from jaskel.web.gate import author_of
from jaskel.web.resource import binary, resource
from jaskel.web.schemas.common import EditionPath
from jaskel.web.schemas.editions import LookedFor
from jaskel.web.schemas.sound import (
    ChainOut,
    CurveOut,
    FoundOut,
    MatchQuery,
    ProcessorField,
    ProcessorKindOut,
    ProcessorsOut,
    SettingOut,
    SpectrumOut,
    TrackQuery,
    TriedQuery,
    chain_fields,
)
from jaskel.web.schemas.work import JobOut
from jaskel.web.serializers import job_out, reply

api = resource("strips", __name__)

SHORTEST, LONGEST = RATE, 15 * RATE
"""So much is compared at least and at most."""


@api.get("/processors", responses={200: ProcessorsOut})
def listed():  # type: ignore[no-untyped-def]
    """What chains are made of, and those that come with Jaskel."""
    kinds = [_kind(each) for each in PROCESSORS.values()]
    known = [ChainOut(name=name, chain=chain_fields(chain)) for name, chain in CHAINS.items()]
    return reply(ProcessorsOut(kinds=kinds, chains=known))


def _kind(kind: type[Processor]) -> ProcessorKindOut:
    first = kind()
    about = " ".join((kind.__doc__ or "").split("\n\n", maxsplit=1)[0].replace("``", "").split())
    known = [SettingOut(name=each.name, value=getattr(first, each.name), **each.metadata) for each in settings_of(kind)]
    return ProcessorKindOut(kind=kind.kind, about=about, rides=kind.rides, settings=known)


def track_of(session: Session, opened: Opened, strip: str) -> tuple[str, Track]:
    """The track of a strip of an edition, as that of its voice alone where it is one of several; the id of what it plays in.

    Raises
    ------
    Missing
        ``no-track``.
    """
    recording, voice = strip_parts(strip)
    for name, known in sessions_in(session, opened.edition).items():
        for track in known.tracks:
            if track.recording == recording and track.sounds:
                return name, replace(track, voice=voice or track.voice)
    raise Missing("no-track", "This track is not in this edition any more. Choose another.")


def _sound_of(session: Session, vault: Vault, track: Track) -> ConformedSound:
    return ConformedSound(vault.sound(session.get_one(Recording, track.recording).digest, track.drift))


@api.get("/editions/<edition_id>/tried", responses=binary("audio/wav"))
def get_tried(path: EditionPath, query: TriedQuery):  # type: ignore[no-untyped-def]
    """A stretch of a track with its chain, without a part of it at the same loudness, or what that part takes out, as WAV."""
    workshop = context().workshop
    with workshop.home.database.read() as session:
        opened = workshop.home.editions.open(session, path.edition_id)
        name, track = track_of(session, opened, query.track)
        start, end = _stretch(opened, name, track, query.begin, query.end)
        said = context().transcripts(session, opened).get(name)
        file = _sound_of(session, workshop.home.vault, track)
        material = context().material(session, opened)
    known = chains(opened.edition.marks)
    chain = known.get(query.track) or known.get(track.recording, AS_IT_IS)
    if query.without >= len(chain):
        raise Problem("no-processor", "The chain has changed since. Choose the processor again.")
    less = tuple(each for number, each in enumerate(chain) if number != query.without) if query.without >= 0 else AS_IT_IS
    own, others = shared(said, track)

    def heard(which: Chain) -> np.ndarray:
        sound = tried(file, which, start, end)
        ride = ride_of(by_words(which), own, others, track, material.loudness.get(query.track))
        if ride:
            sound = sound * ridden(ride, track.to_session(start), track.to_session(start) + len(sound))[:, None].astype(
                np.float32
            )
        return sound

    with file:
        full = heard(chain)
        if query.part == "with":
            out = full
        elif query.part == "without":
            out = as_loud_as(heard(less), full)
        else:
            out = heard(less) - full
    response = Response(wav_bytes(np.repeat(out, 2, axis=1) if out.shape[1] == 1 else out), mimetype="audio/wav")
    response.cache_control.no_store = True
    return response


def _stretch(opened: Opened, name: str, track: Track, begin: Ticks, end: Ticks) -> tuple[Ticks, Ticks]:
    """Where a stretch of laid time lies in a track's recording."""
    edition = opened.edition
    index = edition.index_at(begin)
    piece = edition.pieces[index] if index < len(edition.pieces) else None
    if piece is None or piece.source != Recorded(name):
        raise Problem("not-here", "This track does not sound at the playhead. Go to where it does.")
    start = track.to_recording(piece.start + begin - edition.starts[index])
    return start, start + min(LONGEST, max(SHORTEST, end - begin))


@api.get("/editions/<edition_id>/spectrum", responses={200: SpectrumOut})
def get_spectrum(path: EditionPath, query: TrackQuery):  # type: ignore[no-untyped-def]
    """The average spectrum of what a track says, and the curve of its equaliser."""
    workshop = context().workshop
    with workshop.home.database.read() as session:
        opened = workshop.home.editions.open(session, path.edition_id)
        hertz, level = _spectrum(session, opened, query.track)
    chain = chains(opened.edition.marks).get(query.track, AS_IT_IS)
    curve = sum(
        (equaliser_curve(each, hertz) for each in chain if isinstance(each, Equaliser) and each.on), np.zeros(len(hertz))
    )
    return reply(SpectrumOut(hertz=[*hertz.round(1)], level=[*level.round(1)], curve=[*curve.round(2)]))


def _spectrum(session: Session, opened: Opened, strip: str) -> tuple[np.ndarray, np.ndarray]:
    name, track = track_of(session, opened, strip)
    own, _ = shared(context().transcripts(session, opened).get(name), track)

    def make() -> tuple[np.ndarray, np.ndarray]:
        every = max(1, len(own) // 200)
        spoken = [(track.to_recording(each.start), track.to_recording(each.start) + RATE) for each in own[::every]]
        with _sound_of(session, context().workshop.home.vault, track) as file:
            return spectrum(lambda a, b: file.read(max(0, a), b), spoken or [(0, min(file.length, 60 * RATE))])

    return context().memory.get(("spectrum", strip, len(own)), make)


@api.get("/editions/<edition_id>/match", responses={200: ProcessorField})
def get_match(path: EditionPath, query: MatchQuery):  # type: ignore[no-untyped-def]
    """An equaliser that brings a track's voice near another's, or near that of plain speech."""
    workshop = context().workshop
    with workshop.home.database.read() as session:
        opened = workshop.home.editions.open(session, path.edition_id)
        hertz, mine = _spectrum(session, opened, query.track)
        wanted = _spectrum(session, opened, query.to)[1] if query.to else None
        tracks = [each for each in (query.track, query.to) if each]
        silent = any(not _own_words(session, opened, each) for each in tracks)
    if silent or not len(mine) or (wanted is not None and not len(wanted)):
        raise Problem("no-speech", "There are too few words on this track to match its voice by.")
    made = matched([*hertz], [*mine], None if wanted is None else [*wanted])
    return reply(chain_fields((made,))[0])


@api.get("/editions/<edition_id>/suggestion", responses={200: FoundOut})
def get_suggestion(path: EditionPath, query: TrackQuery):  # type: ignore[no-untyped-def]
    """What was found in a track's recording, and a chain that is proposed for it."""
    workshop = context().workshop
    with workshop.home.database.read() as session:
        opened = workshop.home.editions.open(session, path.edition_id)
        name, track = track_of(session, opened, query.track)
        beside = [each for each in sessions_in(session, opened.edition)[name].tracks if each.sounds]
        found = {each.recording: _found(session, each) for each in beside}
        against = bool(beside) and beside[0].recording != track.recording and _turned(name, beside[0], track)
        done = session.get_one(Recording, track.recording).transcript_state == "done"
        wordless = done and not _own_words(session, opened, query.track)
    mine = found[track.recording]
    quieter = max(each.speech for each in found.values()) - mine.speech
    made = suggest(replace(mine, turned=against, wordless=wordless), quieter, len(beside) - 1)
    return reply(FoundOut(found=[*made.found], chain=chain_fields(made.chain), why=[*made.why]))


def _own_words(session: Session, opened: Opened, strip: str) -> list[Word]:
    name, track = track_of(session, opened, strip)
    return shared(context().transcripts(session, opened).get(name), track)[0]


def _found(session: Session, track: Track) -> Found:
    def make() -> Found:
        with _sound_of(session, context().workshop.home.vault, track) as file:
            return analyse(file)

    return context().memory.get(("found", track.recording, track.drift), make)


def _turned(name: str, first: Track, track: Track) -> bool:
    """Whether a track works against the first of those beside it."""

    def make() -> bool:
        sound = context().workshop.sound
        start, end = max(first.offset, track.offset, 0), min(first.end, track.end)
        places = range(start, max(start, end - 5 * RATE), max(5 * RATE, (end - start) // 24))
        return turned(
            tuple(
                sound.read(Feed(each.recording, each.drift), at - each.offset, at - each.offset + 5 * RATE).mean(axis=1)
                for each in (first, track)
            )
            for at in places
        )

    return context().memory.get(("turned", name, first, track), make)


@api.post("/editions/<edition_id>/even", responses={202: JobOut})
def even(path: EditionPath, body: LookedFor):  # type: ignore[no-untyped-def]
    """Set the levels of the tracks so that all voices are equally loud, as one step."""
    home = context().workshop.home
    with home.database.write() as session:
        opened = home.editions.open(session, path.edition_id)
        row = session.get_one(EditionRow, path.edition_id)
        total = sum(
            track.length for each in sessions_in(session, opened.edition).values() for track in each.tracks if track.sounds
        )
        author = author_of(body)
        job = queue.add_job(session, "even", row.episode_id, row.id, total, who=author.who, window=author.window)
    queue.send(home, job.id)
    return reply(job_out(job), 202)


@api.post("/editions/<edition_id>/loudness", responses={202: JobOut})
def measure(path: EditionPath):  # type: ignore[no-untyped-def]
    """Measure how loud an edition is now, and bring it to its loudness where it has one to reach."""
    home = context().workshop.home
    with home.database.write() as session:
        opened = home.editions.open(session, path.edition_id)
        id = start_measuring(session, path.edition_id, context().plan(session, opened).length)
        if id is None:
            raise Problem("already-running", "It is being measured already.")
        job = session.get_one(queue.Job, id)
    queue.send(home, id)
    return reply(job_out(job), 202)


@api.get("/editions/<edition_id>/loudness", responses={200: CurveOut})
def get_loudness(path: EditionPath):  # type: ignore[no-untyped-def]
    """How loud an edition is over time, where that was measured of it as it is now."""
    home = context().workshop.home
    with home.database.read() as session:
        opened = home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened)
    file = home.vault.curve(plan.unlevelled)
    if not file.exists():
        return reply(CurveOut(every=RATE, short_term=[], integrated=None, range=None, peak=None))
    return reply(CurveOut(**json.loads(file.read_text())))
