"""What of an edition can be told again: highlights, clips, titles, a summary. A person takes what is proposed, or leaves it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sqlalchemy.orm import Session

from jaskel.core.edition import merged
from jaskel.core.operations import Become, Range
from jaskel.core.operations.base import joined
from jaskel.core.plan import Plan
from jaskel.core.problem import Problem
from jaskel.core.reuse.clips import clips, dressed
from jaskel.core.reuse.highlights import Highlight, Wish, highlights
from jaskel.core.reuse.notes import NAMES, quotes_in
from jaskel.core.reuse.outline import FEWEST, Subject
from jaskel.core.reuse.phrases import keywords, links_in, names_in
from jaskel.core.reuse.programme import sentences_heard, words_heard
from jaskel.core.reuse.sentences import Sentence
from jaskel.core.reuse.shorter import eased, least_missed
from jaskel.core.reuse.writer import summed_up, writer
from jaskel.core.timebase import RATE, Ticks
from jaskel.jobs.meanings import languages_of, start_reading
from jaskel.jobs.queue import add_job, send
from jaskel.store.editions import Author, Opened
from jaskel.store.models import EditionRow
from jaskel.store.notices import post
from jaskel.web.context import Itself, context
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EditionPath, RangeField
from jaskel.web.schemas.reuse import (
    EasedRestsOut,
    HighlightOut,
    HighlightsOut,
    MadeOut,
    MakeClips,
    PlaceField,
    ReuseOut,
    ReusePath,
    SummaryQuery,
    TitleOut,
    ToldOut,
    WishField,
)
from jaskel.web.schemas.work import JobOut
from jaskel.web.serializers import job_out, reply
from jaskel.web.subject import known_subject, note_on, subject_in, too_little

api = resource("reuse", __name__)


@api.get("/editions/<edition_id>/reuse", responses={200: ReuseOut})
def look(path: EditionPath, query: SummaryQuery):  # type: ignore[no-untyped-def]
    """Titles, a summary, quotes, keywords and names, all of what was said, once it is known what that means."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened)
        sentences = sentences_heard(plan)
        if len(sentences) < FEWEST:
            return reply(ReuseOut(ready=True, note=too_little(len(sentences)), sentences=len(sentences)))
        languages = languages_of(session, opened.id, context().workshop)
        subject = subject_in(session, opened, plan)
    if subject is None:
        return reply(ReuseOut(ready=False, sentences=len(sentences)))
    told = context().memory.get(("reuse", Itself(subject), *query.model_dump().values()), lambda: _told(plan, subject, query))
    return reply(told.model_copy(update={"note": note_on(languages)}))


@api.post("/editions/<edition_id>/reuse", responses={202: JobOut})
def read(path: EditionPath):  # type: ignore[no-untyped-def]
    """Find out what is said, in the background."""
    home = context().workshop.home
    with home.database.write() as session:
        home.editions.open(session, path.edition_id)
        job = start_reading(session, path.edition_id, None, Author())
    send(home, job.id)
    return reply(job_out(job), 202)


@api.get("/editions/<edition_id>/proposals/<kind>", responses={200: HighlightsOut})
def proposals(path: ReusePath):  # type: ignore[no-untyped-def]
    """What is proposed by what was wished last."""
    with context().workshop.home.database.read() as session:
        row, opened = _row(session, path.edition_id)
        wish = WishField.model_validate(row.wishes.get(path.kind, {}))
        return reply(_proposed(session, opened, path.kind, wish))


@api.put("/editions/<edition_id>/proposals/<kind>", responses={200: HighlightsOut})
def wish(path: ReusePath, body: WishField):  # type: ignore[no-untyped-def]
    """Ask for another length or number, pin what has to stay, refuse what shall not come again."""
    with context().workshop.home.database.write() as session:
        row, opened = _row(session, path.edition_id)
        answer = _proposed(session, opened, path.kind, body)
        row.wishes = {**row.wishes, path.kind: body.model_dump()}
        return reply(answer)


