"""Lines said again: where a voice says the same elsewhere, lines made for a spot, heard in place before one is taken."""

from __future__ import annotations

import io
from collections.abc import Sequence

from flask import Response, request
from sqlalchemy.orm import Session

from jaskel.core.operations import apply
from jaskel.core.page import text_in
from jaskel.core.pickup import LONGEST, Manner, Spot, fit_of, lines_in, neighbours_of, spot_at
from jaskel.core.plan import Feed, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.jobs.pickup import Place, Wanted, letters_in, manner_at, place_of, start_line
from jaskel.jobs.queue import send
from jaskel.media.pickup import manner_of
from jaskel.media.probe import probe
from jaskel.media.sound import mix, wav_bytes
from jaskel.speech.machine import machine_voice
from jaskel.store.editions import Opened
from jaskel.store.material import material_of, sessions_in
from jaskel.store.models import EditionRow, Recording, Voice
from jaskel.store.pickups import Consent, consent_of, give_consent, line_of, lines_of, said_elsewhere
from jaskel.store.spoken import Said
from jaskel.web.asked import Floor
from jaskel.web.asked.pickups import placing
from jaskel.web.context import context
from jaskel.web.resource import binary, resource
from jaskel.web.schemas.common import EditionPath
from jaskel.web.schemas.pickups import (
    CandidateOut,
    ConsentIn,
    ConsentOut,
    MachineOut,
    NewPickup,
    PickupOut,
    PickupPath,
    RecordedQuery,
    SpotOut,
    SpotQuery,
    TriedPickupQuery,
)
from jaskel.web.schemas.sessions import VoicePath
from jaskel.web.schemas.work import JobOut
from jaskel.web.serializers import job_out, reply, shown_name
from jaskel.web.voices import find_voice, told

api = resource("pickups", __name__)

MOST_CANDIDATES = 12
MOST_BYTES = 32_000_000
AROUND = 2 * RATE
"""So much before a line and after it is heard when it is tried in its place."""


def _spot(session: Session, opened: Opened, begin: int, end: int) -> Spot:
    return spot_at(opened.edition, context().transcripts(session, opened), begin, end)


@api.get("/editions/<edition_id>/pickups", responses={200: SpotOut})
def look(path: EditionPath, query: SpotQuery):  # type: ignore[no-untyped-def]
    """What can be said again in a range, where the same voice says a text elsewhere in the show, and what was made for it."""
    workshop = context().workshop
    with workshop.home.database.read() as session:
        opened = workshop.home.editions.open(session, path.edition_id)
        row = session.get_one(EditionRow, path.edition_id)
        spot = _spot(session, opened, query.begin, query.end)
        place = place_of(workshop, session, spot)
        voice = session.get(Voice, spot.voice) if spot.voice else None
        found = said_elsewhere(session, row.episode.show_id, spot.voice, query.text or place.was) if spot.voice else []
        here = [each for each in found if not _is_spot(each, place)]
        on_page = {each.recording for each in lines_in(opened.edition)}
        made = [_made(each, on_page) for each in lines_of(session, spot, row.episode_id)]
        machine, consent = machine_voice(), consent_of(voice)
        return reply(
            SpotOut(
                was=place.was,
                voice=spot.voice,
                consent=_consent(consent) if consent else None,
                machine=MachineOut(name=machine.name, about=machine.about, speaks=_speaks(place)),
                candidates=_ranked(session, place, here),
                made=made,
            )
        )


def _speaks(place: Place) -> bool:
    return place.language in (*machine_voice().languages, "auto")


def _is_spot(said: Said, place: Place) -> bool:
    track, spot = place.track, place.spot
    inside = track.to_recording(spot.start) < said.end and said.at < track.to_recording(spot.end)
    return said.recording.id == track.recording and inside


def _ranked(session: Session, place: Place, found: list[Said]) -> list[CandidateOut]:
    """The same words said elsewhere, those first that fit best."""
    if not found:
        return []
    workshop, spot = context().workshop, place.spot
    words = place.said.words
    inside = [number for number, word in enumerate(words) if word.end > spot.start and word.start < spot.end]
    beside = neighbours_of(words, inside[0], inside[-1] + 1)
    wanted = context().memory.get(("manner at", place.track.recording, spot), lambda: manner_at(workshop, place))
    out = []
    for said in found:
        known = workshop.home.transcripts.of(session, said.recording).words
        first = next(number for number, word in enumerate(known) if word.start == said.at)
        last = next(number for number, word in enumerate(known) if word.end == said.end) + 1
        manner = _manner(said, known[first:last])
        fit = fit_of(manner, neighbours_of(known, first, last), wanted, beside)
        out.append(
            CandidateOut(
                recording=said.recording.id,
                start=said.at,
                end=said.end,
                episode=said.episode.title,
                before=said.before,
                words=said.words,
                after=said.after,
                fit=round(fit.score, 3),
                why=[*fit.why],
            )
        )
    return sorted(out, key=lambda each: -each.fit)[:MOST_CANDIDATES]


def _manner(said: Said, words: Sequence[Word]) -> Manner:
    def make() -> Manner:
        sound = context().workshop.sound.read(Feed(said.recording.id), said.at, said.end).mean(axis=1)
        places = [(word.start - said.at, word.end - said.at) for word in words]
        return manner_of(sound, places, letters_in([word.text for word in words]))

    return context().memory.get(("manner", said.recording.id, said.at, said.end), make)


def _consent(consent: Consent) -> ConsentOut:
    return ConsentOut(
        name=consent.name,
        date=consent.date,
        how=consent.how,
        words=consent.words,
        recording=consent.recording,
        start=consent.start,
    )


