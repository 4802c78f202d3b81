"""A generated episode of three hours: 30,000 words, 2,000 cuts, and five minutes of sound to listen to."""

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
from jaskel.store.models import Recording

LENGTH, COUNT = 10_800 * RATE, 30_000
STEP = LENGTH // COUNT
SOUNDING = 300 * RATE


def long_episode(data: Path, port: int = 8750) -> tuple[Settings, str, str]:
    """Make it in an empty data folder; gives the settings and the ids of episode and edition."""
    settings = Settings(data, port=port)
    home = Home(settings)
    home.database.migrate()
    words = [Word(f"word{i}" + ("." if i % 14 == 13 else ""), i * STEP, i * STEP + STEP * 4 // 5, 0.9) for i in range(COUNT)]
    info = {"container": "wav", "seconds": None, "sound_codec": "pcm", "channels": 1, "sample_rate": RATE, "picture": None}
    with home.database.write() as session:
        episode = library.new_episode(session, library.new_show(session, "Bench"), "Three hours")
        edition = episode.editions[0].id
        recording = Recording(episode_id=episode.id, name="r", digest="0", size=1, info=info, length=LENGTH, state="ready")
        recording.transcript_state = "done"
        session.add(recording)
        session.flush()
        home.transcripts.extend(session, recording, 0, LENGTH, words)
        home.editions.arrive(session, edition, Append(recording.id, LENGTH))
        cuts = tuple((i * 15 * STEP, i * 15 * STEP + STEP) for i in range(2000))
        home.editions.perform(session, edition, 1, Strike(cuts, "filler"), lambda _: "")
    noise = np.random.default_rng(1).normal(0, 0.05, SOUNDING).astype(np.float32)
    home.vault.sound("0").parent.mkdir(parents=True)
    soundfile.write(home.vault.sound("0"), noise, RATE, "PCM_24", format="FLAC")
    home.vault.peaks("0").write_bytes(np.random.default_rng(2).integers(20, 200, LENGTH // 480, np.uint8).tobytes())
    home.close()
    return settings, episode.id, edition
