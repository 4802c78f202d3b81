"""A film of a written text: each sentence is read, with a picture that fits it, and all of it is an edition to be cut."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.anchor import Beginning, End, Place, Stretch
from jaskel.core.marks.bed import Bed
from jaskel.core.marks.cutaway import Cutaway
from jaskel.core.marks.graphic import LONGEST as LONGEST_TITLE
from jaskel.core.marks.graphic import TitleHere
from jaskel.core.marks.mark import Mark, Marks
from jaskel.core.marks.splice import CROSSFADE
from jaskel.core.operations import Become
from jaskel.core.picture.framing import WHOLE, Box
from jaskel.core.problem import Problem
from jaskel.core.reuse.told import REST, reading_length, rest_for
from jaskel.core.shape import PictureShape
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word
from jaskel.jobs.fit import Fits, fitter
from jaskel.jobs.pickup import spread
from jaskel.jobs.pictures import fetched, pictures_of
from jaskel.jobs.prepare import decode, light_copy
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import add_job
from jaskel.jobs.workshop import Workshop
from jaskel.media.pickup import Places, write_line
from jaskel.media.probe import MediaInfo, probe
from jaskel.speech.machine import machine_voice
from jaskel.store.models import EditionRow, Episode, Job, Recording
from jaskel.store.notices import post

KIND = "told"

LEAD, TAIL = RATE * 6 // 10, RATE
"""Before the first word, and after the last."""

BESIDE: Ticks = RATE // 4
"""So much of a recording is heard before and after a sentence that somebody read."""

FITTING = 0.3
"""So near in meaning to a sentence, a picture of the episode is shown with it rather than one of the library."""

NEARER = Box(0.03, 0.03, 0.94, 0.94)
"""Pictures come a little nearer while they are seen."""


@dataclass(frozen=True)
class Told:
    """What a film is made of.

    Attributes
    ----------
    name, shape
        Of the edition.
    sentences
        What is read, one after another.
    reader
        ``machine``, ``nobody`` (silence of that length), or the id of a recording in which somebody reads it.
    titles, pictures
        Whether each sentence is written over its picture, and whether pictures are looked for.
    music
        The recording that sounds under it, or nothing.
    length
        How long it is to be, as far as rests can do that.
    """

    name: str
    sentences: list[str]
    reader: str = "machine"
    shape: PictureShape = "wide"
    titles: bool = False
    pictures: bool = True
    music: str = ""
    length: Ticks = 0


def start_film(session: Session, episode_id: str, told: Told) -> Job:
    """Write down the job that makes it."""
    return add_job(session, KIND, episode_id, episode_id, len(told.sentences), **asdict(told))


@dataclass(frozen=True)
class Line:
    """A sentence where it is read: ``start`` to ``end`` of the recording, with its words."""

    text: str
    start: Ticks
    end: Ticks
    words: tuple[Word, ...] = ()


def make_film(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Make the edition; nothing is left behind where that is stopped."""
    told, home = Told(**job.details), workshop.home
    by_hand = told.reader not in ("machine", "nobody")
    made: Recording | None = None
    if by_hand:
        recording_id, lines = told.reader, _found(workshop, told, progress)
    else:
        sound, lines = _read(workshop, told, progress)
        made = _recording(workshop, str(job.episode_id), told, sound)
        recording_id = ""
    seen = _pictures(workshop, str(job.episode_id), [line.text for line in lines], progress) if told.pictures else []
    with home.database.write() as session:
        episode = session.get(Episode, job.episode_id)
        if episode is None:
            raise Problem("no-episode", "This episode is not there any more.")
        if made is not None:
            session.add(made)
            session.flush()
            recording_id = made.id
            home.transcripts.extend(session, made, 0, made.length, [word for line in lines for word in line.words])
        shown: list[str | None] = []
        for each in seen:
            if isinstance(each, Recording):
                session.add(each)
                session.flush()
            shown.append(each.id if isinstance(each, Recording) else each)
        length = session.get_one(Recording, recording_id).length
        row = EditionRow(name=told.name, crossfade=CROSSFADE, episode_id=episode.id)
        session.add(row)
        session.flush()
        edition = _edition(session, recording_id, length, lines, shown, told, whole=not by_hand)
        home.editions.arrive(session, row.id, Become(edition), "began as a film of a text")
        post(session, "recording", episode.id)
    if made is not None:
        home.vault.claim(made.digest)
    for each in seen:
        if isinstance(each, Recording):
            home.vault.claim(each.digest)


