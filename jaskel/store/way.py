"""How a show sounds: chains it keeps by name, the chain and place of each of its voices, its loudness, its opening and ending.

It is taken from an edition that sounds as it should, and given to the next by one step.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from sqlalchemy.orm import Session

from jaskel.core.codec import codec
from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Place
from jaskel.core.marks.bed import Bed
from jaskel.core.marks.chain import chains, set_chain
from jaskel.core.marks.level import pans, set_pan
from jaskel.core.marks.loudness import loudness_of, set_loudness
from jaskel.core.marks.mark import Mark, Marks, strip_name, strip_parts
from jaskel.core.sound.chains import from_json, to_json
from jaskel.core.sound.processor import AS_IT_IS, Chain, Disguise
from jaskel.core.transcript import Transcript
from jaskel.store.material import sessions_in
from jaskel.store.models import Episode, Recording, Show
from jaskel.store.sessions import shown_name


@dataclass(frozen=True)
class VoiceWay:
    """The chain of a voice, and where it is placed from -1 (left) to 1 (right)."""

    chain: Chain = AS_IT_IS
    pan: float = 0.0


@dataclass(frozen=True)
class Way:
    """What a show keeps.

    Attributes
    ----------
    chains
        Chains by name, of one processor or several.
    voices
        By the ids of voices.
    target, peak
        Its loudness in LUFS (None for none), and true peak in dBTP; ``mono`` whether it is of one channel.
    beds
        Its opening and ending, tied to the programme's ends: each a bed, and the digest and name of its recording.
    """

    chains: Mapping[str, Chain] = field(default_factory=dict)
    voices: Mapping[str, VoiceWay] = field(default_factory=dict)
    target: float | None = None
    peak: float = -1.0
    beds: tuple[tuple[Bed, str, str], ...] = ()
    mono: bool = False


def way_of(show: Show) -> Way:
    """What a show keeps of how it sounds."""
    kept = show.sound or {}
    return Way(
        {name: from_json(chain) for name, chain in kept.get("chains", {}).items()},
        {id: VoiceWay(from_json(each["chain"]), each.get("pan", 0.0)) for id, each in kept.get("voices", {}).items()},
        kept.get("target"),
        kept.get("peak", -1.0),
        tuple((codec.structure(each["bed"], Mark), each["digest"], each["name"]) for each in kept.get("beds", [])),  # type: ignore[misc,type-abstract]
        kept.get("mono", False),
    )


def keep_way(show: Show, way: Way) -> None:
    """Store what a show keeps."""
    kept: dict[str, Any] = {
        "chains": {name: to_json(chain) for name, chain in way.chains.items()},
        "voices": {id: {"chain": to_json(each.chain), "pan": each.pan} for id, each in way.voices.items()},
        "target": way.target,
        "peak": way.peak,
        "mono": way.mono,
        "beds": [{"bed": codec.unstructure(bed, Mark), "digest": digest, "name": name} for bed, digest, name in way.beds],
    }
    show.sound = kept


def voices_in(session: Session, edition: Edition, said: Mapping[str, Transcript]) -> dict[str, str]:
    """The voice of each strip of an edition: that of its microphone, or those that were told apart within it."""
    found: dict[str, str] = {}
    for name, known in sessions_in(session, edition).items():
        for track in known.tracks:
            if not track.sounds or name in edition.strips:
                continue
            if track.voice:
                found[track.recording] = track.voice
            elif len(known.tracks) == 1 and name in said:
                told = [*dict.fromkeys(word.voice for word in said[name].words if word.voice)]
                found |= {strip_name(track.recording, voice if len(told) > 1 else ""): voice for voice in told}
    return found


def names_of(session: Session, show: Show, edition: Edition, said: Mapping[str, Transcript]) -> dict[str, str]:
    """What the voices of a show are called in what is exported of an edition: one that is disguised goes by its number."""
    wanted = chains(edition.marks)
    disguised = {
        voice
        for strip, voice in voices_in(session, edition, said).items()
        for each in wanted.get(strip) or wanted.get(strip_parts(strip)[0], AS_IT_IS)
        if isinstance(each, Disguise) and each.on and each.amount
    }
    return {each.id: f"Voice {each.number}" if each.id in disguised else shown_name(each) for each in show.voices}


def way_from(session: Session, known: Way, edition: Edition, voices: Mapping[str, str]) -> Way:
    """The way of a show after it is taken from an edition, whose strips are of these ``voices``."""
    wanted, places, loudness = chains(edition.marks), pans(edition.marks), loudness_of(edition.marks)
    mine = {
        voice: VoiceWay(wanted.get(strip) or wanted.get(strip_parts(strip)[0], AS_IT_IS), places.get(strip, 0.0))
        for strip, voice in voices.items()
    }
    beds = []
    for bed in edition.marks.all(Bed):
        recording = session.get(Recording, bed.recording)
        if recording and not any(isinstance(each, Place) for each in bed.anchors):
            beds.append((bed, recording.digest, recording.name))
    return Way(
        known.chains,
        {**known.voices, **mine},
        loudness.target if loudness else None,
        loudness.peak if loudness else -1.0,
        tuple(beds),
        bool(loudness and loudness.mono),
    )


def as_the_show_does(
    way: Way, marks: Marks, voices: Mapping[str, str], recordings: Mapping[str, str]
) -> dict[str, Mark | None]:
    """The changes that let an edition sound as its show does.

    ``voices`` are those of its strips, ``recordings`` the ids in its episode of the files of openings and endings, by digest.
    """
    changes: dict[str, Mark | None] = {}
    for strip, voice in voices.items():
        if voice in way.voices:
            changes |= set_chain(marks, strip, way.voices[voice].chain)
            changes |= set_pan(marks, strip, way.voices[voice].pan)
    if way.target is not None:
        known = loudness_of(marks)
        if known is None or (known.target, known.peak, known.mono) != (way.target, way.peak, way.mono):
            changes |= set_loudness(marks, way.target, way.peak, mono=way.mono)
    there = {(bed.recording, bed.anchors) for bed in marks.all(Bed)}
    for bed, digest, _ in way.beds:
        recording = recordings.get(digest)
        if recording and (recording, bed.anchors) not in there:
            id = marks.free_id(f"bed.{recording}")
            while id in changes:
                id += "+"
            changes[id] = replace(bed, id=id, recording=recording)
    return {id: mark for id, mark in changes.items() if marks.get(id) != mark}


def bring_beds(session: Session, way: Way, episode: Episode) -> dict[str, str]:
    """The recordings of an episode that hold the show's opening and ending, by digest; what is missing is taken from others."""
    found = {each.digest: each.id for each in episode.recordings}
    for _, digest, name in way.beds:
        if digest in found:
            continue
        known = session.query(Recording).filter_by(digest=digest, state="ready").first()
        if known is None:
            continue
        new = Recording(
            episode_id=episode.id, name=name, kind="music", digest=digest, size=known.size, info=known.info, state="ready",
            length=known.length, placed=False,
        )  # fmt: skip
        session.add(new)
        session.flush()
        found[digest] = new.id
    return found
