"""The head of an edition: all that changes with every edit, told in one answer."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from jaskel.core.breaks import breaks_in
from jaskel.core.edition import Edition
from jaskel.core.history import Turn
from jaskel.core.marks.anchor import Beginning, End, Place
from jaskel.core.marks.bed import Bed, Tie
from jaskel.core.marks.bleep import Bleep
from jaskel.core.marks.caption_look import CaptionLookHere, looks_in
from jaskel.core.marks.caption_second import second_language
from jaskel.core.marks.captions import CaptionRules
from jaskel.core.marks.chain import ChainHere, chains
from jaskel.core.marks.level import Level, faders, pans
from jaskel.core.marks.lock import Lock
from jaskel.core.marks.loudness import loudness_of
from jaskel.core.marks.shot import shot_rules
from jaskel.core.operations import Retype, joined
from jaskel.core.places import Places
from jaskel.core.plan import Plan
from jaskel.core.sound.chains import called
from jaskel.core.sound.processor import AS_IT_IS
from jaskel.core.source import CLOSING, OPENING
from jaskel.jobs.spell import spellings_of
from jaskel.store.editions import Author, Opened
from jaskel.store.material import history_of, is_processed
from jaskel.store.models import EditionRow, Episode, LogEntry, MaterialEntry, Recording
from jaskel.web.cameras import aims_out, cameras_out, covers_out, faces_out
from jaskel.web.context import context
from jaskel.web.cutaways import cutaways_out
from jaskel.web.gate import asking
from jaskel.web.graphics import cards_out, dressing_out, graphics_out
from jaskel.web.joins import joins_out
from jaskel.web.schemas.captions import LooksOut, VoiceLookOut, look_field, rules_field
from jaskel.web.schemas.editions import (
    BreakOut,
    HeadOut,
    LevelOut,
    LockOut,
    StepOut,
    TrackLevelOut,
)
from jaskel.web.schemas.shots import shot_rules_field
from jaskel.web.schemas.sound import BedFields, BedOut, ChainHereOut, LoudnessOut, StretchOut, TieField, chain_fields
from jaskel.web.schemas.texts import NewSpelling


def next_step(
    session: Session, opened: Opened, episode: Episode, turn: Turn, author: Author
) -> LogEntry | MaterialEntry | None:
    """What undo or redo is about: of a step on the edition and one on the episode's own marks, what was done later."""
    on_edition = opened.history.next(turn, author.keys)
    on_marks = history_of(session, episode).next(turn, author.keys) if episode.marks_revision else None
    if on_edition and on_marks:
        edited = session.get_one(LogEntry, (opened.id, on_edition.last)).at
        marked = session.get_one(MaterialEntry, (episode.id, on_marks.last)).at
        on_edition, on_marks = (on_edition, None) if edited >= marked else (None, on_marks)
    if on_edition:
        return session.get_one(LogEntry, (opened.id, on_edition.target))
    return session.get_one(MaterialEntry, (episode.id, on_marks.target)) if on_marks else None


def head_of(session: Session, opened: Opened, author: Author) -> HeadOut:
    session.flush()
    row = session.get_one(EditionRow, opened.id)
    newest = session.get(LogEntry, (opened.id, opened.revision))
    plan = context().plan(session, opened)
    marks = opened.edition.marks
    # Thousands of ranges that the core has just made need no second check.
    return HeadOut.model_construct(
        id=opened.id,
        name=row.name,
        episode_id=row.episode_id,
        revision=opened.revision,
        layout=context().layout(session, opened)[0],
        running_time=plan.length,
        recorded_time=opened.edition.length,
        struck=[*map(list, opened.edition.struck_ranges)],
        lifted=[*map(list, opened.edition.lifted_ranges)],
        muted=[*map(list, context().muted(session, opened))],
        splices=[run.laid for run in opened.edition.kept_runs[1:]],
        levels=[
            LevelOut(recording=each.recording, track=each.track, start=each.start, end=each.end, decibels=each.decibels)
            for each in marks.all(Level)
        ],
        tracks=_tracks(plan),
        beds=_beds(session, plan),
        breaks=_breaks(plan),
        locks=_locks(opened.edition),
        chains_here=[
            ChainHereOut(
                recording=each.recording, track=each.track, start=each.start, end=each.end, chain=chain_fields(each.chain)
            )
            for each in marks.all(ChainHere)
        ],
        bleeps=[
            StretchOut(recording=each.recording, track=each.track, start=each.start, end=each.end) for each in marks.all(Bleep)
        ],
        loudness=_loudness(plan),
        captions=rules_field(plan.caption_rules),
        second_language=second_language(marks),
        own_rules=bool(marks.all(CaptionRules)),
        looks=_looks(plan),
        shots=shot_rules_field(shot_rules(marks)),
        graphics=graphics_out(opened.edition, plan),
        dressing=dressing_out(plan),
        cards=cards_out(plan.edition),
        cutaways=cutaways_out(session, opened.edition),
        joins=joins_out(opened.edition, plan),
        cameras=cameras_out(session, plan),
        aims=aims_out(plan),
        covers=covers_out(plan),
        faces=faces_out(plan),
        target=row.target,
        target_kind=row.target_kind,
        shape=opened.edition.shape,
        opening=_length(opened.edition.card(OPENING)),
        closing=_length(opened.edition.card(CLOSING)),
        undo=_step(next_step(session, opened, row.episode, "undo", author)),
        redo=_step(next_step(session, opened, row.episode, "redo", author)),
        newest=_step(newest, session),
        proposal=_proposal(session, row, newest) if newest and newest.step == "do" else None,
    )