def _read(workshop: Workshop, told: Told, progress: Progress) -> tuple[np.ndarray, list[Line]]:
    """The sound of all sentences read by a machine, or as much silence; and where they lie in it."""
    read: list[np.ndarray] = []
    places: list[Places] = []
    fit = fitter(workshop, "en")
    for number, text in enumerate(told.sentences):
        texts = text.split()
        if told.reader == "machine":
            sound, found = _spoken(text, texts, fit)
        else:
            sound = np.zeros(reading_length(text), np.float32)
            found = spread(texts, 0, len(sound))
        read.append(sound)
        places.append(found)
        progress(number)
    rest = rest_for([len(each) for each in read], told.length - LEAD - TAIL) if told.length else REST
    parts, lines, at = [np.zeros(LEAD, np.float32)], [], LEAD
    for text, sound, found in zip(told.sentences, read, places, strict=True):
        words = tuple(
            Word(word, at + a, at + b, 1.0, begins=number == 0)
            for number, (word, (a, b)) in enumerate(zip(text.split(), found, strict=True))
        )
        lines.append(Line(text, at, at + len(sound), words))
        parts += [sound, np.zeros(rest, np.float32)]
        at += len(sound) + rest
    parts[-1] = np.zeros(TAIL, np.float32)
    return np.concatenate(parts), lines


