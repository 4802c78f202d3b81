"""What an editor would want to know before an export runs: checked against the destination it is for."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jaskel.core.captions.check import checked
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.destination import FILMS, Destination, told_length, too_long
from jaskel.core.marks.loudness import loudness_of
from jaskel.core.page import UNSURE
from jaskel.core.plan import Plan
from jaskel.core.plan.clear import hides_face
from jaskel.core.timebase import RATE, Ticks

CheckKind = Literal[
    "nothing kept", "too long", "media missing", "disk space", "loudness", "voice without a name", "words in doubt",
    "captions too fast", "captions over a face", "face outside", "no chapters",
]  # fmt: skip

READ = frozenset({"srt", "vtt", "ttml", "captions", "txt", "md", "pdf", "proof", "article html", "article docx", "article md"})
"""Forms in which what was heard is read."""

CUT_OFF = 0.3
"""So much of a face's width may lie outside the picture."""

LOOKED: Ticks = RATE
"""How often one looks whether faces are in the picture."""


@dataclass(frozen=True, slots=True)
class Check:
    """Something to look at before an export; ``places`` in the programme are where, ``stops`` whether it cannot run so."""

    kind: CheckKind
    told: str
    places: tuple[Ticks, ...] = ()
    stops: bool = False


def checks(plan: Plan, destination: Destination, names: Mapping[str, str], missing: Sequence[str] = ()) -> Iterator[Check]:
    """What there is to look at, worst first.

    ``plan`` is that of the destination, ``names`` are those of voices by their ids, ``missing`` names media that are not there.
    """
    if not plan.length:
        yield Check("nothing kept", "Everything is struck. Put something back.", stops=True)
        return
    if missing:
        told = "is" if len(missing) == 1 else "are"
        yield Check("media missing", f"{_and([f'“{name}”' for name in missing])} {told} not there. Find it again.", stops=True)
    if over := too_long(plan, destination):
        limit = plan.length - over
        yield Check("too long", f"{told_length(over)} over the limit of {destination.longest} s", (max(0, limit),), stops=True)
    yield from _sound(plan, destination)
    words = plan.words
    shown = bool(destination.film_captions) or any(form in READ for form in destination.forms)
    if shown:
        yield from _read(plan, words, names)
    if destination.film_captions or any(form in ("srt", "vtt", "ttml", "captions") for form in destination.forms):
        yield from _captions(plan, destination, names)
    if destination.form in FILMS and plan.frame.fill:
        yield from _faces(plan)


def without_chapters(destination: Destination) -> Check | None:
    """What to say of a destination that lists chapters where there are none."""
    if not destination.chapters or not any(form.startswith("chapters") for form in destination.forms):
        return None
    return Check("no chapters", "There are no chapters yet. Let them be found under Reuse.")


def _sound(plan: Plan, destination: Destination) -> Iterator[Check]:
    wanted = loudness_of(plan.edition.marks)
    if wanted is None and destination.loudness is None and destination.form not in ("article html", "proof"):
        yield Check("loudness", "No loudness is set: it stays as it is mixed. Set one under Sound.")


def _read(plan: Plan, words: Sequence[ProgrammeWord], names: Mapping[str, str]) -> Iterator[Check]:
    unnamed: dict[str, Ticks] = {}
    for each in words:
        if each.word.voice and not names.get(each.word.voice):
            unnamed.setdefault(each.word.voice, each.start)
    if unnamed:
        told = "A voice has no name" if len(unnamed) == 1 else f"{len(unnamed)} voices have no name"
        yield Check("voice without a name", told, tuple(unnamed.values()))
    doubted = tuple(each.start for each in words if each.word.confidence < UNSURE)
    if doubted:
        told = "A word that can be read is" if len(doubted) == 1 else f"{len(doubted)} words that can be read are"
        yield Check("words in doubt", f"{told} in doubt", doubted)


def _captions(plan: Plan, destination: Destination, names: Mapping[str, str]) -> Iterator[Check]:
    cues = plan.captions(names)
    fast = tuple(cues[each.cue].start for each in checked(cues, plan.caption_rules) if each.fault == "too fast")
    if fast:
        told = "A caption is" if len(fast) == 1 else f"{len(fast)} captions are"
        yield Check("captions too fast", f"{told} read too quickly", fast)
    if destination.form in FILMS and destination.film_captions:
        over = tuple(cue.start for cue in plan.clear(cues) if hides_face(cue, plan.faces_at))
        if over:
            told = "A caption stands" if len(over) == 1 else f"{len(over)} captions stand"
            yield Check("captions over a face", f"{told} over a face", over)


def _faces(plan: Plan) -> Iterator[Check]:
    outside: list[Ticks] = []
    for layer in plan.layers:
        places = range(layer.begin, layer.until, LOOKED)
        found = next((at for at in places if any(_cut(box.x, box.width) for box in plan.faces_at(at))), None)
        if found is not None:
            outside.append(found)
    if outside:
        told = "A face is" if len(outside) == 1 else f"Faces in {len(outside)} shots are"
        yield Check("face outside", f"{told} partly outside the picture", tuple(outside))


def _cut(left: float, width: float) -> bool:
    """Whether a face is seen, but not all of it."""
    gone = max(0.0, -left) + max(0.0, left + width - 1)
    return CUT_OFF * width < gone < width


def _and(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
