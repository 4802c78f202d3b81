"""Findings in an edition: where they lie, how they were judged, and the operation that accepts them."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.edition import Edition, Run
from jaskel.core.operations import Lift, Operation, Range, Strike, Together, joined
from jaskel.core.problem import Problem
from jaskel.core.tidy.cut import stretches_of
from jaskel.core.tidy.find import Loudness, find
from jaskel.core.tidy.finding import KINDS, Finding, Stretch
from jaskel.core.tidy.settings import SHORT_REST, Settings
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript, Word
from jaskel.jobs.carry_out import Progress
from jaskel.jobs.queue import ACTIVE, add_job, send
from jaskel.jobs.settle import start_settling
from jaskel.jobs.workshop import Workshop
from jaskel.store.models import Episode, Job, Recording, Refusal, SessionRow, TrackRow
from jaskel.store.notices import post
from jaskel.store.sessions import transcripts_in
from jaskel.store.tidying import keep_voice, refuses, script_of, settings_of, voice_known

State = Literal["open", "accepted", "refused"]


@dataclass(frozen=True)
class Placed:
    """A finding of a recording or session called ``name``, with where it lies in an edition, in laid time."""

    id: str
    name: str
    finding: Finding
    begin: Ticks
    end: Ticks
    state: State
    pick: int
    """Which take stays: the one that was picked where it is accepted, else the proposed one."""


def listen(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Find where there is voice in a recording or session."""
    from jaskel.speech.activity import MINUTE, voice_in

    home, name = workshop.home, job.subject
    with home.database.read() as session:
        row = session.get(SessionRow, name) or session.get_one(Recording, name)
        length = row.length
    stretches: list[Stretch] = []
    for number, minute in enumerate(voice_in(lambda a, b: workshop.sound.mono_16k(name, a, b), length), 1):
        stretches += minute
        progress(min(length, number * MINUTE))
    with home.database.write() as session:
        keep_voice(session, name, stretches)
        post(session, "findings", job.episode_id)


