"""The captions of an edition, as the page shows them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator
from io import BytesIO
from itertools import takewhile

from flask import Response, request
from PIL import Image

from jaskel.core.captions.brought import STRANGE, Comparison, compared
from jaskel.core.captions.check import Trouble, checked
from jaskel.core.captions.cues import Cue
from jaskel.core.captions.screens import Screen
from jaskel.core.captions.second import sentences
from jaskel.core.plan import Plan
from jaskel.core.plan.clear import hides_face
from jaskel.core.problem import Missing, Problem
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.captions.about import About
from jaskel.media.captions.drawn import Renderer
from jaskel.media.captions.files import CAPTION_FORMS, lost_in
from jaskel.media.captions.rates import FRAME_RATES
from jaskel.media.text_files import read_captions, read_text
from jaskel.web.context import context, voice_names
from jaskel.web.resource import binary, kept, resource
from jaskel.web.schemas.captions import (
    BroughtCueField,
    CaptionDifferenceOut,
    CaptionFileQuery,
    CaptionsComparedOut,
    CueOut,
    CuesOut,
    FaultOut,
    LostOut,
    MomentOut,
    NewCaptionFiles,
    ScreenPath,
    ScreensOut,
    ScreensQuery,
    SecondOut,
    SecondUnit,
)
from jaskel.web.schemas.common import EditionPath
from jaskel.web.serializers import reply

api = resource("captions", __name__)

AHEAD = 20 * RATE
"""So much of the programme is told of at a time."""


@api.get("/editions/<edition_id>/cues", responses={200: CuesOut})
def listed(path: EditionPath):  # type: ignore[no-untyped-def]
    """The captions of an edition by its rules, and what is wrong with them."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened)
        names = voice_names(session, opened)
        _, laid_out = context().layout(session, opened)
    tokens = [token.at for paragraph in laid_out() for token in paragraph.tokens]
    made = plan.captions(names)
    faults: dict[int, list[Trouble]] = {}
    for each in checked(made, plan.caption_rules):
        faults.setdefault(each.cue, []).append(each)
    for number, cue in enumerate(plan.clear(made)):
        if hides_face(cue, plan.faces_at):
            told = Trouble(number, "over a face", "stands over a face, and there is no room elsewhere")
            faults.setdefault(number, []).append(told)
    return reply(CuesOut(cues=[_out(plan, tokens, cue, faults.get(number, [])) for number, cue in enumerate(made)]))


@api.get("/editions/<edition_id>/screens", responses={200: ScreensOut})
def screens(path: EditionPath, query: ScreensQuery):  # type: ignore[no-untyped-def]
    """What is drawn of the captions from a place of the programme on, for the next :data:`AHEAD`."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened)
        moments = context().screens(session, opened, plan)
    renderer = _renderer(plan)
    first = max(0, bisect_right(moments, query.at, key=lambda each: each[0]) - 1)
    until = min(plan.length, query.at + AHEAD)
    seen = [_moment(renderer, at, screen) for at, screen in takewhile(lambda each: each[0] < until, moments[first:])]
    frame = plan.frame
    return reply(ScreensOut(begin=query.at, until=until, width=frame.width, height=frame.height, moments=seen))


@api.get("/editions/<edition_id>/screens/<key>", responses=binary("image/png"))
def drawn(path: ScreenPath):  # type: ignore[no-untyped-def]
    """A screen as it is drawn: the same pixels that films have. What it is drawn on shows through."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened)
        moments = context().screens(session, opened, plan)

    def found() -> Screen:
        known = next((screen for _, screen in moments if screen and screen.digest == path.key), None)
        if known is None:
            raise Missing("no-screen", "These captions have changed since. Ask for them again.")
        return known

    drawing = _renderer(plan).draw(context().handed_out.get(path.key, found))
    if drawing is None:
        raise Missing("no-screen", "Nothing of these captions is seen.")
    out = BytesIO()
    Image.fromarray(drawing.pixels, "RGBA").save(out, "PNG", compress_level=1)
    return kept(Response(out.getvalue(), mimetype="image/png"))