@api.post("/editions/<edition_id>/clips", responses={201: MadeOut})
def make(path: EditionPath, body: MakeClips):  # type: ignore[no-untyped-def]
    """Make an edition of each clip, all at once; looks, strips and what lies over the words come along."""
    editions = context().workshop.home.editions
    with context().workshop.home.database.write() as session:
        row, opened = _row(session, path.edition_id)
        made, films = [], []
        for clip in body.clips:
            new = EditionRow(name=clip.name, crossfade=row.crossfade, episode_id=row.episode_id)
            session.add(new)
            session.flush()
            ranges = joined([(each.begin, each.end) for each in clip.ranges])
            pieces = tuple(piece for begin, end in ranges for piece in opened.edition.cut_out(begin, end))
            if not any(piece.kept for piece in pieces):
                raise Problem("nothing-kept", f"Nothing of “{clip.name}” is kept in this edition. Choose something else.")
            edition = replace(opened.edition, pieces=tuple(merged(pieces)), shape=body.shape)
            edition = dressed(edition, clip.name) if body.dressed else edition
            clipped = editions.arrive(session, new.id, Become(edition), f"began as a clip of {row.name}")
            made.append(new.id)
            if body.films:
                length = context().plan(session, clipped).length
                films.append(add_job(session, "export", row.episode_id, new.id, length, form="mp4", captions=["burned in"]).id)
        post(session, "recording", row.episode_id)
    for film in films:
        send(context().workshop.home, film)
    return reply(MadeOut(editions=made), 201)


def _row(session: Session, edition_id: str) -> tuple[EditionRow, Opened]:
    opened = context().workshop.home.editions.open(session, edition_id)
    return session.get_one(EditionRow, edition_id), opened


def _told(plan: Plan, subject: Subject, query: SummaryQuery) -> ReuseOut:
    sentences = subject.sentences
    about = keywords(sentences)

    def said(at: int) -> ToldOut:
        each = sentences[at]
        return ToldOut(text=each.text, laid=plan.laid_at(each.start), voice=each.voice)

    return ReuseOut(
        ready=True,
        sentences=len(sentences),
        summary=[said(at) for at in summed_up(sentences, subject.meanings, subject.begins, query.count, query.again)],
        quotes=[said(at) for at in quotes_in(subject)],
        titles=[TitleOut(tone=tone, title=title) for tone, title in writer().titles(sentences, about, query.other_titles)],
        keywords=about,
        names=names_in(sentences)[:NAMES],
        links=links_in(sentences),
        about=writer().about,
    )


def _proposed(session: Session, opened: Opened, kind: str, wish: WishField) -> HighlightsOut:
    plan = context().plan(session, opened)
    subject = known_subject(session, opened, plan)
    pinned, refused = (_sentences(plan, subject.sentences, places) for places in (wish.pinned, wish.refused))
    rests = None
    if kind == "length":
        # Half a second more or less is as long as that.
        over = plan.length - wish.length if wish.length and plan.length - wish.length > RATE // 2 else 0
        easing = eased(words_heard(plan), over)
        ranges = joined([laid for begin, end in easing.gone for laid in _laid(plan, begin, end)])
        rests = EasedRestsOut(
            becomes=easing.becomes, spared=easing.spared, ranges=[RangeField(begin=a, end=b) for a, b in ranges]
        )
        chosen = least_missed(subject.sentences, subject.meanings, over - easing.spared, refused)
    elif kind == "clips":
        chosen = clips(subject.sentences, subject.meanings, subject.begins, wish.count, refused=refused)
    elif wish.length >= RATE:
        chosen = highlights(subject.sentences, subject.meanings, subject.begins, Wish(wish.length, pinned, refused))
    else:
        chosen = []
    made = [_proposal(plan, subject.sentences, each, pinned) for each in chosen]
    return HighlightsOut(wish=wish, rests=rests, length=sum(each.end - each.begin for each in made), proposals=made)


def _sentences(plan: Plan, sentences: Sequence[Sentence], places: Sequence[PlaceField]) -> set[int]:
    """Which sentences begin at places of the material."""
    wanted = {(place.recording, place.at) for place in places}
    words = plan.words
    return {at for at, it in enumerate(sentences) if (words[it.first].recording, words[it.first].word.start) in wanted}


def _proposal(plan: Plan, sentences: Sequence[Sentence], chosen: Highlight, pinned: set[int]) -> HighlightOut:
    said = sentences[chosen.first : chosen.last]
    word = plan.words[said[0].first]
    begin, end = said[0].start, said[-1].end
    ranges = joined(_laid(plan, begin, end))
    return HighlightOut(
        place=PlaceField(recording=word.recording, at=word.word.start),
        ranges=[RangeField(begin=a, end=b) for a, b in ranges],
        begin=begin,
        end=end,
        text=" ".join(each.text for each in said),
        voice=said[0].voice,
        why=chosen.why,
        pinned=any(at in pinned for at in range(chosen.first, chosen.last)),
    )


def _laid(plan: Plan, begin: Ticks, end: Ticks) -> list[Range]:
    """A stretch of the programme as it is laid; what sounds in a crossfade as well is no part of it."""
    clear = [(span, max(begin, span.clear_from), min(end, span.clear_to)) for span in plan.spans]
    return [(span.laid + a - span.clear_from, span.laid + b - span.clear_from) for span, a, b in clear if a < b]