def tidy_at_once(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Accept all findings of some kinds in a recording or session, as one step of the edition it came to."""
    home, name = workshop.home, job.subject
    with home.database.read() as session:
        heard = voice_known(session, name) is not None
    if not heard:
        listen(workshop, job, progress)
    with home.database.write() as session:
        episode = session.get_one(Episode, job.episode_id)
        opened_ones = (home.editions.open(session, each.id) for each in episode.editions)
        edition_id = next((each.id for each in opened_ones if name in each.edition.recordings), None)
        if edition_id is None:
            return
        opened, settings = home.editions.open(session, edition_id), settings_of(episode.show)
        transcript = transcripts_in(session, [name], home.transcripts)[name]
        found = placed(opened.edition, name, found_in(session, workshop, name, transcript, settings), ())
        wanted = [(each, each.pick) for each in found if each.finding.kind in job.details["kinds"] and each.state == "open"]
        if not wanted:
            return
        operation = accepting(opened.edition, wanted, {name: transcript.words}, settings)
        done = home.editions.perform(session, edition_id, opened.revision, operation, lambda _: "")
        post(session, "edition", episode.id, id=edition_id, revision=done.revision)
        settling = start_settling(session, edition_id)
    if settling:
        send(home, settling)


def start_tidying(session: Session, recording: Recording) -> list[str]:
    """Write down the job that tidies a recording whose words are there, if its show wants that as they come; gives its id.

    A session is tidied when the words of all its tracks are there.
    """
    kinds = (recording.episode.show.tidy or {}).get("on_import", [])
    track = session.get(TrackRow, recording.id)
    if track:
        waiting = any(each.recording.transcript_state != "done" for each in track.session.tracks if each.sounds)
        if waiting or track.session.state != "joined":
            return []
    if not kinds:
        return []
    subject, length = (track.session_id, track.session.length) if track else (recording.id, recording.length)
    return [add_job(session, "tidy", recording.episode_id, subject, length, kinds=kinds).id]


def start_listening(session: Session, episode_id: str, names: Sequence[str]) -> list[str]:
    """Write down the jobs that listen where there is voice, for those nobody has listened to; gives their ids."""
    started = []
    for name in names:
        if voice_known(session, name) is not None:
            continue
        known = select(Job.id).where(Job.kind == "listen", Job.subject == name, Job.state.in_(ACTIVE))
        row = session.get(SessionRow, name) or session.get(Recording, name)
        if row is not None and session.scalar(known.limit(1)) is None:
            started.append(add_job(session, "listen", episode_id, name, row.length).id)
    return started


def found_in(session: Session, workshop: Workshop, name: str, transcript: Transcript, settings: Settings) -> list[Finding]:
    """All findings of a recording or session."""
    voice, script = voice_known(session, name), script_of(session, name)
    return find(transcript.words, voice or (), settings, loudness=_loudness(session, workshop, name), script=script)


def _loudness(session: Session, workshop: Workshop, name: str) -> Loudness | None:
    recording = session.get(Recording, name)
    file = workshop.home.vault.peaks(recording.digest) if recording else None
    if file is None or not file.exists():
        return None
    peaks = np.frombuffer(file.read_bytes(), np.uint8)
    each = RATE // 100

    def mean(start: Ticks, end: Ticks) -> float:
        return float(peaks[start // each : max(start // each + 1, end // each)].mean())

    return mean


class Places:
    """Where stretches of recordings lie in an edition, and what of them is taken out there."""

    def __init__(self, edition: Edition) -> None:
        self._runs: dict[str, list[Run]] = {}
        for run in edition.runs(struck=True):
            self._runs.setdefault(run.recording, []).append(run)
        for runs in self._runs.values():
            runs.sort(key=lambda run: run.start)
        self._edition = edition

    def laid(self, name: str, start: Ticks, end: Ticks) -> Range | None:
        """From-to in laid time of a stretch that lies in the edition in one piece, None where it does not."""
        runs = self._runs.get(name, [])
        index = bisect_right(runs, start, key=lambda run: run.start) - 1
        if index < 0 or end > runs[index].end:
            return None
        shift = runs[index].laid - runs[index].start
        return start + shift, end + shift

    def taken_out(self, begin: Ticks, end: Ticks) -> tuple[float, bool]:
        """How much of a laid stretch is taken out, from 0 to 1, and whether that was done by accepting findings."""
        gone = tidied = 0
        edition = self._edition
        for index in range(edition.index_at(begin), len(edition.pieces)):
            piece, at = edition.pieces[index], edition.starts[index]
            if at >= end:
                break
            if not piece.kept:
                shared = min(end, at + piece.length) - max(begin, at)
                gone += shared
                tidied += shared if piece.why in KINDS else 0
        return gone / max(1, end - begin), tidied * 2 > gone


DONE = 0.8
"""A finding is accepted where four fifths of what it takes out are out: edges may have been moved by hand since."""


def placed(edition: Edition, name: str, findings: Sequence[Finding], refused: Sequence[Refusal]) -> list[Placed]:
    """Findings of one recording as they stand in an edition. What was cut by hand already is no finding any more."""
    places = Places(edition)
    mine = sorted((each for each in refused if each.recording == name), key=lambda each: each.start)
    starts = [each.start for each in mine]
    out: list[Placed] = []
    for finding in findings:
        laid = places.laid(name, finding.start, finding.end)
        standing = _standing(places, laid[0] - finding.start, finding) if laid else None
        if laid is None or standing is None:
            continue
        state, pick = standing
        near = mine[: bisect_left(starts, finding.end)]
        if state == "open" and any(refuses(each, name, finding) for each in near):
            state = "refused"
        out.append(Placed(f"{finding.kind}.{name}.{finding.start}", name, finding, *laid, state, pick))
    return out


def _standing(places: Places, shift: Ticks, finding: Finding) -> tuple[State, int] | None:
    """How a finding stands in the edition and which take stays; None where its place was cut by hand."""
    if finding.takes:
        out = [places.taken_out(take.start + shift, take.end + shift) for take in finding.takes]
        kept = [number for number, (share, _) in enumerate(out) if share < DONE]
        if len(kept) == 1 and any(tidied for _, tidied in out):
            return "accepted", kept[0]
        return ("open", finding.pick) if len(kept) > 1 else None
    share, tidied = places.taken_out(finding.start + shift, finding.end + shift)
    if share < DONE:
        return "open", 0
    return ("accepted", 0) if tidied else None


def accepting(
    edition: Edition, chosen: Sequence[tuple[Placed, int]], words: Mapping[str, Sequence[Word]], settings: Settings
) -> Operation:
    """One operation that accepts findings, each with the take that is to stay.

    Raises
    ------
    Problem
        ``nothing-changed`` when there is nothing to take out.
    """
    places = Places(edition)
    operations: list[Operation] = []
    for kind in KINDS:
        mine = [(each, pick) for each, pick in chosen if each.finding.kind == kind]
        ranges: list[Range] = []
        for name in dict.fromkeys(each.name for each, _ in mine):
            parts = [(p.finding, part) for p, pick in mine if p.name == name for part in p.finding.gone(pick)]
            least = SHORT_REST if settings.action(kind) == "short rest" else 0
            ranges += [laid for part in stretches_of(parts, words[name], least) if (laid := places.laid(name, *part))]
        if ranges:
            mark = Lift if settings.action(kind) == "lift" else Strike
            operations.append(mark(joined(ranges), kind))
    if not operations:
        raise Problem("nothing-changed", "Nothing is left of that to be taken out.")
    return operations[0] if len(operations) == 1 else Together(tuple(operations))
