"""How loud things are: each voice by its own words, and a programme that is to be brought to a loudness."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import partial
from itertools import count, repeat

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.destination import Destination, fitted_plan
from jaskel.core.edition import Edition
from jaskel.core.marks.chain import chains
from jaskel.core.marks.level import faders, set_fader
from jaskel.core.marks.loudness import LoudnessMark, Measured, found_loudness, loudness_of
from jaskel.core.marks.mark import Mark, strip_name
from jaskel.core.operations import SetMarks, Strike, Telling, apply
from jaskel.core.operations.base import Range
from jaskel.core.plan import Plan, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.session import Track
from jaskel.core.sound.bus import REACH, Bus
from jaskel.core.sound.processor import AS_IT_IS, Chain, by_words
from jaskel.core.sound.ride import STEP, ride_of, shared
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript
from jaskel.jobs.process import loudness_over_time, process_track
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import ACTIVE, add_job
from jaskel.jobs.workshop import Workshop
from jaskel.media.loudness import Meter, setting_for
from jaskel.media.render import STRETCH, Report
from jaskel.media.sound import mix_slice
from jaskel.media.weighted import loudness_of as loudness_in
from jaskel.store.editions import Author, Opened
from jaskel.store.material import material_in, sessions_in, unprocessed_in
from jaskel.store.models import EditionRow, Job
from jaskel.store.notices import post
from jaskel.store.sessions import transcripts_in


def start_measuring(session: Session, edition_id: str, length: Ticks) -> str | None:
    """Write down the job that brings an edition to its loudness, unless one waits already; gives its id."""
    known = select(Job.id).where(Job.kind == "loudness", Job.subject == edition_id, Job.state.in_(ACTIVE))
    if session.scalar(known.limit(1)):
        return None
    return add_job(session, "loudness", session.get_one(EditionRow, edition_id).episode_id, edition_id, length).id


def bring_to_loudness(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Measure an edition until what was measured is what it is; with a loudness to reach, store what brings it there."""
    while True:
        opened, plan = _plan(workshop, job.subject, progress)
        wanted = loudness_of(opened.edition.marks)
        if not plan.length or (wanted and wanted.measured and wanted.measured.of == plan.unlevelled and _curve(workshop, plan)):
            return
        measure(workshop, job.subject, plan, lambda at, most=plan.length: progress(min(at, most)))  # type: ignore[misc]
        if not wanted:
            return


def plan_for(workshop: Workshop, edition_id: str, destination: Destination, progress: Progress) -> tuple[Opened, Plan]:
    """An edition as a destination wants it, its tracks processed."""
    opened, plan = _plan(workshop, edition_id, progress)
    return opened, fitted_plan(opened.edition, plan.material, destination)


def is_to_be_measured(plan: Plan) -> bool:
    """Whether a plan is to be brought to a loudness, and was edited since that was measured."""
    wanted = loudness_of(plan.edition.marks)
    return bool(wanted and plan.length and (wanted.measured is None or wanted.measured.of != plan.unlevelled))


def measured_plan(workshop: Workshop, edition_id: str, plan: Plan, progress: Report) -> Plan:
    """A plan at its loudness."""
    marks = plan.edition.marks
    found = measure(workshop, edition_id, plan, progress) if is_to_be_measured(plan) else None
    return replace(plan, edition=replace(plan.edition, marks=marks.changed(found_loudness(marks, *found)))) if found else plan


def part_of_plan(plan: Plan, part: Range | None) -> Plan:
    """What a plan has of a ``part`` of its edition, in laid time; all of it where there is none.

    It has the loudness that all of it has.
    """
    if part is None:
        return plan
    around = [(begin, end) for begin, end in ((0, part[0]), (part[1], plan.edition.length)) if begin < end]
    edition = apply(plan.edition, Strike(tuple(around)))[0] if around else plan.edition
    return replace(compile_plan(edition, plan.material), outlet=plan.outlet)


