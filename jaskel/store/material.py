"""The material of an episode as the core knows it: its own marks with their log, and what editions are compiled against."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.captions.house import USUAL_HOUSE
from jaskel.core.codec import codec, from_json, to_json
from jaskel.core.edition import Edition
from jaskel.core.history import History, StepKind, Turn
from jaskel.core.marks.anchor import Carry
from jaskel.core.marks.bed import Bed
from jaskel.core.marks.chain import chains, chains_wanted
from jaskel.core.marks.cutaway import Cutaway
from jaskel.core.marks.graphic import LowerThird
from jaskel.core.marks.mark import Mark, Marks, strip_name, strip_parts
from jaskel.core.operations import SetMarks
from jaskel.core.operations.marks import carried_along
from jaskel.core.picture.faces import Face, Faces
from jaskel.core.picture.framing import Box
from jaskel.core.picture.style import USUAL_STYLE, Style
from jaskel.core.plan import Material
from jaskel.core.plan.material import Footage
from jaskel.core.problem import Problem
from jaskel.core.session import Session as Tracks
from jaskel.core.session import Track
from jaskel.core.sound.processor import Chain, Leveller, before_the_cut, by_words, name_of
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import Transcript
from jaskel.store.editions import NOBODY, Author, carried_over, entry_of
from jaskel.store.house_captions import captions_of
from jaskel.store.house_style import episode_in, people_of, style_of
from jaskel.store.models import Episode, MaterialEntry, Recording
from jaskel.store.notices import post
from jaskel.store.sessions import picture_of, session_in
from jaskel.store.vault import Vault


@dataclass(frozen=True)
class Annotated:
    """The marks of an episode's material, at a revision of their own."""

    marks: Marks
    revision: int = 0


def marks_of(episode: Episode) -> Annotated:
    """The marks of an episode: notes, selects, chapters."""
    return Annotated(codec.structure(episode.marks, Marks), episode.marks_revision)


def set_marks(
    session: Session, episode: Episode, changes: Mapping[str, Mark | None], told: str, author: Author = NOBODY
) -> Annotated:
    """Add, change and take off marks of an episode as one step of their log; no edition's revision rises.

    Raises
    ------
    Problem
        ``nothing-changed``.
    """
    return _append(session, episode, "do", None, SetMarks.of(changes, told), told, author)


def carry_marks(session: Session, episode: Episode, carries: Sequence[Carry]) -> None:
    """Let the marks of an episode follow where recordings take the place of others. It is no step that undo takes back."""
    changes = carried_along(marks_of(episode).marks, carries)
    if changes:
        _append(session, episode, "base", None, SetMarks.of(changes), "followed a recording")


def history_of(session: Session, episode: Episode) -> History:
    """What of an episode's marks can be undone and redone."""
    steps = session.execute(
        select(MaterialEntry.number, MaterialEntry.step, MaterialEntry.target, MaterialEntry.who, MaterialEntry.author)
        .where(MaterialEntry.episode_id == episode.id, MaterialEntry.step != "base")
        .order_by(MaterialEntry.number)
    )
    return History.read(entry_of(*step) for step in steps)


def turn_marks(session: Session, episode: Episode, turn: Turn, author: Author = NOBODY) -> MaterialEntry:
    """Undo or redo an author's last step on an episode's marks; gives the entry that did it.

    Raises
    ------
    Problem
        ``nothing-to-undo``, ``nothing-to-redo``, or ``in-the-way``.
    """
    step = history_of(session, episode).next(turn, author.keys)
    if step is None:
        raise Problem(f"nothing-to-{turn}", f"There is nothing to {turn}.")
    last = session.get_one(MaterialEntry, (episode.id, step.last))
    later = select(MaterialEntry).where(MaterialEntry.episode_id == episode.id, MaterialEntry.number > step.last)
    target = session.get_one(MaterialEntry, (episode.id, step.target))
    operation = carried_over(from_json(last.inverse), session.scalars(later.order_by(MaterialEntry.number)), turn)
    assert isinstance(operation, SetMarks)
    _append(session, episode, turn, step.target, operation, target.summary, author)
    return session.get_one(MaterialEntry, (episode.id, episode.marks_revision))