def _tracks(plan: Plan) -> list[TrackLevelOut]:
    """The tracks whose level is not as recorded, or that go through a chain."""
    marks = plan.edition.marks
    levels, places, wanted = faders(marks), pans(marks), chains(marks)
    return [
        TrackLevelOut(
            track=track,
            decibels=levels.get(track, 0.0),
            pan=places.get(track, 0.0),
            chain=chain_fields(wanted.get(track, AS_IT_IS)),
            called=called(wanted.get(track, AS_IT_IS)),
            processed=is_processed(plan.material, track, wanted.get(track, AS_IT_IS)),
        )
        for track in dict.fromkeys((*levels, *places, *wanted))
    ]


def _looks(plan: Plan) -> LooksOut:
    marks = plan.edition.marks
    known = looks_in(marks)
    return LooksOut(
        all=look_field(plan.caption_look),
        own=known.all is not None,
        voices=[VoiceLookOut(voice=voice, look=look_field(look)) for voice, look in known.voices.items() if voice],
        single=len(marks.all(CaptionLookHere)),
    )


def _breaks(plan: Plan) -> list[BreakOut]:
    places = Places(plan.edition)
    return [
        BreakOut(id=mark.id, laid=places.of(mark.place)[0][0], at=begin, length=end - begin)
        for mark, begin, end in sorted(breaks_in(plan), key=lambda each: each[1])
    ]


def _locks(edition: Edition) -> list[LockOut]:
    found = edition.marks.all(Lock)
    places = Places(edition) if found else None
    return [
        LockOut(
            id=lock.id,
            ranges=[*map(list, joined(found for each in lock.stretches for found in places.of(each)))],
            who=lock.who,
            mine=lock.by == asking().id,
        )
        for lock in found
        if places
    ]


def _beds(session: Session, plan: Plan) -> list[BedOut]:
    found = plan.edition.marks.all(Bed)
    places = Places(plan.edition) if found else None
    return [
        BedOut(
            id=bed.id,
            recording=bed.recording,
            name=known.name if (known := session.get(Recording, bed.recording)) else "",
            begins=_tie(places, bed.begins),
            ends=_tie(places, bed.ends) if bed.ends else None,
            **{name: getattr(bed, name) for name in BedFields.model_fields},
        )
        for bed in found
        if places
    ]


def _tie(places: Places, tie: Tie) -> TieField | None:
    match tie:
        case Beginning(offset):
            return TieField(to="beginning", offset=offset)
        case End(offset):
            return TieField(to="end", offset=offset)
        case Place(recording, at, offset):
            laid = places.of(Place(recording, at))
            return TieField(to="word", at=laid[0][0], offset=offset) if laid else None


def _loudness(plan: Plan) -> LoudnessOut:
    wanted = loudness_of(plan.edition.marks)
    found = wanted.measured if wanted else None
    return LoudnessOut(
        target=wanted.target if wanted else None,
        peak=wanted.peak if wanted else -1.0,
        mono=bool(wanted and wanted.mono),
        gain=wanted.bus.decibels if wanted and wanted.bus else None,
        integrated=found.integrated if found else None,
        range=found.range if found else None,
        true_peak=max(found.peak, -120.0) if found else None,
        edited=bool(found and found.of != plan.unlevelled),
    )


def _step(entry: LogEntry | MaterialEntry | None, session: Session | None = None) -> StepOut | None:
    """A step as it is told: of an undo or redo it is told whose step it is about."""
    if entry is None:
        return None
    turned = session and isinstance(entry, LogEntry) and entry.step in ("undo", "redo")
    told = session.get_one(LogEntry, (entry.edition_id, entry.target)) if turned else entry  # type: ignore[union-attr]
    return StepOut(number=told.number, step=entry.step, summary=entry.summary, who=told.who)


def _length(place: tuple[int, int] | None) -> int:
    return place[1] - place[0] if place else 0


LOOKED_BACK = 200
"""So many earlier corrections are looked through for the same one."""


def _proposal(session: Session, row: EditionRow, newest: LogEntry) -> NewSpelling | None:
    """A house spelling to propose, where the newest correction was made once before in the show."""
    wanted = _corrected(newest)
    if wanted is None:
        return None
    show = row.episode.show
    if any(spelling.term == wanted[1] and wanted[0] in spelling.heard for spelling in spellings_of(session, show.id)):
        return None
    earlier = session.scalars(
        select(LogEntry)
        .join(EditionRow, EditionRow.id == LogEntry.edition_id)
        .join(Episode, Episode.id == EditionRow.episode_id)
        .where(Episode.show_id == show.id, LogEntry.step == "do", LogEntry.operation["kind"].as_string() == Retype.kind)
        .order_by(LogEntry.at.desc())
        .limit(LOOKED_BACK)
    )
    again = any(_corrected(e) == wanted for e in earlier if (e.edition_id, e.number) != (newest.edition_id, newest.number))
    return NewSpelling(term=wanted[1], heard=[wanted[0]]) if again else None


def _corrected(entry: LogEntry) -> tuple[str, str] | None:
    """What was retyped as what, where that was a few words; without the punctuation around them."""
    changes = entry.operation.get("changes", []) if entry.operation["kind"] == Retype.kind else []
    if not 1 <= len(changes) <= 500:
        return None
    old, new = (" ".join(word[0] for word in changes[0][side]).strip('.,;:!?…“”"()') for side in ("old", "new"))
    return (old, new) if old and new and old != new and len(new.split()) <= 4 else None