def _plan(workshop: Workshop, edition_id: str, progress: Progress) -> tuple[Opened, Plan]:
    home = workshop.home
    with home.database.read() as session:
        opened = home.editions.open(session, edition_id)
        said = transcripts_in(session, opened.edition.recordings, home.transcripts)
        unprocessed = unprocessed_in(session, opened.edition, home.vault)
    for track, chain in unprocessed:
        process_track(workshop, track, chain, lambda _: progress(0))
    with home.database.read() as session:
        return opened, compile_plan(opened.edition, material_in(session, opened.edition, home.vault, said))


FIRST_PASS, ANOTHER_PASS = 0.4, 0.6
"""A programme is gone through once as it is, and once more each time the limiter is set: mostly once. Shares of the work."""


def measure(workshop: Workshop, edition_id: str, plan: Plan, progress: Report) -> tuple[Bus, Measured] | None:
    """Find what brings a programme to its loudness; the edition's own is stored, with how loud it is over time.

    ``progress`` goes from nothing to the length of the plan, and beyond it where the limiter is set more than once.

    Raises
    ------
    Problem
        ``silent``.
    """
    wanted = loudness_of(plan.edition.marks)
    home = workshop.home
    with home.database.read() as session:
        own = _alike(loudness_of(home.editions.open(session, edition_id).edition.marks), wanted)
    bus = None
    passes = _passes(plan.length, progress) if wanted else repeat(progress)
    if wanted:
        setting, found = setting_for(
            lambda: _unlevelled(workshop, plan, next(passes), mono=wanted.mono),
            1 if wanted.mono else 2,
            wanted.target,
            wanted.peak,
        )
        if found.is_silent:
            raise Problem("silent", "This edition is silent, so it cannot be brought to a loudness.")
        decibels, held = (setting.decibels, setting.peak - setting.margin) if setting else (0.0, wanted.peak)
        bus = Bus(decibels, held, wanted.mono)
        measured = Measured(found.integrated, found.range, found.peak, plan.unlevelled)
    if own:
        _write_curve(workshop, plan, bus, next(passes))
    if not wanted or not bus:
        return None
    with home.database.write() as session:
        now = home.editions.open(session, edition_id)
        if own and _alike(loudness_of(now.edition.marks), wanted):
            told = f"brought the programme to {measured.integrated:.1f} LUFS"
            changes = found_loudness(now.edition.marks, bus, measured)
            arrived = home.editions.arrive(session, edition_id, SetMarks.of(changes, told), told)
            post(
                session, "edition", session.get_one(EditionRow, edition_id).episode_id, id=edition_id, revision=arrived.revision
            )
    return bus, measured


def _alike(one: LoudnessMark | None, other: LoudnessMark | None) -> bool:
    """Whether two ask for the same."""
    asked = [each and (each.target, each.peak, each.mono) for each in (one, other)]
    return asked[0] == asked[1]


def _passes(length: Ticks, progress: Report) -> Iterator[Report]:
    """For each time something is gone through what its progress is told to."""
    yield lambda at: progress(round(at * FIRST_PASS))
    for number in count():
        before = length * (FIRST_PASS + number * ANOTHER_PASS)
        yield lambda at, before=before: progress(round(before + at * ANOTHER_PASS))  # type: ignore[misc]


def _unlevelled(workshop: Workshop, plan: Plan, progress: Report, *, mono: bool) -> Iterator[np.ndarray]:
    for begin in range(0, plan.length, STRETCH):
        end = min(begin + STRETCH, plan.length)
        mixed = mix_slice(plan.mixed(begin, end), workshop.sound.read)
        yield mixed.mean(axis=1, keepdims=True) if mono else mixed
        progress(end)


def _curve(workshop: Workshop, plan: Plan) -> bool:
    return workshop.home.vault.curve(plan.unlevelled).exists()