def material_in(session: Session, edition: Edition, vault: Vault, said: Mapping[str, Transcript]) -> Material:
    """What an edition is compiled against; ``said`` holds the transcripts of what it uses."""
    return material_of(session, edition, sessions_in(session, edition), vault, said)


def sessions_in(session: Session, edition: Edition) -> dict[str, Tracks]:
    """The tracks of all that an edition uses."""
    return {name: known for name in edition.used if (known := session_in(session, name))}


def material_of(
    session: Session, edition: Edition, sessions: Mapping[str, Tracks], vault: Vault, said: Mapping[str, Transcript]
) -> Material:
    """The same as :func:`material_in`, where the tracks are known."""
    episode = episode_in(session, edition)
    show = episode.show if episode else None
    return Material(
        sessions,
        said,
        frozenset(_processed(session, edition, sessions, vault)),
        _lengths(session, edition),
        {strip: read_weighted(file) for strip, file in _ridden(session, edition, sessions, vault) if file.exists()},
        captions_of(show).house if show else USUAL_HOUSE,
        {name: read_faces(file) for name, file in _filmed(session, sessions, vault) if file.exists()},
        style_of(show) if show else USUAL_STYLE,
        people_of(show) if show and (edition.marks.all(LowerThird) or {"framings", "pulse"} & {*show.style}) else {},
        _footage(session, edition),
        _envelopes(session, sessions, vault, style_of(show)) if show and style_of(show).draws_voices else {},
        {voice.id: voice.number for voice in show.voices} if show else {},
        (episode.title, episode.show.name) if episode else ("", ""),
    )


def _filmed(session: Session, sessions: Mapping[str, Tracks], vault: Vault) -> Iterator[tuple[str, Path]]:
    """The recordings that are seen, and the files that tell where faces are in them."""
    for name in {track.recording for known in sessions.values() for track in known.tracks if track.picture}:
        yield name, vault.faces(session.get_one(Recording, name).digest)


@lru_cache(16)
def read_faces(path: Path) -> Faces:
    """The faces of a recording, as they were written down once and for all."""
    told = json.loads(path.read_text())
    faces = (
        Face(each["first"], tuple(Box(*box) for box in each["boxes"]), tuple(each.get("turns", ()))) for each in told["faces"]
    )
    moving = (Box(*box) if box else None for box in told.get("moving", []))
    return Faces(tuple(faces), told["looks"], tuple(told["cuts"]), tuple(moving))


def write_faces(path: Path, faces: Faces) -> None:
    """Faces as JSON."""
    told = [
        {
            "first": face.first,
            "boxes": [[round(side, 4) for side in box] for box in face.boxes],
            "turns": [round(turn, 3) for turn in face.turns],
        }
        for face in faces.faces
    ]
    moving = [[round(side, 4) for side in box] if box else None for box in faces.moving]
    path.write_text(json.dumps({"looks": faces.looks, "cuts": faces.cuts, "faces": told, "moving": moving}))


def _footage(session: Session, edition: Edition) -> dict[str, Footage]:
    """What is known of the recordings over the words."""
    names = dict.fromkeys(each.shown for each in edition.marks.all(Cutaway))
    found = {}
    for name in names:
        known = session.get(Recording, name)
        picture = picture_of(known) if known and known.state == "ready" else None
        if known and picture:
            found[name] = Footage(picture, known.length, bool(known.info.get("sound_codec")))
    return found


def _envelopes(session: Session, sessions: Mapping[str, Tracks], vault: Vault, style: Style) -> dict[str, bytes]:
    """How loud recordings are whose voice is drawn: where nothing was filmed, or in framings, too."""
    everywhere = any(each.kind == "voice" for made in style.framings for each in made.fixtures)
    drawn = (known.tracks for known in sessions.values() if everywhere or not any(t.picture for t in known.tracks))
    heard = {track.recording for tracks in drawn for track in tracks}
    files = ((name, vault.peaks(session.get_one(Recording, name).digest)) for name in heard)
    return {name: read_envelope(file) for name, file in files if file.exists()}


@lru_cache(16)
def read_envelope(path: Path) -> bytes:
    """The envelope of a recording, which never changes."""
    return path.read_bytes()


