"""The forms in which a programme is exported: one register for exports, the command line, the API and the page.

To add one, write a function that writes it from a :class:`Making`, and register it with :func:`form`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass, field
from functools import partial
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Literal
from zipfile import ZIP_DEFLATED, ZipFile

from jaskel.core.captions.cues import Cue
from jaskel.core.captions.second import Texts, in_texts
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.destination import Quality
from jaskel.core.markers import Marker
from jaskel.core.plan import Plan
from jaskel.core.problem import Problem
from jaskel.core.timebase import Ticks
from jaskel.media import edl
from jaskel.media.aaf import write_aaf
from jaskel.media.articles import write_docx_article, write_html_article, write_markdown_article, write_text_article
from jaskel.media.captions.about import About
from jaskel.media.captions.drawn import Overlay, Renderer
from jaskel.media.captions.files import CAPTION_FORMS, CaptionForm
from jaskel.media.captions.track import CaptionTrack
from jaskel.media.chapters import write_json, write_lines, write_vtt
from jaskel.media.cue_sheet import write_cue_sheet
from jaskel.media.effort import SOUND
from jaskel.media.film_pictures import FilmPictures
from jaskel.media.graphics import Artist
from jaskel.media.moving import write_animation, write_picture
from jaskel.media.printed import PrintedPassage, write_transcript_pdf
from jaskel.media.proof import write_proof
from jaskel.media.render import (
    CODINGS,
    SOUND_BITS,
    Elsewhere,
    Tags,
    effort_of_film,
    film_pictures,
    nobody_else,
    write_broadcast_wav,
    write_compressed,
    write_film,
    write_flac,
    write_mp3,
    write_wav,
)
from jaskel.media.sound import Read
from jaskel.media.stems import stems_of, write_stems
from jaskel.media.texts import told, write_markdown, write_text
from jaskel.media.timeline import LEFT_OUT, Filed, timeline_of, write_otio, write_otioz
from jaskel.media.typefaces import SHIPPED_ONLY, Typefaces

if TYPE_CHECKING:
    import opentimelineio as otio


def _no_episode(_path: Path) -> None:
    raise Problem("no-episode", "Only an episode that is stored can be written as an archive.")


@dataclass(frozen=True)
class Making:
    """What a file is made from.

    Attributes
    ----------
    plan
        What is made.
    read, originals, artist
        Where its sound comes from, the files of its pictures, and what draws its cards and what lies over its pictures.
    tags
        What a player shows of it.
    voices
        Names of voices by their ids.
    bits, quality
        Bits a second of compressed sound, and how finely pictures are encoded.
    muted
        Whether words count whose voice is muted.
    faces
        The fonts that captions are drawn with.
    captions
        How a film has them: ``burned in``, as a ``track``, both, or not at all.
    texts
        Which languages captions are in.
    about
        What caption files say besides their captions, and how they say them.
    name_of
        The name of a caption file with an ending.
    article
        What is said as an article, in Markdown.
    names
        Names of recordings by their ids.
    files
        The same as files, each of a name unlike the others, with what its recorder wrote.
    markers
        What is marked in the programme.
    pack
        Writes all of the episode as one archive.
    hour
        Where the timecode of media begins that have none.
    shared
        Lets others make parts of a film.
    """

    plan: Plan
    read: Read
    originals: Callable[[str], Path]
    artist: Artist
    tags: Tags
    voices: Mapping[str, str]
    faces: Typefaces = SHIPPED_ONLY
    bits: int = SOUND_BITS
    quality: Quality = "good"
    muted: bool = False
    captions: frozenset[FilmCaptions] = frozenset()
    texts: Texts = "first"
    about: About = field(default_factory=About)
    name_of: Callable[[str], str] = "captions.{}".format
    article: str = ""
    names: Mapping[str, str] = field(default_factory=dict)
    files: Mapping[str, Filed] = field(default_factory=dict)
    markers: Sequence[Marker] = ()
    hour: int = 0
    pack: Callable[[Path], None] = _no_episode
    shared: Callable[[FilmPictures], AbstractContextManager[Elsewhere]] = lambda _: nullcontext(nobody_else)
    progress: Callable[[Ticks], None] = lambda _: None

    @property
    def words(self) -> tuple[ProgrammeWord, ...]:
        return self.plan.words_with(muted=True) if self.muted else self.plan.words

    @property
    def cues(self) -> tuple[Cue, ...]:
        return in_texts(self.plan.captions(self.voices, muted=self.muted), self.texts)


FilmCaptions = Literal["burned in", "track"]

Write = Callable[[Path, Making], None]
Effort = Callable[[Making], float]


def no_effort(_making: Making) -> float:
    """What takes no time worth telling."""
    return 0.0


def stems_effort(making: Making) -> float:
    """A file as long as the programme for each stem."""
    return len(stems_of(making.plan, making.voices)) * SOUND["pcm_s24le"]


def sound_by(encoder: str) -> Effort:
    """The effort of sound alone, by its encoder."""
    return lambda _making: SOUND[encoder]


@dataclass(frozen=True)
class Form:
    """A form of export.

    Attributes
    ----------
    key
        Names it in the API and in what is stored.
    group, label, about
        What kind of thing it is, its name for people, and what more there is to know of it.
    ending
        Of its files, without the dot.
    lost
        What of the programme it cannot carry.
    bytes_a_second
        How much room it takes at most, to be kept free before it is begun; 0 where that does not matter.
    write
        Writes it.
    effort
        The work of that (:mod:`jaskel.media.effort`).
    """

    key: str
    group: str
    label: str
    about: str
    ending: str
    bytes_a_second: int
    write: Write
    lost: tuple[str, ...] = ()
    effort: Effort = no_effort

    @property
    def is_text(self) -> bool:
        """Whether it is read rather than heard or seen."""
        return self.group in ("Article", "Captions", "Chapters", "Transcript")


def are_text(forms: Iterable[str]) -> bool:
    """Whether files of all these forms are read rather than heard or seen."""
    return all(FORMS[form].is_text for form in forms)


FORMS: dict[str, Form] = {}
"""Every form, by its key, in the order they are offered."""


def form(
    key: str,
    group: str,
    label: str,
    about: str,
    *,
    ending: str = "",
    bytes_a_second: int = 0,
    lost: tuple[str, ...] = (),
    effort: Effort = no_effort,
) -> Callable[[Write], Write]:
    """Register a form."""

    def register(write: Write) -> Write:
        FORMS[key] = Form(key, group, label, about, ending or key, bytes_a_second, write, lost, effort)
        return write

    return register


def _film(key: str, label: str, about: str, ending: str = "") -> None:
    def effort(making: Making) -> float:
        return effort_of_film(pictures_of(key, making), CODINGS[key])

    @form(key, "Film", label, about, ending=ending, bytes_a_second=600_000, effort=effort)
    def write(path: Path, making: Making) -> None:
        coding = CODINGS[key]
        track = "track" in making.captions and coding.tracks
        film = pictures_of(key, making)
        with making.shared(film) as elsewhere:
            write_film(
                path,
                film,
                making.read,
                making.progress,
                making.tags,
                making.bits,
                coding,
                CaptionTrack(making.cues, making.about.language) if track else None,
                elsewhere,
            )


def pictures_of(key: str, making: Making) -> FilmPictures:
    """What the pictures of a film of a form are made of."""
    overlay = _overlay(making, making.plan) if "burned in" in making.captions else None
    return film_pictures(making.plan, making.originals, making.artist, CODINGS[key], making.quality, overlay)


_film("mp4", "MP4 video", "H.264 and AAC")
_film("mkv", "MKV video", "H.264 and AAC")
_film("mov", "MOV video", "H.264 and PCM of 24 bit")
_film("webm", "WebM video", "VP9 and Opus; captions only in the picture")
_film("av1", "MP4 video (AV1)", "AV1 and Opus, smaller and slower to write; captions only in the picture", "mp4")


def _animation(key: str, label: str) -> None:
    @form(key, "Picture", label, "without sound, small; of a minute at most", bytes_a_second=500_000, effort=lambda _: 1.0)
    def write(path: Path, making: Making) -> None:
        overlay = partial(_overlay, making) if "burned in" in making.captions else None
        write_animation(path, key.upper(), making.plan, making.originals, making.artist, making.progress, overlay)


def _overlay(making: Making, plan: Plan) -> Overlay:
    """What is burned into the pictures of a plan."""
    return Overlay(plan.screens(making.voices, making.texts), Renderer(plan.frame.width, plan.frame.height, making.faces))


_animation("gif", "Moving GIF")
_animation("webp", "Moving WebP")


@form("png", "Picture", "PNG of a picture", "the first picture, as large as the film")
def _picture(path: Path, making: Making) -> None:
    overlay = _overlay(making, making.plan) if "burned in" in making.captions else None
    write_picture(path, making.plan, making.originals, making.artist, overlay)


@form("mp3", "Sound", "MP3", "with title and show", bytes_a_second=40_000, effort=sound_by("libmp3lame"))
def _mp3(path: Path, making: Making) -> None:
    write_mp3(path, making.plan, making.read, making.progress, making.tags, making.bits)


@form("m4a", "Sound", "M4A (AAC)", "with title, show and chapters", bytes_a_second=40_000, effort=sound_by("aac"))
def _m4a(path: Path, making: Making) -> None:
    write_compressed(path, ".m4a", making.plan, making.read, making.progress, making.tags, making.bits)


@form("opus", "Sound", "Opus", "with title and show", bytes_a_second=40_000, effort=sound_by("libopus"))
def _opus(path: Path, making: Making) -> None:
    write_compressed(path, ".opus", making.plan, making.read, making.progress, making.tags, making.bits)


@form("flac", "Sound", "FLAC", "48 kHz, 24 bit, without loss", bytes_a_second=288_000, effort=sound_by("flac"))
def _flac(path: Path, making: Making) -> None:
    write_flac(path, making.plan, making.read, making.progress, making.tags)


@form("wav", "Sound", "WAV", "48 kHz, 24 bit", bytes_a_second=288_000, effort=sound_by("pcm_s24le"))
def _wav(path: Path, making: Making) -> None:
    write_wav(path, making.plan, making.read, making.progress)


@form(
    "bwf", "Sound", "Broadcast WAV", "48 kHz, 24 bit, with a time reference", ending="wav", bytes_a_second=288_000,
    effort=sound_by("pcm_s24le"),
)  # fmt: skip
def _broadcast_wav(path: Path, making: Making) -> None:
    write_broadcast_wav(path, making.plan, making.read, making.progress, making.tags)


@form(
    "stems",
    "Stems",
    "As mixed",
    "each voice and the music as WAV of equal length, in a zip",
    ending="zip",
    bytes_a_second=1_500_000,
    effort=stems_effort,
)
def _stems(path: Path, making: Making) -> None:
    write_stems(path, making.plan, making.voices, making.read, making.progress, wet=True)


@form("dry", "Stems", "Dry", "the same without chains and levels", ending="zip", bytes_a_second=1_500_000, effort=stems_effort)
def _dry_stems(path: Path, making: Making) -> None:
    write_stems(path, making.plan, making.voices, making.read, making.progress, wet=False)


def _captions(key: str, known: CaptionForm) -> None:
    @form(key, "Captions", known.label, known.about, ending=known.ending)
    def write(path: Path, making: Making) -> None:
        known.write(path, making.cues, making.about)


for key, known in CAPTION_FORMS.items():
    _captions(key, known)


@form("captions", "Captions", "All of them", "every form of captions, in a zip", ending="zip")
def _all_captions(path: Path, making: Making) -> None:
    cues = making.cues
    with ZipFile(path, "w", ZIP_DEFLATED) as out, TemporaryDirectory(dir=path.parent) as folder:
        for key, known in CAPTION_FORMS.items():
            name = making.name_of(known.ending)
            file = Path(folder) / key
            known.write(file, cues, making.about)
            out.write(file, name)


@form("chapters", "Chapters", "Chapters as JSON", "as podcast players read them", ending="chapters.json")
def _json_chapters(path: Path, making: Making) -> None:
    write_json(path, making.tags.chapters)


@form("chapters vtt", "Chapters", "Chapters as WebVTT", "for a track of chapters beside a film", ending="chapters.vtt")
def _vtt_chapters(path: Path, making: Making) -> None:
    write_vtt(path, making.tags.chapters)


@form("chapters txt", "Chapters", "Chapters as text", "a line with time and title for each", ending="chapters.txt")
def _txt_chapters(path: Path, making: Making) -> None:
    write_lines(path, making.tags.chapters)


@form("txt", "Transcript", "Text", "a paragraph for each passage")
def _txt(path: Path, making: Making) -> None:
    write_text(path, making.words, making.voices)


@form("md", "Transcript", "Markdown", "with title and times")
def _md(path: Path, making: Making) -> None:
    write_markdown(path, making.words, making.tags.title, making.tags.show, making.voices)


@form("pdf", "Transcript", "Printable (PDF)", "with the time and the voice of each passage")
def _printed(path: Path, making: Making) -> None:
    chapters = [each for each in making.tags.chapters if not each.is_break]
    # Where a break parts a chapter it goes on without its title.
    same = [False, *(one.title == other.title for one, other in pairwise(chapters))]
    begins = [(each.begin, each.title) for each, goes_on in zip(chapters, same, strict=False) if not goes_on]
    passages = []
    for at, voice, text in told(making.words, making.voices):
        reached = [title for begin, title in begins if begin <= at]
        del begins[: len(reached)]
        passages.append(PrintedPassage(at, voice, text, reached[-1] if reached else ""))
    share = making.plan.length // max(1, len(passages))
    write_transcript_pdf(path, making.tags.title, making.tags.show, passages, lambda written: making.progress(written * share))


@form("article docx", "Article", "Word document", "DOCX with headings and quotations", ending="article.docx")
def _docx_article(path: Path, making: Making) -> None:
    write_docx_article(path, making.article, making.tags.show)


@form("article html", "Article", "Web page", "HTML by itself, which fetches nothing", ending="article.html")
def _html_article(path: Path, making: Making) -> None:
    write_html_article(path, making.article, making.about.language)


@form("article md", "Article", "Article as Markdown", "as it is edited", ending="article.md")
def _markdown_article(path: Path, making: Making) -> None:
    write_markdown_article(path, making.article)


@form("article txt", "Article", "Article as text", "without any marks", ending="article.txt")
def _text_article(path: Path, making: Making) -> None:
    write_text_article(path, making.article)


@form(
    "proof", "Proof", "Page to listen to", "sound, words and chapters in one HTML file", bytes_a_second=60_000, ending="html",
    effort=sound_by("libmp3lame"),
)  # fmt: skip
def _proof(path: Path, making: Making) -> None:
    about = making.about
    write_proof(
        path, making.plan, making.read, making.progress, making.tags, making.voices, making.words, about.language,
        about.revision, making.bits,
    )  # fmt: skip


@form("cue sheet", "Lists", "Music used", "a line for each piece of music, with its times (CSV)", ending="music.csv")
def _cue_sheet(path: Path, making: Making) -> None:
    write_cue_sheet(path, making.plan, making.names)


def _timeline_of(making: Making) -> otio.schema.Timeline:
    return timeline_of(making.plan, making.tags.title, making.files, making.markers, hour=making.hour)


@form("otio", "Timeline", "OpenTimelineIO", "for finishing elsewhere", lost=LEFT_OUT)
def _timeline(path: Path, making: Making) -> None:
    write_otio(path, _timeline_of(making))


@form("otioz", "Timeline", "OpenTimelineIO with media", "the same, with the originals in one file", lost=LEFT_OUT)
def _bundle(path: Path, making: Making) -> None:
    timeline = _timeline_of(making)
    write_otioz(path, timeline, making.files, making.originals, lambda: making.progress(making.plan.length // 2))


@form("aaf", "Timeline", "AAF", "linked to its media", lost=LEFT_OUT)
def _aaf(path: Path, making: Making) -> None:
    write_aaf(path, _timeline_of(making))


@form(
    "edl", "Timeline", "EDL (CMX 3600)", "a list of cuts for each track, in a zip", ending="edl.zip",
    lost=(*LEFT_OUT, *edl.LEFT_OUT),
)  # fmt: skip
def _edl(path: Path, making: Making) -> None:
    edl.write_edls(path, _timeline_of(making))


@form(
    "episode", "Episode", "Whole episode", "all of it in one zip, to be brought in elsewhere",
    ending="episode.zip",
)  # fmt: skip
def _episode(path: Path, making: Making) -> None:
    making.pack(path)
