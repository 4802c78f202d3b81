"""Making a line that is said again: borrowed, recorded or spoken, and fitted to the place it goes to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from sqlalchemy.orm import Session

from jaskel.core.marks.chain import chains
from jaskel.core.pickup import How, Manner, Spot
from jaskel.core.plan import Feed
from jaskel.core.problem import Problem
from jaskel.core.session import Track
from jaskel.core.sound.processor import AS_IT_IS
from jaskel.core.timebase import RATE, Ticks, from_seconds
from jaskel.core.transcript import Transcript, Word, shortened
from jaskel.core.written import written
from jaskel.jobs.fit import fitter
from jaskel.jobs.prepare import decode
from jaskel.jobs.process import process_track
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import add_job
from jaskel.jobs.workshop import Workshop
from jaskel.media.pickup import Like, Places, fitted, like, manner_of, read_line, write_line
from jaskel.media.probe import probe
from jaskel.speech.machine import machine_voice
from jaskel.store.models import Job, Recording
from jaskel.store.notices import post
from jaskel.store.pickups import KIND, Line, line_values
from jaskel.store.sessions import session_in, transcripts_in

AROUND: Ticks = 12 * RATE
"""What a line is fitted to: words of its voice up to 12 s before and after."""

MOST_AROUND, FEWEST_AROUND = 24, 3


@dataclass(frozen=True)
class Wanted:
    """What a line is to be: how it comes about, what it says and where it goes; where it is borrowed, or the file it is in."""

    how: How
    text: str
    spot: Spot
    source_of: str = ""
    source_at: Ticks = 0
    source_end: Ticks = 0
    file: str = ""


def start_line(session: Session, edition_id: str, episode_id: str, wanted: Wanted) -> Job:
    """Write down the job that makes a line."""
    known = {name: value for name, value in asdict(wanted).items() if name != "spot"}
    return add_job(session, KIND, episode_id, edition_id, **known, **asdict(wanted.spot))


def _wanted(job: Job) -> Wanted:
    known = dict(job.details)
    spot = Spot(*(known.pop(name) for name in ("home", "start", "end", "voice")))
    return Wanted(spot=spot, **known)


@dataclass(frozen=True)
class Place:
    """Where a line goes: the track it is heard in, what is said there, and in what language."""

    spot: Spot
    track: Track
    said: Transcript
    language: str

    @property
    def was(self) -> str:
        """What is said there now."""
        spot = self.spot
        return written(word.text for word in self.said.words if word.end > spot.start and word.start < spot.end)


def place_of(workshop: Workshop, session: Session, spot: Spot) -> Place:
    """Where a line goes that takes the place of a spot.

    Raises
    ------
    Problem
        ``recording-gone``.
    """
    known = session_in(session, spot.home)
    sounding = [track for track in known.tracks if track.sounds] if known else []
    if not sounding:
        raise Problem("recording-gone", "The recording of these words is not here any more.")
    track = next((each for each in sounding if each.voice == spot.voice), sounding[0])
    said = transcripts_in(session, [spot.home], workshop.home.transcripts)[spot.home]
    return Place(spot, track, said, session.get_one(Recording, track.recording).language)


def track_sound(workshop: Workshop, track: Track, start: Ticks, end: Ticks) -> np.ndarray:
    """A stretch of a track on the clock of what it plays in, as recorded: float32 mono."""
    heard = workshop.sound.read(Feed(track.recording, track.drift), start - track.offset, end - track.offset)
    return np.asarray(heard.mean(axis=1), np.float32)


def letters_in(texts: Sequence[str]) -> int:
    """How many letters and digits there are."""
    return sum(each.isalnum() for text in texts for each in text)


def around(place: Place) -> list[Word]:
    """The words of the same voice near a spot, in order; those of the spot itself where there are too few others."""
    spot = place.spot
    near = [
        word
        for word in place.said.words
        if word.voice == spot.voice and not word.is_sound and not word.loose
        and word.end > spot.start - AROUND and word.start < spot.end + AROUND
    ]  # fmt: skip
    beside = [word for word in near if word.end <= spot.start or word.start >= spot.end]
    middle = (spot.start + spot.end) // 2
    chosen = beside if len(beside) >= FEWEST_AROUND else near
    return sorted(sorted(chosen, key=lambda word: abs(word.start - middle))[:MOST_AROUND], key=lambda word: word.start)


def manner_at(workshop: Workshop, place: Place) -> Manner:
    """How the words at a spot are said."""
    spot = place.spot
    words = [word for word in place.said.words if word.end > spot.start and word.start < spot.end]
    sound = track_sound(workshop, place.track, spot.start, spot.end)
    inside = [(max(0, word.start - spot.start), min(len(sound), word.end - spot.start)) for word in words]
    return manner_of(sound, inside, letters_in([word.text for word in words]))


def _like(workshop: Workshop, place: Place) -> Like:
    words = around(place)
    start, end = (words[0].start, words[-1].end) if words else (place.spot.start, place.spot.end)
    sound = track_sound(workshop, place.track, start, end)
    room = workshop.sound.read(Feed(place.track.recording, tone=True), 0, 20 * RATE).mean(axis=1)
    places = [(word.start - start, word.end - start) for word in words]
    return like(sound, places, letters_in([word.text for word in words]), np.asarray(room, np.float32))


def make_line(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Make a line, as a recording of its own that nobody sees until it takes its place."""
    home, wanted = workshop.home, _wanted(job)
    with home.database.read() as session:
        place = place_of(workshop, session, wanted.spot)
        edition = home.editions.open(session, job.subject).edition
    near = _like(workshop, place)
    progress(0)
    texts = wanted.text.split()
    sound, words = _said(workshop, wanted, place, texts)
    progress(0)
    foreign = wanted.source_of != place.track.recording
    made, places = fitted(sound, words, letters_in(texts), near, foreign=foreign)
    name = shortened(wanted.text)
    with TemporaryDirectory(dir=home.vault.root / "incoming") as folder:
        file = Path(folder) / "line.flac"
        write_line(file, made)
        received, info = home.vault.adopt(file), probe(file, name)
    machine = machine_voice().name if wanted.how == "spoken" else ""
    spot = wanted.spot
    line = Line(
        wanted.how, wanted.text, place.was, spot.home, place.track.recording, spot.start, spot.end, spot.voice,
        machine, wanted.source_of, wanted.source_at,
    )  # fmt: skip
    recording = Recording(
        episode_id=job.episode_id, name=name, kind=KIND, digest=received.digest, size=received.size, info=info.to_json(),
        state="ready", placed=False, language=place.language, transcript_state="done", pickup=line_values(line),
    )  # fmt: skip
    recording.length = decode(home, recording).length
    with home.database.write() as session:
        session.add(recording)
        session.flush()
        said = [Word(text, a, b, 1.0, spot.voice) for text, (a, b) in zip(texts, places, strict=True)]
        home.transcripts.extend(session, recording, 0, recording.length, said)
        post(session, "recording", recording.episode_id, id=recording.id)
    home.vault.claim(received.digest)
    if chain := chains(edition.marks).get(place.track.recording, AS_IT_IS):
        process_track(workshop, Track(recording.id, recording.length), chain, lambda _: progress(0))


