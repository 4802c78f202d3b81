"""The library of music and sounds: searched, heard under the words, and taken into an episode."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from typing import Annotated, Literal

import numpy as np
import soundfile
from flask import Response, send_file
from pydantic import BaseModel, Field, StringConstraints

from jaskel.core.marks.bed import Bed
from jaskel.core.plan import Feed, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.sound.choose import Sound, chosen
from jaskel.core.timebase import RATE, Ticks
from jaskel.jobs.queue import add_job, send
from jaskel.media.probe import probe
from jaskel.media.sound import mix, wav_bytes
from jaskel.standins.sounds import file_of, find_sound, library
from jaskel.store.models import Recording
from jaskel.store.notices import post
from jaskel.web.asked.beds import SEAMLESS, tie_of
from jaskel.web.context import context
from jaskel.web.resource import binary, resource
from jaskel.web.schemas.common import EditionPath, EpisodePath, OneLine, TicksField
from jaskel.web.schemas.recordings import RecordingOut
from jaskel.web.schemas.sound import TieField
from jaskel.web.serializers import recording_out, reply
from jaskel.web.shows import find_episode

api = resource("sounds", __name__)


class SoundOut(BaseModel):
    """A sound of the library; ``loops`` where its end joins its beginning."""

    id: str
    name: str
    kind: Literal["theme", "bed", "ambience", "sting"]
    moods: list[str]
    length: TicksField
    loops: bool


class SoundsOut(BaseModel):
    sounds: list[SoundOut]


class SoundPath(BaseModel):
    sound_id: str


class ChoiceQuery(BaseModel):
    """A place of so many ticks, the moods that are wanted, and the kind of sound."""

    length: TicksField
    moods: Annotated[str, StringConstraints(max_length=200), OneLine] = Field("", description="Parted by commas")
    kind: Literal["theme", "bed", "ambience", "sting", ""] = ""


class ChoiceOut(BaseModel):
    """What fits, from where on it plays so that it ends with its place, and whether it is looped."""

    sound: SoundOut
    start: TicksField
    loop: bool


class UnderQuery(BaseModel):
    """A sound of the library to be heard from the word at a laid time on, so many ticks of it, before it is taken."""

    sound: str
    at: TicksField
    length: Annotated[int, Field(ge=RATE, le=20 * RATE)] = 8 * RATE
    decibels: Annotated[float, Field(ge=-60, le=24)] = -12.0


class Taken(BaseModel):
    sound: str


def _out(sound: Sound) -> SoundOut:
    return SoundOut(id=sound.id, name=sound.name, kind=sound.kind, moods=[*sound.moods], length=sound.length, loops=sound.loops)  # type: ignore[arg-type]


@api.get("/sounds", responses={200: SoundsOut})
def listed():  # type: ignore[no-untyped-def]
    """All that the library has."""
    return reply(SoundsOut(sounds=[_out(each) for each in library()]))


@api.get("/sounds/choice", responses={200: ChoiceOut})
def choose(query: ChoiceQuery):  # type: ignore[no-untyped-def]
    """The sound that fits a place best."""
    fitting = [each for each in library() if each.kind == query.kind or not query.kind]
    found = chosen(fitting, query.length, [each.strip() for each in query.moods.split(",") if each.strip()])
    if found is None:
        raise Problem("no-sound", "The library has nothing of this kind.")
    return reply(ChoiceOut(sound=_out(found.sound), start=found.start, loop=found.loop))


@api.get("/sounds/<sound_id>/file", responses=binary("audio/ogg"))
def get_file(path: SoundPath):  # type: ignore[no-untyped-def]
    """A sound by itself."""
    return send_file(file_of(find_sound(path.sound_id)), mimetype="audio/ogg", max_age=86_400)


@cache
def _decoded(id: str) -> np.ndarray:
    sound, _ = soundfile.read(file_of(find_sound(id)), dtype="float32", always_2d=True)
    return np.asarray(sound)


@api.get("/editions/<edition_id>/under", responses=binary("audio/wav"))
def get_under(path: EditionPath, query: UnderQuery):  # type: ignore[no-untyped-def]
    """A sound of the library under the words from a place on, as WAV; nothing is stored."""
    sound, workshop = find_sound(query.sound), context().workshop
    name = f"library.{sound.id}"
    with workshop.home.database.read() as session:
        opened = workshop.home.editions.open(session, path.edition_id)
        material = context().material(session, opened)
    tie = tie_of(opened.edition, TieField(to="word", at=query.at), ends=False)
    bed = Bed("under", (tie,), name, decibels=query.decibels, loop=sound.loops, seam=SEAMLESS)
    edition = replace(opened.edition, marks=opened.edition.marks.changed({"under": bed}))
    lengths = {**material.lengths, name: sound.length}
    plan = compile_plan(edition, replace(material, lengths=lengths))
    at = next((each.at for each in plan.placed if each.bed.id == "under"), 0)

    def read(feed: Feed, start: Ticks, end: Ticks) -> np.ndarray:
        if feed.recording != name:
            return workshop.sound.read(feed, start, end)
        out, known = np.zeros((end - start, 2), np.float32), _decoded(sound.id)
        part = known[max(0, start) : max(0, end)]
        out[max(0, -start) : max(0, -start) + len(part)] = part
        return out

    heard = mix(plan, at, min(plan.length, at + query.length), read)
    response = Response(wav_bytes(heard), mimetype="audio/wav")
    response.cache_control.no_store = True
    return response


@api.post("/episodes/<episode_id>/sounds", responses={201: RecordingOut})
def take(path: EpisodePath, body: Taken):  # type: ignore[no-untyped-def]
    """Take a sound of the library into an episode, as a recording of kind music; one that it has already is that."""
    sound, home = find_sound(body.sound), context().workshop.home
    received = home.vault.adopt(file_of(sound))
    info = replace(probe(file_of(sound), sound.name), loops=sound.loops)
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        known = next((each for each in episode.recordings if each.digest == received.digest), None)
        if known:
            return reply(recording_out(known), 201)
        recording = Recording(
            episode_id=episode.id,
            name=sound.name,
            kind="music",
            digest=received.digest,
            size=received.size,
            info=info.to_json(),
            placed=False,
        )
        session.add(recording)
        session.flush()
        job = add_job(session, "prepare", episode.id, recording.id, sound.length, transcribe=False)
        post(session, "recording", episode.id, id=recording.id)
    home.vault.claim(received.digest)
    send(home, job.id)
    return reply(recording_out(recording), 201)
