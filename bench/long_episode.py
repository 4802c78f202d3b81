"""A generated session of three hours and three voices: 30,000 words, 2,000 cuts, and five minutes of sound to listen to."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile

from jaskel.core.operations import Append, Strike
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.settings import Settings
from jaskel.store import library
from jaskel.store.home import Home
from jaskel.store.models import Recording, SessionRow, TrackRow
from jaskel.store.sessions import new_voice

LENGTH, COUNT = 10_800 * RATE, 30_000
STEP = LENGTH // COUNT
SOUNDING = 300 * RATE
VOICES, TURN = 3, 42
"""Each voice says 42 words, then the next one speaks."""


def long_episode(data: Path, port: int = 8750) -> tuple[Settings, str, str]:
    """Make it in an empty data folder; gives the settings and the ids of episode and edition."""
    settings = Settings(data, port=port)
    home = Home(settings)
    home.database.migrate()
    words = [_word(number) for number in range(COUNT)]
    info = {"container": "wav", "seconds": None, "sound_codec": "pcm", "channels": 1, "sample_rate": RATE, "picture": None}
    with home.database.write() as session:
        show = library.new_show(session, "Bench")
        episode = library.new_episode(session, show, "Three hours")
        edition = episode.editions[0].id
        joined = SessionRow(episode_id=episode.id, name="Session 1", state="joined", length=LENGTH, tracks=[])
        for number in range(VOICES):
            recording = Recording(
                episode_id=episode.id, name=f"{number}", digest=f"{number}", size=1, info=info, length=LENGTH, state="ready"
            )
            recording.transcript_state, recording.placed = "done", False
            session.add(recording)
            session.flush()
            own = [word for index, word in enumerate(words) if index // TURN % VOICES == number]
            home.transcripts.extend(session, recording, 0, LENGTH, own)
            voice = new_voice(session, show.id, f"Voice {number}")
            joined.tracks.append(TrackRow(recording_id=recording.id, position=number, sure=1.0, voice_id=voice.id))
        session.add(joined)
        session.flush()
        home.editions.arrive(session, edition, Append(joined.id, LENGTH))
        cuts = tuple((i * 15 * STEP, i * 15 * STEP + STEP) for i in range(2000))
        home.editions.perform(session, edition, 1, Strike(cuts, "filler"), lambda _: "")
    for number in range(VOICES):
        home.vault.sound(f"{number}").parent.mkdir(parents=True)
        noise = np.random.default_rng(number).normal(0, 0.05, SOUNDING).astype(np.float32)
        soundfile.write(home.vault.sound(f"{number}"), noise, RATE, "PCM_24", format="FLAC")
        peaks = np.random.default_rng(9 + number).integers(20, 200, LENGTH // 480, np.uint8)
        home.vault.peaks(f"{number}").write_bytes(peaks.tobytes())
    home.close()
    return settings, episode.id, edition


def _word(number: int) -> Word:
    """One of a sentence of fourteen; the last one is short, and a rest follows."""
    last = number % 14 == 13
    return Word(f"word{number}{'.' if last else ''}", number * STEP, number * STEP + STEP * (1 if last else 4) // 5, 0.9)