@api.post("/editions/<edition_id>/caption-file", responses={200: CaptionsComparedOut})
def compare(path: EditionPath, query: CaptionFileQuery):  # type: ignore[no-untyped-def]
    """Hold a caption file (the body of the request) against the captions of an edition. Nothing is stored."""
    theirs = read_captions(request.get_data(), query.name)
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened)
        ours = plan.captions(voice_names(session, opened))
    found = compared(theirs, ours, plan.words, plan.length)
    if found.alike < STRANGE:
        raise Problem(
            "other-episode",
            f"“{query.name}” seems to belong to another episode: only {found.alike:.0%} of the words are the same. "
            "Choose the file of this one.",
        )
    shown = [
        CaptionDifferenceOut(kind=each.kind, at=each.at, laid=plan.laid_at(each.at), theirs=each.theirs, ours=each.ours)
        for each in found.differences[:MOST_DIFFERENCES]
    ]
    cues = [BroughtCueField(start=cue.start, end=cue.end, lines=[*cue.lines]) for cue in theirs]
    told = [*_told(found)]
    return reply(CaptionsComparedOut(told=told, alike=found.alike, cues=cues, differences=shown, count=len(found.differences)))


@api.post("/editions/<edition_id>/second-language", responses={200: SecondOut})
def read_second(path: EditionPath, query: CaptionFileQuery):  # type: ignore[no-untyped-def]
    """Understand a text or captions in a second language (the body of the request). Nothing is stored."""
    content = request.get_data()
    if query.name.lower().endswith((".txt", ".md")):
        words = [word.text for word in read_text(content, query.name).words]
        return reply(SecondOut(units=[SecondUnit(text=text) for text in sentences(words)], timed=False))
    cues = read_captions(content, query.name)
    units = [SecondUnit(text=" ".join(cue.lines)[:2000], start=cue.start, end=cue.end) for cue in cues]
    return reply(SecondOut(units=units, timed=True))


MOST_DIFFERENCES = 1000

SAID_OF = {
    "wording": ("caption reads otherwise than what is said", "captions read otherwise than what is said"),
    "break": ("caption begins elsewhere", "captions begin elsewhere"),
    "time": ("caption is seen at another time", "captions are seen at another time"),
    "not said": ("caption is of something that is not said", "captions are of something that is not said"),
    "missing": ("word is in no caption", "words are in no caption"),
}


def _told(found: Comparison) -> Iterator[str]:
    """A comparison in words."""
    if not found.differences and not found.beyond:
        yield "It says the same, broken at the same words."
    for kind, (one, many) in SAID_OF.items():
        count = sum(each.kind == kind for each in found.differences)
        if count:
            yield f"{count:,} {one if count == 1 else many}."
    if found.beyond:
        yield f"{found.beyond:,} of its captions end after the programme: it may be of another version of the cut."


@api.get("/editions/<edition_id>/caption-forms", responses={200: LostOut})
def lost(path: EditionPath, query: NewCaptionFiles):  # type: ignore[no-untyped-def]
    """What each form of caption files cannot hold of the captions as they are, to be told before one is written."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        names = voice_names(session, opened)
        cues = context().plan(session, opened).captions(names)
    about = About(rate=FRAME_RATES[query.rate], placed=query.placed)
    return reply(LostOut(lost={key: told for key in CAPTION_FORMS if (told := lost_in(key, cues, about))}))


def _renderer(plan: Plan) -> Renderer:
    frame, faces = plan.frame, context().workshop.faces
    return context().memory.get(("captions", frame.width, frame.height), lambda: Renderer(frame.width, frame.height, faces))


def _moment(renderer: Renderer, at: Ticks, screen: Screen | None) -> MomentOut:
    place = renderer.place(screen) if screen else None
    if screen is None or place is None:
        return MomentOut(at=at, key=None)
    x, y, width, height = place
    return MomentOut(at=at, key=context().hand_out(screen), x=x, y=y, width=width, height=height)


def _out(plan: Plan, tokens: list[Ticks], cue: Cue, faults: list[Trouble]) -> CueOut:
    def on_page(at: Ticks) -> Ticks:
        """Where the word begins on the page that is said at a place: short gaps before it are part of it there."""
        laid = plan.laid_at(at)
        index = bisect_right(tokens, laid) - 1
        return tokens[index] if index >= 0 else laid

    return CueOut(
        start=cue.start,
        end=cue.end,
        begin=on_page(cue.words[0].start if cue.words else cue.start),
        until=plan.laid_at(cue.words[-1].end - 1) + 1 if cue.words else plan.laid_at(cue.end - 1) + 1,
        lines=[*cue.lines],
        breaks=[on_page(at) for at in cue.line_starts],
        voice=cue.voice,
        rate=round(cue.rate, 1),
        second=[*cue.second],
        said=next((item.worded.instead_of for item in cue.words if item.worded), None),
        faults=[FaultOut(fault=each.fault, told=each.told) for each in faults],
    )
