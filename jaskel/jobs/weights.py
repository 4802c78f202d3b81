"""Weights that were added: unpacked, tried on a known stretch of speech, and timed on this machine."""

from __future__ import annotations

import json
import shutil
import time
import zipfile
from pathlib import Path

import numpy as np

from jaskel.core.problem import Problem
from jaskel.jobs.progress import Progress
from jaskel.jobs.workshop import Workshop
from jaskel.media.probe import room_for
from jaskel.speech.recognise import RATE_16K, WhisperRecogniser
from jaskel.speech.weights import ENGLISH
from jaskel.store.models import Job, Weights
from jaskel.store.notices import post

ARCHIVE = "weights.zip"
FILES = ("model.bin", "config.json", "tokenizer.json", "vocabulary.json", "vocabulary.txt", "preprocessor_config.json")
"""What weights in CTranslate2 form consist of; nothing else is kept."""

NEEDED = ("model.bin", "config.json", "tokenizer.json")
TRIED = Path(__file__).parents[1] / "speech" / "models" / "tried.flac"
"""Eleven seconds of the demo's speech, and what is said in it."""

SAID = ("boatyard", "harbour", "shipwright", "stories", "welcome", "years")
MOST_BYTES = 8_000_000_000


def check_weights(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Find whether weights that have come can be used, and how quickly; says so in their row."""
    home, weights_id = workshop.home, job.subject
    folder = home.settings.weights(weights_id)
    try:
        _unpack(folder)
        progress(1)
        languages, speed = _tried(folder)
    except Problem as problem:
        shutil.rmtree(folder, ignore_errors=True)
        _note(workshop, weights_id, state="failed", trouble=problem.sentence)
        return
    size = sum(file.stat().st_size for file in folder.iterdir())
    _note(workshop, weights_id, state="ready", trouble="", languages=languages, size=size, speed=speed)


def _note(workshop: Workshop, weights_id: str, **facts: object) -> None:
    with workshop.home.database.write() as session:
        row = session.get(Weights, weights_id)
        for name, value in facts.items() if row else ():
            setattr(row, name, value)
        post(session, "weights")


def _unpack(folder: Path) -> None:
    """Take the files of weights out of an archive, if they came as one.

    Raises
    ------
    Problem
        ``no-weights`` where it is none, holds none or far more than it should.
    """
    archive = folder / ARCHIVE
    if archive.exists():
        try:
            with zipfile.ZipFile(archive) as packed:
                inside = {Path(entry.filename).name: entry for entry in packed.infolist() if Path(entry.filename).name in FILES}
                total = sum(entry.file_size for entry in inside.values())
                if total > MOST_BYTES:
                    raise Problem("no-weights", "What is in this zip is larger than any weights are, so it is not unpacked.")
                room_for(folder, total, "the weights")
                for name, entry in inside.items():
                    with packed.open(entry) as source, (folder / name).open("wb") as out:
                        shutil.copyfileobj(source, out, 1 << 20)
        except (zipfile.BadZipFile, OSError, EOFError, NotImplementedError, RuntimeError) as error:
            raise Problem("no-weights", "This zip cannot be read. Make it anew, or choose the folder itself.") from error
        archive.unlink()
    missing = [name for name in NEEDED if not (folder / name).is_file()]
    if missing:
        raise Problem(
            "no-weights",
            f"These are no weights for Jaskel: {' and '.join(missing)} {'is' if len(missing) == 1 else 'are'} missing. Choose "
            "a folder, or a zip of one, with the weights of a recogniser in CTranslate2 form.",
        )


def _tried(folder: Path) -> tuple[list[str], float]:
    """The languages that weights know, and how many seconds of sound they hear in one here.

    Raises
    ------
    Problem
        ``no-weights`` where they cannot be used, or do not hear what is said.
    """
    import soundfile

    try:
        json.loads((folder / "config.json").read_text(encoding="utf-8"))
        recogniser = WhisperRecogniser(folder)
        sound = np.asarray(soundfile.read(TRIED, dtype="float32")[0])
        seconds = len(sound) / RATE_16K
        begun = time.perf_counter()
        utterances = recogniser.utterances([sound], ENGLISH, [[(0.0, seconds)]])[0]
        taken = time.perf_counter() - begun
    except (RuntimeError, ValueError, OSError, KeyError) as error:
        raise Problem(
            "no-weights", f"These weights cannot be used: {str(error).splitlines()[0][:200] or type(error).__name__}"
        ) from error
    heard = " ".join(word.text.lower() for utterance in utterances for word in utterance.words)
    if not any(word in heard for word in SAID):
        raise Problem("no-weights", "These weights heard nothing of what is said in a clear recording, so they are not taken.")
    return list(recogniser.languages), seconds / taken
