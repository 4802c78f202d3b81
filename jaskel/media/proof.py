"""A proof of an episode: one page with its sound, the words that follow it, and its chapters, which fetches nothing."""

from __future__ import annotations

import base64
import hashlib
from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence
from functools import lru_cache
from pathlib import Path
from tempfile import TemporaryDirectory

from jinja2 import Environment, FileSystemLoader, StrictUndefined, Template
from markupsafe import Markup

from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.plan import Plan
from jaskel.core.timebase import clock, to_seconds
from jaskel.media.render import Report, Tags, write_mp3
from jaskel.media.sound import Read
from jaskel.media.texts import told

HERE = Path(__file__).parent


def write_proof(
    path: Path,
    plan: Plan,
    read: Read,
    progress: Report,
    tags: Tags,
    voices: Mapping[str, str],
    words: Sequence[ProgrammeWord],
    language: str,
    step: int,
    bits: int,
) -> None:
    """HTML with an MP3 of so many ``bits`` a second within. A content policy lets nothing run but the page's own script."""
    with TemporaryDirectory(dir=path.parent, prefix=".proof-") as folder:
        sound = Path(folder) / "sound.mp3"
        write_mp3(sound, plan, read, progress, tags, bits)
        content = base64.b64encode(sound.read_bytes()).decode()
    script = (HERE / "proof.js").read_text(encoding="utf-8")
    digest = base64.b64encode(hashlib.sha256(script.encode()).digest()).decode()
    chapters = [
        {"at": to_seconds(each.begin), "clock": clock(each.begin), "title": each.title}
        for each in tags.chapters
        if not each.is_break
    ]
    page = _template().render(
        language=language,
        digest=digest,
        script=Markup(script),
        show=tags.show,
        episode=tags.episode,
        length=clock(plan.length),
        step=step,
        chapters=chapters,
        passages=[*_passages(words, voices)],
        sound=content,
    )
    path.write_text(page, encoding="utf-8")


def _passages(words: Sequence[ProgrammeWord], voices: Mapping[str, str]) -> Iterator[dict[str, object]]:
    """The passages of a programme, each with its words and when they are said."""
    begins = [(at, name) for at, name, _ in told(words, voices)]
    starts = [each.start for each in words]
    edges = [bisect_left(starts, at) for at, _ in begins[1:]]
    for (at, name), first, until in zip(begins, [0, *edges], [*edges, len(words)], strict=False):
        inside = [{"at": round(to_seconds(each.start), 3), "text": each.word.text} for each in words[first:until]]
        yield {"clock": clock(at), "name": name, "words": inside}


@lru_cache(maxsize=1)
def _template() -> Template:
    known = Environment(loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined, trim_blocks=True)
    return known.get_template("proof.html")