def _write_curve(workshop: Workshop, plan: Plan, bus: Bus | None, progress: Report) -> None:
    """Short-term loudness once a second, and what it all came to."""
    channels = 1 if bus and bus.mono else 2
    meter = Meter(channels)
    for begin in range(0, plan.length, STRETCH):
        end = min(begin + STRETCH, plan.length)
        meter.add(mix_slice(plan.mixed(begin, end, bus, REACH if bus else 0), workshop.sound.read)[:, :channels])
        progress(end)
    found = meter.loudness()
    values = {
        "every": RATE,
        "short_term": [round(max(each, -70.0), 1) for each in meter.short_term],
        "integrated": found.integrated if not found.is_silent else None,
        "range": found.range,
        "peak": max(found.peak, -120.0),
    }
    with workshop.home.vault.making(workshop.home.vault.curve(plan.unlevelled)) as new:
        new.write_text(json.dumps(values))


def even_voices(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Set the tracks of an edition so that all voices are equally loud, as one step of whoever asked for it."""
    home = workshop.home
    with home.database.read() as session:
        edition = home.editions.open(session, job.subject).edition
    found = voices_of(workshop, edition, progress)
    if len(found) < 2:
        raise Problem("one-voice", "There are not two voices on tracks of their own here, so there is nothing to even.")
    # The middle one stays: the others come to it, half of them from above.
    levels = faders(edition.marks)
    middle = sorted(found.values())[len(found) // 2] if len(found) % 2 else sum(found.values()) / len(found)
    changes: dict[str, Mark | None] = {}
    for strip, loudness in found.items():
        wanted = round(levels.get(strip, 0.0) + middle - loudness, 1)
        changes |= set_fader(edition.marks, strip, min(24.0, max(-60.0, wanted)))
    changes = {id: mark for id, mark in changes.items() if edition.marks.get(id) != mark}
    if not changes:
        return
    with home.database.write() as session:
        opened = home.editions.open(session, job.subject)
        told = f"set {len(found)} voices equally loud"
        author = Author(job.details.get("who", ""), job.details.get("window", ""))
        done = home.editions.perform(session, opened.id, opened.revision, SetMarks.of(changes, told), Telling(), author)
        post(session, "edition", job.of_episode, id=opened.id, revision=done.revision)


def voices_of(workshop: Workshop, edition: Edition, progress: Progress) -> dict[str, float]:
    """The loudness of each strip's own words, in LUFS, at its level and as it is ridden."""
    home = workshop.home
    with home.database.read() as session:
        said = transcripts_in(session, edition.recordings, home.transcripts)
        sessions = sessions_in(session, edition)
    wanted, levels = chains(edition.marks), faders(edition.marks)
    found: dict[str, float] = {}
    done = 0
    for name, known in sessions.items():
        for track in known.tracks:
            if not track.sounds or name in edition.strips:  # a line said again has the level of its voice's track
                continue
            for voice in voices_within(said.get(name), track):
                strip = strip_name(track.recording, voice)
                chain = wanted.get(strip) or wanted.get(track.recording, AS_IT_IS)
                measured = loudness_over_time(workshop, track, chain, partial(_still, progress, done))
                loudness = _of_words(said.get(name), replace(track, voice=voice or track.voice), chain, measured)
                if loudness is not None:
                    own = levels.get(strip, 0.0) if voice else 0.0
                    found[strip] = loudness + levels.get(track.recording, 0.0) + own
            done += track.length
            progress(done)
    return found


def voices_within(said: Transcript | None, track: Track) -> list[str]:
    """The voices that were told apart within a track; only an empty one where it has a voice of its own, or none is known."""
    if track.voice or not said:
        return [""]
    known = dict.fromkeys(word.voice for word in said.words if word.voice)
    return [*filter(None, known)] if len(known) > 1 else [""]


def _still(progress: Progress, done: Ticks, _at: Ticks) -> None:
    progress(done)


def _of_words(said: Transcript | None, track: Track, chain: Chain, measured: Sequence[float]) -> float | None:
    own, others = shared(said, track)
    ride = ride_of(by_words(chain), own, others, track, measured)
    values = np.asarray(measured)
    if ride:
        places = track.to_session(0) + np.arange(len(values)) * STEP * (1 + track.drift)
        at, level = zip(*ride, strict=True)
        values = values * 10 ** (np.interp(places, at, level) / 10)
    spoken = [(track.to_recording(word.start), track.to_recording(word.end)) for word in own if not word.is_sound]
    return loudness_in(values, spoken) if spoken else None
