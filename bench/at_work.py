"""What one waits for while an episode's sound is worked on: after a change of a chain, and after an edit with everything on."""

from __future__ import annotations

import json
import statistics
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from bench.figure import Figure
from bench.serving import fetched, operated, served, settings_in
from bench.sound import QUIET, SECONDS, talk
from jaskel.core.operations import Append
from jaskel.core.sound.chains import CHAINS
from jaskel.core.sound.processor import Chain, Leveller, Plosives
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.workshop import Workshop
from jaskel.media.conformed import NewConformedSound
from jaskel.settings import Settings
from jaskel.store import library
from jaskel.store.home import Home
from jaskel.store.models import Job, Recording, SessionRow, TrackRow
from jaskel.store.sessions import new_voice
from jaskel.web.schemas.sound import chain_fields

MINUTES, TURN = 10, 40
"""Two microphones for so long; each voice says so many words, then the other speaks."""

EVERYTHING: Chain = (*CHAINS["room with echo"], Plosives(), Leveller())
EDITS = 9


class Edition:
    """An edition on a server, and at which revision it is."""

    def __init__(self, settings: Settings, id: str) -> None:
        self.settings, self.id, self.revision = settings, id, 1

    def operate(self, **operation: Any) -> None:
        self.revision = operated(self.settings, self.id, self.revision, **operation)

    def get(self, path: str = "") -> bytes:
        return fetched(self.settings, f"/api/editions/{self.id}{path}")


def figures(folder: Path) -> Iterator[Figure]:
    """A session of two microphones with chains, music under all of it, and a loudness."""
    settings = settings_in(folder / "at-work")
    edition, tracks, music = _made(settings)
    with served(settings):
        yield from _chain_changed(edition, tracks[0])
        for track in tracks:
            edition.operate(kind="processors", track=track, chain=_fields(EVERYTHING))
        begins = {"to": "beginning", "offset": -4 * RATE}
        edition.operate(kind="bed", recording=music, begins=begins, ends={"to": "end"}, loop=True)
        edition.operate(kind="loudness", target=-16)
    _work(settings)
    with served(settings):
        assert json.loads(edition.get())["loudness"]["integrated"] is not None
        yield from _edited(edition)


def _chain_changed(edition: Edition, track: str) -> Iterator[Figure]:
    """Five seconds around the playhead through a chain that the server has not heard of before."""
    taken = []
    for number in range(5):
        chain = (replace(EVERYTHING[0], hertz=80.0 + number), *EVERYTHING[1:])
        at = (60 + 90 * number) * RATE
        begun = time.perf_counter()
        edition.operate(kind="processors", track=track, chain=_fields(chain))
        edition.get(f"/tried?track={track}&begin={at}&end={at + 5 * RATE}&part=with")
        taken.append(time.perf_counter() - begun)
    longest = max(taken)
    yield Figure("a chain changed: 5 s heard through it, longest of 5", f"{longest:.2f} s", "≤ 3 s", longest <= 3)


def _edited(edition: Edition) -> Iterator[Figure]:
    """Words struck here and there: the sound from just before the cut on, as the player asks for it."""
    taken = []
    for number in range(EDITS):
        at = (30 + 60 * number) * RATE
        begun = time.perf_counter()
        edition.operate(kind="strike", ranges=[{"begin": at, "end": at + RATE}])
        block = json.loads(edition.get(f"/blocks?at={at - RATE}"))["blocks"][0]
        edition.get(f"/sound/{block['key']}")
        taken.append(time.perf_counter() - begun)
    usual, longest = statistics.median(taken), max(taken)
    told = f"{usual * 1000:.0f} ms"
    yield Figure(f"an edit with everything on: sound, median of {EDITS}", told, "≤ 300 ms", usual <= 0.3)
    yield Figure("the same, longest", f"{longest * 1000:.0f} ms", "≤ 300 ms", longest <= 0.3)


def _fields(chain: Chain) -> list[dict[str, Any]]:
    return [each.model_dump() for each in chain_fields(chain)]


def _made(settings: Settings) -> tuple[Edition, list[str], str]:
    """A session of two microphones in a noisy room and a recording of music; gives the edition, the tracks, the music."""
    home = Home(settings)
    home.database.migrate()
    chance = np.random.default_rng(3)
    length, step = MINUTES * 60 * RATE, RATE // 2
    with home.database.write() as session:
        show = library.new_show(session, "Bench")
        episode = library.new_episode(session, show, "At work")
        joined = SessionRow(episode_id=episode.id, name="Session 1", state="joined", length=length, tracks=[])
        session.add(joined)
        tracks = []
        for number, name in enumerate(QUIET):
            said = talk(name) + chance.normal(0, 0.003, SECONDS * RATE)
            row = _recording(home, session, episode.id, name, np.tile(said, MINUTES * 60 // SECONDS))
            row.placed, row.transcript_state = False, "done"
            words = [Word(f"word{n}", n * step, n * step + step * 2 // 3, 0.9) for n in range(length // step)]
            home.transcripts.extend(session, row, 0, length, [each for n, each in enumerate(words) if n // TURN % 2 == number])
            voice = new_voice(session, show.id, name).id
            joined.tracks.append(TrackRow(recording_id=row.id, position=number, sure=1.0, voice_id=voice))
            tracks.append(row.id)
        music = _recording(home, session, episode.id, "music", chance.normal(0, 0.05, 60 * RATE))
        music.kind = "music"
        session.flush()
        edition = episode.editions[0].id
        home.editions.arrive(session, edition, Append(joined.id, length))
    home.close()
    return Edition(settings, edition), tracks, music.id


def _recording(home: Home, session: Session, episode: str, name: str, sound: np.ndarray) -> Recording:
    info = {"container": "wav", "seconds": None, "sound_codec": "pcm", "channels": 1, "sample_rate": RATE, "picture": None}
    row = Recording(episode_id=episode, name=name, digest=name, size=1, info=info, length=len(sound), state="ready")
    session.add(row)
    session.flush()
    home.vault.sound(name).parent.mkdir(parents=True)
    with NewConformedSound(home.vault.sound(name), 1) as out:
        out.write(sound[:, None].astype(np.float32))
    home.vault.peaks(name).write_bytes(bytes([90]) * (len(sound) // 480))
    return row


def _work(settings: Settings) -> None:
    """Do all that waits: the tracks go through their chains, then the loudness is measured."""
    workshop = Workshop(settings)
    waiting = select(Job.id).where(Job.state == "queued").order_by(Job.created).limit(1)
    while True:
        with workshop.home.database.read() as session:
            job = session.scalar(waiting)
        if job is None:
            break
        carry_out(workshop, job)
    workshop.close()
