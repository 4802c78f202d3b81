"""Stems: every voice, and the music, as a file of its own; all as long as the programme, so that they fit together."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import soundfile

from jaskel.core.plan import Plan, SoundSlice, TrackSpan
from jaskel.core.timebase import RATE
from jaskel.media.conformed import write_samples
from jaskel.media.render import STRETCH, Report
from jaskel.media.sound import Read, mix_slice

MUSIC, OTHERS = "music", "other lines"


@dataclass(frozen=True)
class Stem:
    """What is heard in one file: the recordings of a voice, or those under the words."""

    name: str
    recordings: frozenset[str]


def stems_of(plan: Plan, voices: Mapping[str, str]) -> list[Stem]:
    """One for each voice, one for each track of several voices, and one for all music. ``voices`` are names by their ids."""
    by_voice: dict[str, set[str]] = {}
    for name in plan.edition.recordings:
        if name in plan.edition.strips:
            continue
        for track in plan.material.sounding(name):
            known = voices.get(track.voice or "")
            by_voice.setdefault(known or f"track {len(by_voice) + 1}", set()).add(track.recording)
    for line, strip in plan.edition.strips.items():
        voice = next((name for name, tracks in by_voice.items() if strip in tracks), OTHERS)
        by_voice.setdefault(voice, set()).add(line)
    stems = [Stem(name, frozenset(recordings)) for name, recordings in by_voice.items()]
    under = frozenset(each.bed.recording for each in plan.placed)
    return [*stems, Stem(MUSIC, under)] if under else stems


def write_stems(path: Path, plan: Plan, voices: Mapping[str, str], read: Read, progress: Report, *, wet: bool) -> None:
    """A zip of 24-bit WAV files. ``wet`` as they are mixed, else before their chains, levels and rides.

    What the bus does depends on all of them together, so it is in none: laid together, wet stems are the mix before it.
    """
    stems = stems_of(plan, voices)
    done = 0
    with TemporaryDirectory(dir=path.parent) as folder, zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as out:
        for number, stem in enumerate(stems, 1):
            file = Path(folder) / "stem.wav"
            with soundfile.SoundFile(
                file, "w", RATE, 2, "PCM_24", format="RF64" if plan.length > 600_000_000 else "WAV"
            ) as new:
                for sound in _sound(plan, stem, read, wet=wet):
                    write_samples(new, sound)
                    done += len(sound)
                    progress(done // len(stems))
            name = " ".join(re.sub(r"[^\w -]", "", stem.name).split()) or "track"
            out.write(file, f"{number:02} {name}.wav")
            file.unlink()


def _sound(plan: Plan, stem: Stem, read: Read, *, wet: bool) -> Iterator[np.ndarray]:
    for begin in range(0, plan.length, STRETCH):
        heard = plan.mixed(begin, min(begin + STRETCH, plan.length))
        mine = tuple(each if wet else _dry(each) for each in heard.spans if each.feed.recording in stem.recordings)
        yield mix_slice(SoundSlice(heard.length, mine), read)


def _dry(span: TrackSpan) -> TrackSpan:
    return replace(span, feed=replace(span.feed, chain=()), decibels=0.0, pan=0.0, envelope=(), ride=())
