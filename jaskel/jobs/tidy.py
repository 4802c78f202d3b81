"""Finding what could be tidied: listening for voice, and tidying what comes in by itself."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.operations import Telling
from jaskel.core.tidy.find import Loudness, find_all
from jaskel.core.tidy.finding import Finding
from jaskel.core.tidy.heard import NOTHING, Heard, strung
from jaskel.core.tidy.languages import in_language
from jaskel.core.tidy.review import accepting, placed
from jaskel.core.tidy.settings import TidySettings
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import ACTIVE, add_job, send
from jaskel.jobs.settle import start_settling
from jaskel.jobs.workshop import Workshop
from jaskel.store.models import Episode, Job, Recording, SessionRow, TrackRow
from jaskel.store.notices import post
from jaskel.store.sessions import transcripts_in
from jaskel.store.tidying import heard_in, keep_heard, language_of, material_of, script_of, settings_of


def listen(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Find where there is voice in a recording or session."""
    from jaskel.speech.activity import MINUTE, hear

    home, name = workshop.home, job.subject
    with home.database.read() as session:
        row = session.get(SessionRow, name) or session.get_one(Recording, name)
        length = row.length
    minutes: list[Heard] = []
    for minute in hear(lambda a, b: workshop.heard_16k(name, a, b), length):
        minutes.append(minute)
        progress(min(length, len(minutes) * MINUTE))
    with home.database.write() as session:
        keep_heard(session, name, strung(minutes))
        post(session, "findings", job.of_episode)


def tidy_at_once(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Accept all findings of some kinds in a recording or session, as one step of the edition it came to."""
    home, name = workshop.home, job.subject
    with home.database.read() as session:
        heard = heard_in(session, name) is not None
    if not heard:
        listen(workshop, job, progress)
    with home.database.write() as session:
        episode = session.get_one(Episode, job.of_episode)
        opened_ones = (home.editions.open(session, each.id) for each in episode.editions)
        edition_id = next((each.id for each in opened_ones if name in each.edition.recordings), None)
        if edition_id is None:
            return
        opened, settings = home.editions.open(session, edition_id), settings_of(episode.show)
        transcript = transcripts_in(session, [name], home.transcripts)[name]
        found = placed(opened.edition, name, found_in(session, workshop, name, transcript, settings), ())
        kinds = {*job.details["kinds"], "breath"}  # those are only found where the show wants them softened
        wanted = [(each, each.pick) for each in found if each.finding.kind in kinds and each.state == "open"]
        wanted = [(each, pick) for each, pick in wanted if not each.by_itself]
        if not wanted:
            return
        material = {name: material_of(session, name, transcript.words)}
        operation = accepting(opened.edition, wanted, material, settings)
        done = home.editions.perform(session, edition_id, opened.revision, operation, Telling())
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
        if heard_in(session, name) is not None:
            continue
        known = select(Job.id).where(Job.kind == "listen", Job.subject == name, Job.state.in_(ACTIVE))
        row = session.get(SessionRow, name) or session.get(Recording, name)
        if row is not None and session.scalar(known.limit(1)) is None:
            started.append(add_job(session, "listen", episode_id, name, row.length).id)
    return started


def found_in(session: Session, workshop: Workshop, name: str, transcript: Transcript, settings: TidySettings) -> list[Finding]:
    """All findings of a recording or session, also those within larger ones."""
    heard, script = heard_in(session, name) or NOTHING, script_of(session, name)
    settings = in_language(settings, language_of(session, name))
    return find_all(transcript.words, heard, settings, loudness=_loudness(session, workshop, name), script=script)


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
