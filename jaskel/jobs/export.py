"""Exporting an edition as it is when the export begins."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.chapters import programme_chapters, with_breaks
from jaskel.core.destination import Destination, DestinationCaptions, by_key, fitted_plan, told_length, too_long
from jaskel.core.edition import Edition
from jaskel.core.markers import markers_of
from jaskel.core.marks.bed import Bed
from jaskel.core.marks.chapter import Chapter
from jaskel.core.marks.cutaway import Cutaway
from jaskel.core.operations.base import Range
from jaskel.core.pickup import lines_in
from jaskel.core.plan import Plan
from jaskel.core.problem import Problem
from jaskel.core.reuse.article import article
from jaskel.core.reuse.programme import words_heard
from jaskel.jobs.archive import pack
from jaskel.jobs.loudness import is_to_be_measured, measured_plan, part_of_plan, plan_for
from jaskel.jobs.pace import LOUDNESS, Pace
from jaskel.jobs.parts import Make, Parts, make_wanted, print_of
from jaskel.jobs.progress import Progress
from jaskel.jobs.workshop import Workshop
from jaskel.media.captions.about import About
from jaskel.media.captions.rates import FRAME_RATES
from jaskel.media.cover import draw_cover
from jaskel.media.effort import MEASURING
from jaskel.media.film_pictures import FilmPictures
from jaskel.media.forms import FORMS, Form, Making, pictures_of
from jaskel.media.probe import MediaInfo, room_for
from jaskel.media.render import SOUND_BITS, Elsewhere, Tags
from jaskel.media.timeline import Filed
from jaskel.speech.language import AUTO
from jaskel.store.destinations import destinations_of
from jaskel.store.home import Home
from jaskel.store.house_captions import captions_of
from jaskel.store.house_captions import file_name as caption_name
from jaskel.store.material import marks_of, material_in, sessions_in
from jaskel.store.models import EditionRow, Episode, Export, Job, Recording, Show
from jaskel.store.notices import post
from jaskel.store.pickups import line_of
from jaskel.store.sessions import transcripts_in
from jaskel.store.way import names_of


def export_edition(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Write all files of a destination; they appear among the exports when all of them are complete."""
    home = workshop.home
    with home.database.read() as session:
        row = session.get_one(EditionRow, job.subject)
        destination = wanted(job.details, row.episode.show)
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
        files = _files([each for each in used if each])
        marked = marks_of(row.episode).marks
        chapters = [*marked.all(Chapter)] if destination.chapters else []
        shown = captions_of(row.episode.show)
        parts = {"show": row.episode.show.name, "episode": row.episode.title, "edition": row.name}
    language = shown.language or language
    opened, whole = plan_for(workshop, row.id, destination, progress)
    part = part_of(job.details)
    plan = part_of_plan(whole, part)
    _refuse(plan, destination)
    told_chapters = programme_chapters(chapters, plan)
    artist = workshop.artist(plan.material.titles, plan.material.style)
    cover = draw_cover(artist) if destination.cover else b""
    tags = replace(tags, chapters=tuple(with_breaks(told_chapters, plan)), cover=cover)
    forms = [FORMS[key] for key in destination.forms]
    if not tags.chapters and [form.group for form in forms] == ["Chapters"]:
        raise Problem("no-chapters", "This edition has no chapters. Let them be found under Reuse, or begin one there.")
    forms = [form for form in forms if tags.chapters or form.group != "Chapters"]
    parts |= {"step": str(opened.revision), "destination": destination.name, "language": language}
    named = Naming(destination, shown.names, parts)
    room_for(home.vault.root, sum(form.bytes_a_second for form in forms) * plan.length // 48_000, named(forms[0]))
    text = ""
    if any(form.group == "Article" for form in forms):
        text = kept or article(words_heard(plan), told_chapters, voices, tags.title, "names")

    def original(recording: str) -> Path:
        with home.database.read() as session:
            return home.vault.original(session.get_one(Recording, recording).digest)

    making = Making(
        plan,
        workshop.sound.read,
        original,
        artist,
        tags,
        voices,
        workshop.faces,
        destination.bits,
        destination.quality,
        bool(job.details.get("muted")),
        destination.film_captions,
        job.details.get("texts", "first"),
        about_of(job.details, language.replace("_", "-"), voices, tags, opened.revision),
        partial(caption_name, shown.names, **parts),
        text,
        names,
        files,
        markers_of(plan, marked, told_chapters),
        int(job.details.get("hour", 0)),
        partial(_pack, workshop.home, row.episode_id),
    )

    @contextmanager
    def shared(form: Form, film: FilmPictures) -> Iterator[Elsewhere]:
        """Let other workers make parts of a film."""
        makes, onward = _makes(form.key, film), lambda: progress(progress.come)
        encoded = [number for number, part in enumerate(film.parts) if film.encodes(part)]
        with Parts(home, job, "export", row.id, makes, onward, revision=opened.revision) as others:
            yield lambda number: others.elsewhere(encoded.index(number)) if number in encoded else None

    work = {form.key: (plan.length, form.effort(making)) for form in forms}
    if is_to_be_measured(whole):
        work = {LOUDNESS: (whole.length, MEASURING), **work}
    pace = Pace(home, job, progress, destination.key or destination.form, work)
    if LOUDNESS in work:
        with pace.part(LOUDNESS) as report:
            making = replace(making, plan=part_of_plan(measured_plan(workshop, row.id, whole, report), part))
    made: list[Export] = []
    with ExitStack() as stack:
        for number, form in enumerate(forms):
            id = f"{job.id}-{number}" if number else job.id
            path = stack.enter_context(home.vault.making(home.vault.export(id)))
            with pace.part(form.key) as report:
                form.write(path, replace(making, progress=report, shared=partial(shared, form)))
            made.append(
                Export(
                    id=id,
                    edition_id=row.id,
                    job_id=job.id,
                    form=form.key,
                    destination=destination.name if destination.key else "",
                    file_name=named(form),
                    size=path.stat().st_size,
                    length=plan.length,
                    revision=opened.revision,
                )
            )
    with home.database.write() as session:
        for export in made:
            session.merge(export)
        pace.keep(session)
        post(session, "export", job.of_episode, id=job.id)


def _makes(form: str, film: FilmPictures) -> dict[str, Make]:
    """The parts of a film of which something is encoded, by their prints."""
    return {print_of(form, film.seen, part): partial(film.write_part, part) for part in film.parts if film.encodes(part)}


def make_part(workshop: Workshop, export: Job, part: Job, progress: Progress) -> None:
    """Make a part of the pictures of an export for the worker that writes it."""
    home = workshop.home
    with home.database.read() as session:
        row = session.get_one(EditionRow, part.details["subject"])
        destination = wanted(export.details, row.episode.show)
        edition = home.editions.as_it_was(session, row.id, part.details["revision"])
        said = transcripts_in(session, edition.recordings, home.transcripts)
        voices = names_of(session, row.episode.show, edition, said)
        material = material_in(session, edition, home.vault, said)
        originals = {each.id: home.vault.original(each.digest) for each in session.scalars(select(Recording))}
    plan = part_of_plan(fitted_plan(edition, material, destination), part_of(export.details))
    making = Making(
        plan,
        workshop.sound.read,
        originals.__getitem__,
        workshop.artist(material.titles, material.style),
        Tags("", "", ""),
        voices,
        workshop.faces,
        quality=destination.quality,
        captions=destination.film_captions,
        texts=export.details.get("texts", "first"),
    )
    films = {key: pictures_of(key, making) for key in destination.forms if FORMS[key].group == "Film"}
    makes = {print_: make for key, film in films.items() for print_, make in _makes(key, film).items()}
    make_wanted(home, part, makes, progress)


def _refuse(plan: Plan, destination: Destination) -> None:
    if not plan.length:
        raise Problem(
            "nothing-kept", "Everything in this edition is struck, so there is nothing to export. Put something back."
        )
    if over := too_long(plan, destination):
        raise Problem(
            "too-long",
            f"This edition is {told_length(over)} longer than the {destination.longest} s that “{destination.name}” takes. "
            "Bring it to length under Cut.",
        )


def part_of(details: Mapping[str, Any]) -> Range | None:
    """From-to in laid time of what is exported, None for all of it."""
    part = details.get("part")
    return (part[0], part[1]) if part else None


def wanted(details: Mapping[str, Any], show: Show) -> Destination:
    """The destination of an export; one that was only asked for by a form has no name.

    Raises
    ------
    Problem
        ``no-destination``.
    """
    if key := details.get("destination"):
        found = by_key(key, destinations_of(show))
        if found is None:
            raise Problem("no-destination", "This destination is not kept with the show any more. Choose another one.")
        return found
    captions = details.get("captions", ())
    how: DestinationCaptions = "both" if len(captions) > 1 else next(iter(captions), "none")
    return Destination("", "", form=details["form"], bits=details.get("bits", SOUND_BITS), captions=how)


@dataclass(frozen=True)
class Naming:
    """How the files of an export are called: as their destination has it, captions of no destination as their show has it."""

    destination: Destination
    captions: str
    parts: Mapping[str, str]

    def __call__(self, form: Form) -> str:
        if self.destination.key:
            return caption_name(self.destination.names, form.ending, **self.parts)
        if form.group == "Captions":
            return caption_name(self.captions, form.ending, **self.parts)
        return file_name(self.parts["show"], self.parts["episode"], self.parts["edition"], form.ending)


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


def _pack(home: Home, episode_id: str, path: Path) -> None:
    with home.database.read() as session:
        pack(home, session, session.get_one(Episode, episode_id), path)


def _files(recordings: Sequence[Recording]) -> dict[str, Filed]:
    """The files of recordings for a timeline, by their ids."""
    info = {each.id: MediaInfo.from_json(each.info) for each in recordings}
    return {id: Filed(name, info[id].begins, info[id].tracks, info[id].cues) for id, name in file_names(recordings).items()}


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