def _spoken(text: str, texts: Sequence[str], fit: Fits) -> tuple[np.ndarray, Places]:
    """A sentence in the voice of a machine without the silence around it, and where its words lie in that."""
    import soxr

    sound = machine_voice().say(text, np.zeros(0, np.float32))
    loud = np.flatnonzero(np.abs(sound) > 0.01 * max(1e-6, float(np.abs(sound).max())))
    if not len(loud):
        return np.zeros(reading_length(text), np.float32), spread(texts, 0, reading_length(text))
    sound = sound[max(0, int(loud[0]) - RATE // 50) : int(loud[-1]) + RATE // 10]
    found = fit(np.asarray(soxr.resample(sound, RATE, 16_000), np.float32), texts)
    if not found:
        return sound, spread(texts, 0, len(sound))
    edges = [(min(len(sound) - 1, round(a * RATE)), min(len(sound), round(b * RATE))) for a, b in found]
    return sound, [(a, max(a + 1, b)) for a, b in edges]


def _recording(workshop: Workshop, episode_id: str, told: Told, sound: np.ndarray) -> Recording:
    """The recording of what was read, which is not stored yet."""
    home = workshop.home
    name = f"{told.name}, read by a machine" if told.reader == "machine" else f"{told.name}, silent"
    with TemporaryDirectory(dir=home.vault.root / "incoming") as folder:
        file = Path(folder) / "read.flac"
        write_line(file, sound)
        received, info = home.vault.adopt(file), probe(file, name)
    recording = Recording(
        episode_id=episode_id, name=name, kind="speech", digest=received.digest, size=received.size, info=info.to_json(),
        state="ready", placed=False, language="en", transcript_state="done",
    )  # fmt: skip
    recording.length = decode(home, recording).length
    return recording


def _found(workshop: Workshop, told: Told, progress: Progress) -> list[Line]:
    """Where somebody reads the sentences in a recording; those nobody read are left out.

    Raises
    ------
    Problem
        ``not-read-yet``.
    """
    home = workshop.home
    with home.database.read() as session:
        recording = session.get(Recording, told.reader)
        if recording is None or recording.transcript_state != "done":
            raise Problem("not-read-yet", "The words of this recording are not known yet. Wait until it has been transcribed.")
        said = [word for word in home.transcripts.of(session, recording).words if not word.is_sound]
    lines = [*_lines(told.sentences, said)]
    progress(len(told.sentences) - 1)
    if not lines:
        raise Problem(
            "not-read-yet", f"None of these sentences is read in “{recording.name}”. Record them, or choose another reader."
        )
    return lines


SURE = 0.6
"""So much of a sentence has to be heard, word for word, for it to have been read."""


def _lines(sentences: Sequence[str], said: Sequence[Word]) -> Iterator[Line]:
    """Each sentence where it is said: the stretch of words that it has most in common with, after the one before."""
    from rapidfuzz.distance import Levenshtein

    texts = [_bare(word.text) for word in said]
    for sentence in sentences:
        wanted = [_bare(word) for word in sentence.split()]
        matched: list[int] = []
        best = 0.0
        for first in [at for at, text in enumerate(texts) if text in wanted[:3]]:
            window = texts[first : first + len(wanted) + len(wanted) // 4 + 1]
            same = [each for each in Levenshtein.opcodes(wanted, window) if each.tag == "equal"]
            found = [first + at for each in same for at in range(each.dest_start, each.dest_end)]
            # Of several readings the last one counts, as whoever reads again means it.
            if found and len(found) / len(wanted) >= max(SURE, best):
                best, matched = len(found) / len(wanted), found
        if matched:
            words = tuple(said[matched[0] : matched[-1] + 1])
            yield Line(sentence, words[0].start, words[-1].end, words)


def _bare(text: str) -> str:
    return "".join(letter for letter in text.casefold() if letter.isalnum())


def _pictures(workshop: Workshop, episode_id: str, texts: Sequence[str], progress: Progress) -> list[Recording | str | None]:
    """A picture for each sentence: of the episode by its id, else one of the library that is not stored yet; none twice."""
    from jaskel.speech.meaning import meanings_of

    home = workshop.home
    with home.database.read() as session:
        wanted = select(Recording).where(Recording.episode_id == episode_id, Recording.state == "ready")
        own = [each for each in session.scalars(wanted) if each.kind in ("still", "video")]
    alike = meanings_of(texts) @ meanings_of([each.name for each in own]).T if own else np.zeros((len(texts), 0))
    used: set[str] = set()
    known = {each.digest: each.id for each in own}
    found: list[Recording | str | None] = []
    answers = True
    for number, text in enumerate(texts):
        progress(number)
        free = [at for at, each in enumerate(own) if each.id not in used and alike[number, at] >= FITTING]
        if free:
            chosen = own[max(free, key=lambda at: float(alike[number, at]))].id
            used.add(chosen)
            found.append(chosen)
            continue
        picture = None
        if answers:
            try:
                picture = next((each for each in pictures_of(workshop).search(text) if str(each["id"]) not in used), None)
            except Problem:
                # Without the library the film has the episode's own pictures, and its card.
                answers = False
        if picture is None:
            found.append(None)
            continue
        used.add(str(picture["id"]))
        received, info = fetched(workshop, str(picture["id"]), str(picture["name"]), int(picture["size"]))
        if received.digest in known:
            found.append(known[received.digest])
            continue
        new = Recording(
            episode_id=episode_id, name=str(picture["seen"]), kind=info.kind, digest=received.digest, size=received.size,
            info=info.to_json(), state="ready", placed=False,
        )  # fmt: skip
        new.length = decode(home, new).length if info.has_sound else round((info.seconds or 0) * RATE)
        new.has_working_copy = light_copy(home, new).exists()
        found.append(new)
    return found


def _edition(
    session: Session,
    recording: str,
    length: Ticks,
    lines: Sequence[Line],
    shown: Sequence[str | None],
    told: Told,
    *,
    whole: bool,
) -> Edition:
    """The edition: a passage for each sentence, its picture over it up to the next, its title, and music under all of it."""
    ends = [line.start for line in lines[1:]]
    if whole:
        pieces = [Piece(Recorded(recording), 0, length)]
        seen = [*zip([0, *ends], [*ends, length], strict=True)]
    else:
        seen = [*_heard(lines, length)]
        pieces = [Piece(Recorded(recording), begin, end) for begin, end in seen]
    marks: dict[str, Mark] = {}
    for number, (line, (begin, _)) in enumerate(zip(lines, seen, strict=True)):
        if number < len(shown) and (picture := shown[number]):
            # Where nothing fits a sentence, what is seen before it stays.
            following = (at for at in range(number + 1, len(shown)) if shown[at])
            until = seen[next(following, len(lines)) - 1][1]
            anchors = (Place(recording, begin), Place(recording, until))
            film = session.get_one(Recording, picture).kind == "video"
            marks[f"cutaway.told.{number}"] = Cutaway(
                f"cutaway.told.{number}", anchors, picture, first=WHOLE, last=WHOLE if film else NEARER
            )
        if told.titles:
            stretch = (Stretch(recording, line.start, line.end),)
            marks[f"title.told.{number}"] = TitleHere(f"title.told.{number}", stretch, line.text[:LONGEST_TITLE])
    if told.music:
        music = session.get(Recording, told.music)
        if music is not None:
            loops = bool(MediaInfo.from_json(music.info).loops)
            marks["bed.told"] = Bed(
                "bed.told", (Beginning(), End()), music.id, decibels=-14.0, loop=loops or music.length < length
            )
    return Edition(tuple(pieces), marks=Marks(marks), shape=told.shape)


def _heard(lines: Sequence[Line], length: Ticks) -> Iterator[tuple[Ticks, Ticks]]:
    """What is heard of a recording for each sentence: with a little around it, but nothing of its neighbours."""
    for line in lines:
        before = max((other.end for other in lines if other.end <= line.start), default=0)
        after = min((other.start for other in lines if other.start >= line.end), default=length)
        yield (
            max((before + line.start) // 2, line.start - BESIDE, 0),
            min((line.end + after + 1) // 2, line.end + BESIDE, length),
        )
