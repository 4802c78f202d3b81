"""Exporting an edition as it is when the export begins."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from jaskel.core.chapters import programme_chapters, with_breaks
from jaskel.core.edition import Edition
from jaskel.core.marks.bed import Bed
from jaskel.core.marks.chapter import Chapter
from jaskel.core.marks.cutaway import Cutaway
from jaskel.core.pickup import lines_in
from jaskel.core.problem import Problem
from jaskel.core.reuse.article import article
from jaskel.core.reuse.programme import words_heard
from jaskel.jobs.loudness import measured_plan
from jaskel.jobs.progress import Progress
from jaskel.jobs.workshop import Workshop
from jaskel.media.captions.about import About
from jaskel.media.captions.rates import FRAME_RATES
from jaskel.media.forms import FORMS, Making
from jaskel.media.probe import room_for
from jaskel.media.render import SOUND_BITS, Tags
from jaskel.speech.language import AUTO
from jaskel.store.house_captions import captions_of
from jaskel.store.house_captions import file_name as caption_name
from jaskel.store.material import marks_of, sessions_in
from jaskel.store.models import EditionRow, Export, Job, Recording
from jaskel.store.notices import post
from jaskel.store.pickups import line_of
from jaskel.store.sessions import transcripts_in
from jaskel.store.way import names_of


def export_edition(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Write one file; it appears among the exports when it is complete."""
    home, form = workshop.home, FORMS[job.details["form"]]
    with home.database.read() as session:
        row = session.get_one(EditionRow, job.subject)
        edition = home.editions.open(session, row.id).edition
        voices = names_of(session, row.episode.show, edition, transcripts_in(session, edition.recordings, home.transcripts))
        spoken = (
            session.get(Recording, each.recording) for known in sessions_in(session, edition).values() for each in known.tracks
        )
        language = next((each.language for each in spoken if each and each.language != AUTO), "en")
        lines = lines_in(edition)
        told = tuple(line_of(session.get_one(Recording, each.recording)).told for each in lines)
        tags = Tags(row.episode.title, row.episode.show.name, row.episode.title, told)
        kept = str(row.written.get("article", ""))
        used = [session.get(Recording, name) for name in _used(session, edition)]
        names = {each.id: each.name for each in used if each}
        files = file_names([each for each in used if each])
        chapters = [*marks_of(row.episode).marks.all(Chapter)]
        shown = captions_of(row.episode.show)
        parts = {"show": row.episode.show.name, "episode": row.episode.title, "edition": row.name}
        named = partial(caption_name, shown.names, language=shown.language or language, **parts)
        name = file_name(parts["show"], parts["episode"], parts["edition"], form.ending) if form.group != "Captions" else ""
    opened, plan = measured_plan(workshop, row.id, progress)
    if not plan.length:
        raise Problem(
            "nothing-kept", "Everything in this edition is struck, so there is nothing to export. Put something back."
        )
    told_chapters = programme_chapters(chapters, plan)
    tags = replace(tags, chapters=tuple(with_breaks(told_chapters, plan)))
    if form.group == "Chapters" and not tags.chapters:
        raise Problem("no-chapters", "This edition has no chapters. Let them be found under Reuse, or begin one there.")
    room_for(home.vault.root, form.bytes_a_second * plan.length // 48_000, name)
    with home.database.write() as session:
        session.get_one(Job, job.id).total = plan.length
    named = partial(named, step=str(opened.revision))
    name = name or named(form.ending)
    about = about_of(job.details, (shown.language or language).replace("_", "-"), voices, tags, opened.revision)
    bits, muted = job.details.get("bits", SOUND_BITS), bool(job.details.get("muted"))
    captions = frozenset(job.details.get("captions", ()))

    text = kept or article(words_heard(plan), told_chapters, voices, tags.title, "names") if form.group == "Article" else ""

    def original(recording: str) -> Path:
        with home.database.read() as session:
            return home.vault.original(session.get_one(Recording, recording).digest)

    artist = workshop.artist(plan.material.titles, plan.material.style)
    making = Making(
        plan, workshop.sound.read, original, artist, tags, voices, workshop.faces, bits, muted,
        captions, job.details.get("texts", "first"), about, named, text, names, files, progress,
    )  # fmt: skip
    with home.vault.making(home.vault.export(job.id)) as path:
        form.write(path, making)
        size = path.stat().st_size
    with home.database.write() as session:
        session.merge(
            Export(
                id=job.id,
                edition_id=row.id,
                job_id=job.id,
                form=form.key,
                file_name=name,
                size=size,
                length=plan.length,
                revision=opened.revision,
            )
        )
        post(session, "export", job.of_episode, id=job.id)


def _used(session: Session, edition: Edition) -> list[str]:
    """The recordings that are heard or seen in an edition."""
    tracks = [track.recording for known in sessions_in(session, edition).values() for track in known.tracks]
    beds = [each.recording for each in edition.marks.all(Bed)]
    return [*dict.fromkeys([*tracks, *beds, *(each.shown for each in edition.marks.all(Cutaway))])]


def file_names(recordings: Sequence[Recording]) -> dict[str, str]:
    """Names of files for recordings, by their ids: as they are called, with an ending, each unlike the others."""
    found: dict[str, str] = {}
    taken: set[str] = set()
    for each in recordings:
        plain = "".join(letter for letter in each.name if letter.isprintable() and letter not in '/\\:*?"<>|').strip(" .")
        stem, ending = Path(plain or "recording").stem, Path(plain).suffix
        ending = ending if 1 < len(ending) <= 6 else f".{each.info['container'].split(',')[0]}"
        number, name = 1, f"{stem}{ending}"
        while name.casefold() in taken:
            number += 1
            name = f"{stem} {number}{ending}"
        taken.add(name.casefold())
        found[each.id] = name
    return found


def about_of(details: Mapping[str, Any], language: str, voices: Mapping[str, str], tags: Tags, revision: int) -> About:
    """What the caption files of an export say, by what was asked for."""
    wanted = {name: details[name] for name in ("channel", "named", "placed", "word_times") if name in details}
    rate = FRAME_RATES[details.get("rate", "25")]
    return About(language, voices, tags.episode, tags.show, revision, rate, **wanted)


def file_name(show: str, title: str, edition: str, ending: str) -> str:
    """A name for the download: letters, digits, spaces and dashes of what people called things."""
    text = " - ".join(part for part in (show, title, "" if edition == "Programme" else edition) if part)
    plain = " ".join(re.sub(r"[^\w\s.,-]", "", text).split()).strip(" .")
    return (plain[:120] or "episode") + f".{ending}"