def _said(workshop: Workshop, wanted: Wanted, place: Place, texts: Sequence[str]) -> tuple[np.ndarray, Places]:
    """The sound of a line before it is fitted, and where its words lie in it."""
    if wanted.how == "borrowed":
        return _borrowed(workshop, wanted, texts)
    if wanted.how == "spoken":
        voice = machine_voice()
        beside = around(place)
        start, end = (beside[0].start, beside[-1].end) if beside else (place.spot.start, place.spot.end)
        sound = voice.say(wanted.text, track_sound(workshop, place.track, start, end))
    else:
        sound = read_line(workshop.home.vault.original(wanted.file))
    if not len(sound) or float(np.abs(sound).max()) < QUIETEST:
        raise Problem("silent-line", "Nothing is heard in this take. Check the microphone and record it again.")
    return sound, _found(workshop, sound, texts, place.language)


QUIETEST = 0.003
"""Nothing is heard below -50 dBFS."""


def _borrowed(workshop: Workshop, wanted: Wanted, texts: Sequence[str]) -> tuple[np.ndarray, Places]:
    start, end = wanted.source_at, wanted.source_end
    with workshop.home.database.read() as session:
        recording = session.get(Recording, wanted.source_of)
        if recording is None:
            raise Problem("recording-gone", "The recording this was to be borrowed from is not here any more.")
        words = [w for w in workshop.home.transcripts.of(session, recording).words if w.start >= start and w.end <= end]
    sound = np.asarray(workshop.sound.read(Feed(wanted.source_of), start, end).mean(axis=1), np.float32)
    places = [(word.start - start, word.end - start) for word in words]
    return sound, places if len(places) == len(texts) else spread(texts, 0, len(sound))


def _found(workshop: Workshop, sound: np.ndarray, texts: Sequence[str], language: str) -> Places:
    """Where words lie in the sound of somebody who says them; spread over the voice where they do not fit it."""
    import soxr

    low = np.asarray(soxr.resample(sound, RATE, 16_000), np.float32)
    places = fitter(workshop, language)(low, texts)
    if places:
        return [(from_seconds(a), min(len(sound), from_seconds(b))) for a, b in places]
    loud = np.flatnonzero(np.abs(sound) > 0.1 * np.abs(sound).max())
    return spread(texts, int(loud[0]), int(loud[-1]) + 1)


def spread(texts: Sequence[str], start: Ticks, end: Ticks) -> Places:
    """Words laid over a stretch by their letters.

    >>> spread(["no", "boat"], 0, 600)
    [(0, 200), (200, 600)]
    """
    sizes = [max(1, letters_in([text])) for text in texts]
    edges = [start + (end - start) * sum(sizes[:count]) // sum(sizes) for count in range(len(sizes) + 1)]
    return [(a, max(a + 1, b)) for a, b in pairwise(edges)]
