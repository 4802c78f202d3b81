"""Findings: what could be tidied in an edition, how it was judged, and what a show wants tidied."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from typing import Any

from sqlalchemy import delete

from jaskel.core.edition import Edition
from jaskel.core.places import Places
from jaskel.core.tidy.finding import Finding, Take
from jaskel.core.tidy.review import DONE, Placed, taken_out
from jaskel.core.tidy.settings import Rhythm, Threshold, TidySettings, thresholds
from jaskel.core.timebase import Ticks
from jaskel.core.transcript import SHORTEST_REST, Word
from jaskel.jobs.queue import send
from jaskel.jobs.tidy import start_listening
from jaskel.store.models import EditionRow, Refusal, Show
from jaskel.store.notices import post
from jaskel.store.tidying import heard_in, refusals_of, settings_of
from jaskel.web.context import context, show_of
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EditionPath, ShowPath
from jaskel.web.schemas.tidy import (
    AttemptOut,
    FindingOut,
    FindingsOut,
    LineOut,
    ReadingOut,
    RefusalsIn,
    RestsOut,
    RestsQuery,
    ScriptOut,
    ThresholdIn,
    ThresholdOut,
    TidyChange,
    TidySettingsOut,
)
from jaskel.web.serializers import reply
from jaskel.web.shows import find_show

api = resource("tidy", __name__)


@api.get("/editions/<edition_id>/findings", responses={200: FindingsOut})
def get_findings(path: EditionPath):  # type: ignore[no-untyped-def]
    """Everything that could be tidied in an edition, judged or not, in reading order."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        found = context().findings(session, opened)
        said = context().transcripts(session, opened)
        body = FindingsOut.model_construct(
            revision=opened.revision,
            findings=[_finding_out(each, said[each.name].words) for each in found],
            thresholds=_thresholds(context().rhythm(session, opened), settings_of(show_of(session, opened))),
            unheard=[name for name in said if heard_in(session, name) is None],
        )
    return reply(body)


@api.get("/editions/<edition_id>/rests", responses={200: RestsOut})
def get_rests(path: EditionPath, query: RestsQuery):  # type: ignore[no-untyped-def]
    """The rests of an edition that wait to be judged, and what a limit would do to them: by the rules of the findings."""
    limit = Threshold(query.longer, query.becomes) if query.longer and query.becomes else None
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        every = _open_rests(context().findings(session, opened, Threshold(SHORTEST_REST, 0)))
        long = _open_rests(context().findings(session, opened, limit))
    saved = sum(end - start for each in long for start, end in each.gone())
    return reply(RestsOut(lengths=[_length(each) for each in every], long=[_length(each) for each in long], saved=saved))


def _open_rests(found: Sequence[Placed]) -> list[Finding]:
    return [each.finding for each in found if each.finding.kind == "long rest" and each.state == "open"]


def _length(rest: Finding) -> Ticks:
    return rest.end - rest.start + rest.becomes