def _lengths(session: Session, edition: Edition) -> dict[str, Ticks]:
    """Of the recordings under the words."""
    beds = dict.fromkeys(bed.recording for bed in edition.marks.all(Bed))
    return {name: known.length for name in beds if (known := session.get(Recording, name)) and known.state == "ready"}


def _ridden(session: Session, edition: Edition, sessions: Mapping[str, Tracks], vault: Vault) -> Iterator[tuple[str, Path]]:
    """The strips that are ridden by their loudness, and the files that tell it."""
    for track in _tracks(sessions, edition):
        for strip, chain in _wanted(edition, track):
            if any(isinstance(each, Leveller) for each in by_words(chain)):
                yield strip, weighted_file(session, vault, track, chain)


def weighted_file(session: Session, vault: Vault, track: Track, chain: Chain) -> Path:
    """Where the loudness of a track after its chain is told."""
    return vault.weighted(session.get_one(Recording, track.recording).digest, track.drift, name_of(chain))


@lru_cache(16)
def read_weighted(path: Path) -> Sequence[float]:
    """The loudness of a track over time, as :func:`jaskel.media.weighted.measure_weighted` wrote it; that never changes."""
    found: Sequence[float] = np.load(path).tolist()
    return found


def _tracks(sessions: Mapping[str, Tracks], edition: Edition) -> dict[Track, None]:
    """The tracks of an edition that are heard; a recording alone is one."""
    alone = [Track(name, 0) for name in edition.recordings if name not in sessions]
    return dict.fromkeys([*(track for each in sessions.values() for track in each.tracks if track.sounds), *alone])


def _processed(session: Session, edition: Edition, sessions: Mapping[str, Tracks], vault: Vault) -> Iterator[tuple[str, str]]:
    if not chains_wanted(edition.marks):
        return
    for track in _tracks(sessions, edition):
        for name in (name_of(chain) for _, chain in _wanted(edition, track)):
            digest = session.get_one(Recording, track.recording).digest
            if name and vault.sound(digest, track.drift, name).exists():
                yield track.recording, name


def unprocessed_in(session: Session, edition: Edition, vault: Vault) -> list[tuple[Track, Chain]]:
    """The tracks whose sound has yet to go through their chain or to be measured for it, in the order they are used."""
    if not chains_wanted(edition.marks):
        return []
    material = material_in(session, edition, vault, {})
    tracks = dict.fromkeys(track for name in edition.recordings for track in material.sounding(name))
    return [
        (track, chain)
        for track in tracks
        for strip, chain in _wanted(edition, track)
        if not is_processed(material, strip, chain)
    ]


def _wanted(edition: Edition, track: Track) -> list[tuple[str, Chain]]:
    """The chains that a track goes through, with their strips; a line said again goes through those of its voice's track."""
    home = edition.strips.get(track.recording, track.recording)
    known = chains_wanted(edition.marks) if home == track.recording else chains(edition.marks).items()
    parts = ((strip_parts(strip), chain) for strip, chain in known)
    return [(strip_name(track.recording, voice), chain) for (recording, voice), chain in parts if recording == home]


def is_processed(material: Material, strip: str, chain: Chain) -> bool:
    """Whether all is there that the chain of a strip asks for before it can be heard."""
    made = not before_the_cut(chain) or (strip_parts(strip)[0], name_of(chain)) in material.processed
    return made and (strip in material.loudness or not any(isinstance(each, Leveller) for each in by_words(chain)))


def _append(
    session: Session,
    episode: Episode,
    step: StepKind | str,
    target: int | None,
    operation: SetMarks,
    summary: str,
    author: Author = NOBODY,
) -> Annotated:
    before = marks_of(episode)
    after, inverse = operation.apply_to(before)
    if after.marks == before.marks:
        raise Problem("nothing-changed", "That changes nothing: it is already as you want it.")
    number = episode.marks_revision + 1
    session.add(
        MaterialEntry(
            episode_id=episode.id,
            number=number,
            step=step,
            target=target or number,
            operation=to_json(operation),
            inverse=to_json(inverse),
            summary=summary,
            who=author.who,
            author=author.window,
        )
    )
    episode.marks, episode.marks_revision = codec.unstructure(after.marks, Marks), number
    session.flush()
    post(session, "recording", episode.id)
    return Annotated(after.marks, number)
