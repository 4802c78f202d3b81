"""Exporting an edition as it is when the export begins."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import cast

from sqlalchemy.orm import Session

from jaskel.core.captions.cues import cues, programme_words
from jaskel.core.plan import Plan, compile_plan
from jaskel.core.problem import Problem
from jaskel.core.shape import PictureShape, size_in
from jaskel.core.timebase import Ticks
from jaskel.jobs.progress import Progress
from jaskel.jobs.workshop import Workshop
from jaskel.media.card import draw_card
from jaskel.media.probe import MediaInfo, Picture, room_for
from jaskel.media.render import SOUND_BITS, Frame, Original, Tags, write_film, write_mp3, write_wav
from jaskel.media.texts import write_captions, write_markdown, write_text
from jaskel.store.models import EditionRow, Export, Job, Recording, SessionRow
from jaskel.store.notices import post
from jaskel.store.sessions import carriers_in, shown_name, transcripts_in

FORMS = {
    "wav": ("WAV, 24 bit", "wav"),
    "mp3": ("MP3, tagged", "mp3"),
    "mp4": ("MP4, H.264 and AAC", "mp4"),
    "srt": ("SubRip captions", "srt"),
    "vtt": ("WebVTT captions", "vtt"),
    "txt": ("Transcript, text", "txt"),
    "md": ("Transcript, Markdown", "md"),
}
"""What an edition can be exported as: a name for people and the ending of the file."""

CARD_FRAME = Frame(1280, 720, Fraction(25))
BYTES_A_SECOND = {"wav": 288_000, "mp3": 24_000, "mp4": 600_000}


def export_edition(workshop: Workshop, job: Job, progress: Progress) -> None:
    """Write one file; it appears among the exports when it is complete."""
    home, form = workshop.home, job.details["form"]
    with home.database.read() as session:
        row = session.get_one(EditionRow, job.subject)
        opened = home.editions.open(session, row.id)
        used, shape = opened.edition.recordings, cast(PictureShape, row.shape)
        pictures = {name: picture for name in used if (picture := picture_of(session, name))}
        transcripts = transcripts_in(session, used, home.transcripts)
        carriers = None if job.details.get("muted") else carriers_in(session, used)
        voices = {voice.id: shown_name(voice) for voice in row.episode.show.voices}
        tags = Tags(f"{row.episode.title}", row.episode.show.name, row.episode.title)
        name = file_name(row.episode.show.name, row.episode.title, row.name, form)
    plan = compile_plan(opened.edition)
    if not plan.length:
        raise Problem(
            "nothing-kept", "Everything in this edition is struck, so there is nothing to export. Put something back."
        )
    room_for(home.vault.root, BYTES_A_SECOND.get(form, 0) * plan.length // 48_000, name)
    words = programme_words(opened.edition, plan, transcripts, carriers)
    with home.database.write() as session:
        session.get_one(Job, job.id).total = plan.length
    bits = job.details.get("bits", SOUND_BITS)
    with home.vault.making(home.vault.export(job.id)) as path:
        match form:
            case "wav":
                write_wav(path, plan, workshop.sound.read, progress)
            case "mp3":
                write_mp3(path, plan, workshop.sound.read, progress, tags, bits)
            case "mp4":
                _film(workshop, path, plan, pictures, shape, tags, progress, bits)
            case "srt" | "vtt":
                write_captions(path, cues(words, plan.length), form)
            case "txt":
                write_text(path, words, voices)
            case "md":
                write_markdown(path, words, tags.title, tags.show, voices)
        size = path.stat().st_size
    with home.database.write() as session:
        session.merge(
            Export(
                id=job.id,
                edition_id=row.id,
                job_id=job.id,
                form=form,
                file_name=name,
                size=size,
                length=plan.length,
                revision=opened.revision,
            )
        )
        post(session, "export", job.episode_id, id=job.id)


@dataclass(frozen=True)
class Shown:
    """The picture of what plays as one: whose it is, and where on the session's clock it begins."""

    recording: Recording
    offset: Ticks = 0

    @property
    def info(self) -> Picture:
        picture = MediaInfo.from_json(self.recording.info).picture
        assert picture is not None
        return picture


def picture_of(session: Session, name: str) -> Shown | None:
    """What is seen of a recording, or of a session: its first track with a picture."""
    if row := session.get(SessionRow, name):
        track = next((track for track in row.tracks if track.recording.info["picture"]), None)
        return Shown(track.recording, track.offset) if track else None
    recording = session.get(Recording, name)
    return Shown(recording) if recording and recording.info["picture"] else None


def _film(
    workshop: Workshop,
    path: Path,
    plan: Plan,
    pictures: dict[str, Shown],
    shape: PictureShape,
    tags: Tags,
    progress: Progress,
    bits: int,
) -> None:
    shown = [pictures[span.recording].info for span in plan.spans if span.recording in pictures]
    first = shown[0] if shown else None
    own = Frame(first.width, first.height, first.frame_rate) if first else CARD_FRAME
    frame = own if shape == "as recorded" else Frame(*size_in(shape, own.width, own.height), own.rate, fill=True)
    card = draw_card(tags.title, tags.show, (frame.width, frame.height))

    def original(name: str) -> Original | None:
        picture = pictures.get(name)
        return Original(workshop.home.vault.original(picture.recording.digest), picture.offset) if picture else None

    write_film(path, plan, workshop.sound.read, original, frame, card, progress, tags, bits)


def file_name(show: str, title: str, edition: str, form: str) -> str:
    """A name for the download: letters, digits, spaces and dashes of what people called things."""
    text = " - ".join(part for part in (show, title, "" if edition == "Programme" else edition) if part)
    plain = " ".join(re.sub(r"[^\w\s.,-]", "", text).split()).strip(" .")
    return (plain[:120] or "episode") + f".{FORMS[form][1]}"