@api.get("/editions/<edition_id>/script", responses={200: ScriptOut})
def get_script(path: EditionPath):  # type: ignore[no-untyped-def]
    """The sentences of the script with the best take of each, what was never said, and what was said off it."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        followed = context().followed(session, opened)
    places = Places(opened.edition)
    lines: list[LineOut] = []
    off: list[ReadingOut] = []
    for name, script in followed.items():
        for line in script.lines:
            # Where none stands in the order of the script, the last one is shown.
            best = line.takes[-1 if line.pick is None else line.pick] if line.takes else None
            said = _said_out(opened.edition, places, name, best) if best else None
            lines.append(LineOut.model_construct(text=line.text, said=said, takes=len(line.takes)))
        off += [said for take in script.off if (said := _said_out(opened.edition, places, name, take))]
    return reply(ScriptOut.model_construct(lines=lines, off=off))


def _said_out(edition: Edition, places: Places, name: str, take: Take) -> ReadingOut | None:
    laid = places.whole(name, take.start, take.end)
    if laid is None:
        return None
    gone = taken_out(edition, *laid)[0] >= DONE
    return ReadingOut.model_construct(begin=laid[0], end=laid[1], text=take.text, gone=gone)


def _finding_out(placed: Placed, words: tuple[Word, ...]) -> FindingOut:
    finding, shift = placed.finding, placed.begin - placed.finding.start
    index = min(bisect_left(words, finding.start, key=lambda word: word.start), len(words) - 1)
    return FindingOut.model_construct(
        id=placed.id,
        kind=finding.kind,
        begin=placed.begin,
        end=placed.end,
        text=finding.text,
        voice=words[index].voice if words else None,
        why=finding.why,
        goes=sum(end - start for start, end in finding.gone(placed.pick if finding.takes else None)),
        state=placed.state,
        takes=[
            AttemptOut.model_construct(begin=take.start + shift, end=take.end + shift, text=take.text, why=list(take.why))
            for take in finding.takes
        ],
        pick=placed.pick,
        large=placed.large,
        twice=finding.twice,
    )


def _thresholds(rhythm: Rhythm, settings: TidySettings) -> list[ThresholdOut]:
    return [
        ThresholdOut(voice=voice, median=rhythm.get(voice, rhythm[None]), longer=limit.longer, becomes=limit.becomes)
        for voice, limit in thresholds(rhythm, settings).items()
    ]


@api.post("/editions/<edition_id>/listen", responses={200: FindingsOut})
def listen(path: EditionPath):  # type: ignore[no-untyped-def]
    """Listen for voice where the transcript has no words, in the background."""
    home = context().workshop.home
    with home.database.write() as session:
        opened = home.editions.open(session, path.edition_id)
        episode = session.get_one(EditionRow, path.edition_id).episode_id
        jobs = start_listening(session, episode, opened.edition.recordings)
    for job in jobs:
        send(home, job)
    return get_findings(path)


@api.post("/editions/<edition_id>/refusals", responses={200: FindingsOut})
def refuse(path: EditionPath, body: RefusalsIn):  # type: ignore[no-untyped-def]
    """Refuse findings, or open them again. What was refused stays so when it is found again."""
    home = context().workshop.home
    with home.database.write() as session:
        opened = home.editions.open(session, path.edition_id)
        wanted = set(body.findings)
        chosen = [each for each in context().findings(session, opened) if each.id in wanted]
        known = refusals_of(session, opened.id)
        for each in chosen:
            mine = [row for row, refused in known.items() if refused.is_about(each.name, each.finding)]
            if not body.refused:
                session.execute(delete(Refusal).where(Refusal.id.in_(mine)))
            elif not mine:
                session.add(_refusal(opened.id, each))
        session.flush()
        post(session, "findings", session.get_one(EditionRow, opened.id).episode_id)
    return get_findings(path)


def _refusal(edition_id: str, placed: Placed) -> Refusal:
    finding = placed.finding
    return Refusal(edition_id=edition_id, kind=finding.kind, recording=placed.name, start=finding.start, end=finding.end)


@api.get("/shows/<show_id>/tidy", responses={200: TidySettingsOut})
def get_settings(path: ShowPath):  # type: ignore[no-untyped-def]
    """What a show wants tidied, and how."""
    with context().workshop.home.database.read() as session:
        return reply(_settings_out(find_show(session, path.show_id)))


@api.patch("/shows/<show_id>/tidy", responses={200: TidySettingsOut})
def change_settings(path: ShowPath, body: TidyChange):  # type: ignore[no-untyped-def]
    """Change what a show wants tidied. Nothing is cut by that: only what is found changes."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        show.tidy = _changed(show, body)
        session.flush()
        for episode in show.episodes:
            post(session, "findings", episode.id)
        return reply(_settings_out(show))


def _changed(show: Show, body: TidyChange) -> dict[str, Any]:
    tidy = dict(show.tidy or {})
    for name in ("fillers", "cues", "remarks"):
        wanted = getattr(body, name)
        if wanted is not None:
            tidy[name] = [each.casefold() for each in dict.fromkeys(wanted)]
    if body.rhythm is not None:
        tidy["rhythm"] = body.rhythm
    if body.rests is not None:
        tidy["rests"] = [body.rests.longer, body.rests.becomes]
    if body.voices is not None:
        tidy["voices"] = {voice: [limit.longer, limit.becomes] for voice, limit in body.voices.items()}
    if not body.own_rests:
        tidy.pop("rests", None)
        tidy.pop("voices", None)
    for name in ("keep_answers", "keep_laughter", "soften_breaths"):
        if (chosen := getattr(body, name)) is not None:
            tidy[name] = chosen
    if body.on_import is not None:
        tidy["on_import"] = list(dict.fromkeys(body.on_import))
    if body.actions is not None:
        tidy["actions"] = {**tidy.get("actions", {}), **body.actions}
    return tidy


def _settings_out(show: Show) -> TidySettingsOut:
    known = settings_of(show)
    rests = ThresholdIn(longer=known.rests.longer, becomes=known.rests.becomes) if known.rests else None
    return TidySettingsOut(
        fillers=sorted(known.fillers),
        cues=sorted(known.cues),
        remarks=[" ".join(phrase) for phrase in known.remarks],
        rhythm=known.rhythm,
        rests=rests,
        voices={voice: ThresholdIn(longer=limit.longer, becomes=limit.becomes) for voice, limit in known.voices.items()},
        keep_answers=known.keep_answers,
        keep_laughter=known.keep_laughter,
        soften_breaths=known.soften_breaths,
        actions=dict(known.actions),
        on_import=(show.tidy or {}).get("on_import", []),
    )
