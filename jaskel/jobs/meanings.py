"""Finding out what is said in an edition: what its sentences mean, and, where asked for, its chapters."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.marks.anchor import Place
from jaskel.core.marks.chapter import Chapter
from jaskel.core.marks.mark import Mark
from jaskel.core.plan import Plan, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.reuse.chapters import Density
from jaskel.core.reuse.outline import chapters_of, subject_of
from jaskel.core.reuse.programme import sentences_heard, words_heard
from jaskel.core.timebase import Ticks
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import add_job
from jaskel.jobs.workshop import Workshop
from jaskel.speech.language import AUTO
from jaskel.store.editions import Author
from jaskel.store.material import marks_of, material_in, sessions_in, set_marks
from jaskel.store.meanings import Meanings
from jaskel.store.models import EditionRow, Episode, Job, Recording, new_id
from jaskel.store.notices import post
from jaskel.store.sessions import transcripts_in

AT_ONCE = 64


def languages_of(session: Session, edition_id: str, workshop: Workshop) -> list[str]:
    """The languages that are spoken in an edition, those of longer recordings first."""
    tracks = sessions_in(session, workshop.home.editions.open(session, edition_id).edition).values()
    spoken = (session.get(Recording, each.recording) for known in tracks for each in known.tracks if each.sounds)
    lengths: dict[str, Ticks] = {}
    for recording in spoken:
        if recording and recording.transcript_state != "none":
            for language in ({each[1] for each in recording.languages} or {recording.language}) - {AUTO}:
                lengths[language] = lengths.get(language, 0) + recording.length
    return sorted(lengths, key=lambda language: (-lengths[language], language))


def start_reading(session: Session, edition_id: str, chapters: float | None, author: Author) -> Job:
    """Write down the job that finds out what is said in an edition, and proposes so many ``chapters`` in an hour."""
    row = session.get_one(EditionRow, edition_id)
    if not chapters:
        return add_job(session, "meanings", row.episode_id, edition_id)
    return add_job(session, "meanings", row.episode_id, edition_id, chapters=chapters, who=author.who, window=author.window)


def find_meanings(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Find out what sentences mean that nobody has asked about before, and put in the chapters that are asked for."""
    from jaskel.speech.meaning import ENGLISH, meanings_in, meanings_of

    home = workshop.home
    with home.database.read() as session:
        opened = home.editions.open(session, job.subject)
        said = transcripts_in(session, opened.edition.used, home.transcripts)
        plan = compile_plan(opened.edition, material_in(session, opened.edition, home.vault, said))
        languages = languages_of(session, job.subject, workshop)
    sentences = sentences_heard(plan)
    english = languages in ([], [ENGLISH])
    if english:
        known = Meanings(home.vault, str(job.of_episode))
        missing = known.missing([each.text for each in sentences])
        with home.database.write() as session:
            session.get_one(Job, job.id).total = len(missing)
        for begin in range(0, len(missing), AT_ONCE):
            some = missing[begin : begin + AT_ONCE]
            known.add(some, meanings_of(some))
            progress(begin + len(some))
    if job.details.get("chapters"):
        means = meanings_in(ENGLISH if english else languages[0])
        most = float(job.details["chapters"])
        subject = subject_of(words_heard(plan), means, Density(most / 3, most))
        found = {each.start: each.title for each in chapters_of(subject, means)}
        with home.database.write() as session:
            _put_in(session, plan, str(job.of_episode), found, Author(job.details["who"], job.details["window"]))
    with home.database.write() as session:
        post(session, "recording", job.of_episode)


def _put_in(session: Session, plan: Plan, episode_id: str, found: dict[Ticks, str], author: Author) -> None:
    """Mark chapters at places of a programme, as one step; those that a person changed stay, others go."""
    episode = session.scalar(select(Episode).where(Episode.id == episode_id))
    if episode is None:
        return
    changes: dict[str, Mark | None] = {}
    begins = {(each.recording, each.word.start): each.start for each in plan.words}
    kept: list[Ticks] = []
    for known in marks_of(episode).marks.all(Chapter):
        place = known.place.recording, known.place.at
        if not known.by_hand:
            changes[known.id] = None
        elif place in begins:
            kept.append(begins[place])
    for at, title in found.items():
        # The first begins with the programme, which may be before its first word.
        word = min(plan.words, key=lambda each: abs(each.start - at))
        if all(abs(word.start - other) > APART for other in kept):
            made = Chapter(new_id(), (Place(word.recording, word.word.start),), title, by_hand=False)
            changes[made.id] = made
    if not changes:
        raise Problem("no-chapters", "There are no other chapters to propose: those that are here were made by hand.")
    count = sum(each is not None for each in changes.values())
    set_marks(session, episode, changes, f"proposed {count} chapter{'' if count == 1 else 's'}", author)


APART: Ticks = 30 * 48_000
"""A chapter that begins so near to one that a person made is the same."""