def _made(recording: Recording, on_page: set[str]) -> PickupOut:
    line = line_of(recording)
    return PickupOut(
        recording=recording.id,
        how=line.how,
        text=line.text,
        was=line.was,
        length=recording.length,
        machine=line.machine,
        source_of=line.source_of,
        source_at=line.source_at,
        on_page=recording.id in on_page,
    )


@api.post("/editions/<edition_id>/pickups", responses={202: JobOut})
def make(path: EditionPath, body: NewPickup):  # type: ignore[no-untyped-def]
    """Make a line for a range: borrow it, or have it spoken by a machine, which needs the consent of whoever is spoken for."""
    home = context().workshop.home
    with home.database.write() as session:
        opened = home.editions.open(session, path.edition_id)
        spot = _spot(session, opened, body.begin, body.end)
        if body.how == "spoken":
            _may_be_spoken(session, spot)
        elif body.source_end - body.source_start > LONGEST:
            raise Problem("too-long", f"At most {LONGEST // RATE} seconds can be borrowed at once.")
        elif session.get(Recording, body.recording) is None:
            raise Problem("recording-gone", "The recording this was to be borrowed from is not here any more.")
        wanted = Wanted(body.how, body.text, spot, body.recording or "", body.source_start, body.source_end)
        job = start_line(session, path.edition_id, session.get_one(EditionRow, path.edition_id).episode_id, wanted)
    send(home, job.id)
    return reply(job_out(job), 202)


def _may_be_spoken(session: Session, spot: Spot) -> None:
    voice = session.get(Voice, spot.voice) if spot.voice else None
    if voice is None:
        raise Problem("no-voice", "Say who speaks here first: a machine speaks for nobody who has no name.")
    if consent_of(voice) is None:
        raise Problem(
            "no-consent",
            f"{shown_name(voice)} has not agreed to be spoken for by a machine. Ask, and store the answer with the voice.",
        )
    place = place_of(context().workshop, session, spot)
    if not _speaks(place):
        raise Problem("other-language", f"{machine_voice().name} does not speak the language of these words. Record the line.")


@api.post("/editions/<edition_id>/pickups/recorded", responses={202: JobOut})
def record(path: EditionPath, query: RecordedQuery):  # type: ignore[no-untyped-def]
    """Make a line of what was said into a microphone: the file is the body."""
    home = context().workshop.home
    content = request.stream.read(MOST_BYTES + 1)
    if len(content) > MOST_BYTES:
        raise Problem("too-large", "This take is too large for a line. Record a shorter one.")
    with home.vault.receive(io.BytesIO(content), "the take") as received:
        info = probe(received.path, "the take")
        if not info.has_sound:
            raise Problem("no-sound", "There is no sound in this take. Check the microphone and record it again.")
        home.vault.keep(received)
    with home.database.write() as session:
        opened = home.editions.open(session, path.edition_id)
        wanted = Wanted("recorded", query.text, _spot(session, opened, query.begin, query.end), file=received.digest)
        job = start_line(session, path.edition_id, session.get_one(EditionRow, path.edition_id).episode_id, wanted)
    home.vault.claim(received.digest)
    send(home, job.id)
    return reply(job_out(job), 202)


@api.get("/editions/<edition_id>/pickups/<recording_id>/tried", responses=binary("audio/wav"))
def tried(path: PickupPath, query: TriedPickupQuery):  # type: ignore[no-untyped-def]
    """A line in its place, with two seconds on either side, as WAV; nothing is stored."""
    workshop = context().workshop
    with workshop.home.database.read() as session:
        opened = workshop.home.editions.open(session, path.edition_id)
        operation = placing(Floor(session, opened, context()), path.recording_id, query.begin, query.end)
        edition = apply(opened.edition, operation)[0]
        said = context().transcripts(session, opened)
        material = material_of(session, edition, sessions_in(session, edition), workshop.home.vault, said)
    plan = compile_plan(edition, material)
    spans = [span for span in plan.spans if getattr(span.source, "recording", "") == path.recording_id]
    begin, end = max(0, spans[0].at - AROUND), min(plan.length, spans[-1].until + AROUND)
    response = Response(wav_bytes(mix(plan, begin, end, workshop.sound.read)), mimetype="audio/wav")
    response.cache_control.no_store = True
    return response


@api.put("/voices/<voice_id>/consent", responses={200: ConsentOut})
def agree(path: VoicePath, body: ConsentIn):  # type: ignore[no-untyped-def]
    """Store with a voice that its person has agreed to be spoken for by a machine, with the date of today."""
    home = context().workshop.home
    with home.database.write() as session:
        voice = find_voice(session, path.voice_id)
        consent = Consent(body.name, "", "ticked")
        if body.edition_id:
            opened = home.editions.open(session, body.edition_id)
            spot = _spot(session, opened, body.begin, body.end)
            if spot.voice != voice.id:
                raise Problem("another-voice", f"These words are not said by {shown_name(voice)}. Select the words of consent.")
            words = text_in(context().layout(session, opened)[1](), (body.begin, body.end))
            consent = Consent(body.name, "", "spoken", words[:300], spot.home, spot.start, spot.end)
        known = give_consent(voice, consent)
        told(session, voice)
        return reply(_consent(known))


@api.delete("/voices/<voice_id>/consent", responses={204: None})
def withdraw(path: VoicePath):  # type: ignore[no-untyped-def]
    """Forget the consent of a person; lines that were spoken stay, each as a step that can be taken back."""
    with context().workshop.home.database.write() as session:
        voice = find_voice(session, path.voice_id)
        voice.consent = {}
        told(session, voice)
    return Response(status=204)
