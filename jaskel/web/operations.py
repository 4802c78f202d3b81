"""From operations as they are asked for to operations of the core, on the edition as it is now."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Any

from sqlalchemy.orm import Session

from jaskel.core.edition import CARD, CLOSING, ROOM_TONE, SILENCE, Edition, Piece, Run, is_rest
from jaskel.core.levels import Level
from jaskel.core.operations import (
    Adjust,
    Become,
    Edit,
    Insert,
    Lift,
    Move,
    Operation,
    PutBack,
    Range,
    Retype,
    Rewrite,
    SetSplices,
    Slip,
    Strike,
    Together,
    Trim,
    apply,
    corrections,
)
from jaskel.core.problem import Problem
from jaskel.core.rebase import Overlap, Since
from jaskel.core.retype import Change
from jaskel.core.splice import Meeting, Splice
from jaskel.core.tidy.judged import accepting
from jaskel.core.timebase import RATE, Ticks
from jaskel.jobs.settle import settled, unsettled
from jaskel.store.corrections import Corrections
from jaskel.store.editions import Opened
from jaskel.store.models import EditionRow, Recording, SessionRow, TrackRow, Voice
from jaskel.store.sessions import new_voice, tracks_of
from jaskel.store.tidying import material_of, settings_of
from jaskel.web.context import context, show_of
from jaskel.web.schemas.editions import (
    AcceptIn,
    AdjustIn,
    AnyOperation,
    CardIn,
    EdgesIn,
    GiveVoiceIn,
    InsertIn,
    LiftIn,
    MoveIn,
    PartIn,
    PassageIn,
    PutBackIn,
    RangeField,
    RestIn,
    RestoreIn,
    RetypeIn,
    SlipIn,
    SpliceIn,
    StrikeIn,
    TidyIn,
    TrackLevelIn,
    TrimIn,
)

TONE_STEP: Ticks = 7 * RATE
"""Rests that are put in begin at other places of the room tone, so that neighbours do not sound the same."""


def operation_of(session: Session, opened: Opened, wanted: AnyOperation) -> Operation:
    """The operation of the core that was asked for.

    Raises
    ------
    Problem
        When it does not apply.
    """
    make = _MAKERS[type(wanted)]
    return make(session, opened, wanted)


def carried(wanted: AnyOperation, since: Since) -> AnyOperation:
    """The same operation with its places carried over what happened since it was made.

    Raises
    ------
    Overlap
        When what it is about was changed meanwhile.
    """
    if isinstance(wanted, TrackLevelIn | RestoreIn | TidyIn | CardIn):
        return wanted
    changed: dict[str, Any] = {}
    if hasattr(wanted, "ranges"):
        moved = [since.carry((each.begin, each.end)) for each in wanted.ranges]
        changed["ranges"] = [RangeField(begin=begin, end=end) for begin, end in moved]
    if isinstance(wanted, GiveVoiceIn | AcceptIn | AdjustIn | EdgesIn):
        changed["begin"], changed["end"] = since.carry((wanted.begin, wanted.end))
    for name in ("at", "to"):
        if hasattr(wanted, name):
            changed[name] = since.carry((getattr(wanted, name),) * 2)[0]
    return wanted.model_copy(update=changed)


def check_words(operation: Operation, since: Sequence[Operation]) -> None:
    """Refuse corrections of words that were corrected since.

    Raises
    ------
    Overlap
        When they were.
    """
    mine = _corrected(operation)
    for other in since:
        for recording, begin, end in _corrected(other):
            if any(recording == name and begin < until and end > start for name, start, until in mine):
                raise Overlap


def _corrected(operation: Operation) -> list[tuple[str, Ticks, Ticks]]:
    return [
        (change.recording, words[0].start, words[-1].end)
        for change in corrections(operation)
        for words in (change.old, change.new)
        if words
    ]


def _ranges(ranges: Sequence[RangeField]) -> tuple[Range, ...]:
    return tuple((r.begin, r.end) for r in ranges)


MOST_SETTLED = 16
"""With more splices at once, settling them would keep the person waiting: a job does it then."""


def _strike(_session: Session, opened: Opened, wanted: StrikeIn) -> Operation:
    strike = Strike(_ranges(wanted.ranges), wanted.why)
    return _settling(opened.edition, strike) if wanted.settle else strike


def _settling(edition: Edition, operation: Operation) -> Operation:
    """The same with the splices that come about made where they are heard least, unless they are too many to wait for."""
    after = apply(edition, operation)[0]
    known = {Meeting(a.recording, a.end, b.recording, b.start) for a, b in pairwise(edition.kept_runs)}
    new = [each for each in unsettled(after) if each[0] not in known]
    if not new or len(new) > MOST_SETTLED:
        return operation
    made = tuple((meeting, settled(context().workshop, after, a, b)) for meeting, a, b in new)
    return Together((*_parts(operation), SetSplices(made)))


def _parts(operation: Operation) -> Sequence[Operation]:
    return operation.operations if isinstance(operation, Together) else (operation,)


def leaves_joins(wanted: AnyOperation, operation: Operation) -> bool:
    """Whether an operation that was to settle its splices left that to a job: there were too many of them."""
    settles = isinstance(wanted, TidyIn) or (isinstance(wanted, StrikeIn) and wanted.settle)
    parts = _parts(operation)
    taken_out = sum(len(each.ranges) for each in parts if isinstance(each, Strike | Lift))
    return settles and taken_out > MOST_SETTLED and not any(isinstance(each, SetSplices) for each in parts)


def _tidy(session: Session, opened: Opened, wanted: TidyIn) -> Operation:
    by_id = {each.id: each for each in context().findings(session, opened)}
    chosen = [(found, each.pick) for each in wanted.findings if (found := by_id.get(each.id)) and found.state != "accepted"]
    if not chosen:
        raise Problem("no-finding", "That is not found any more: its words were changed meanwhile. Look at it again.")
    picked = [(found, found.pick if pick is None else min(pick, len(found.finding.takes) - 1)) for found, pick in chosen]
    material = {name: material_of(session, name, each.words) for name, each in context().transcripts(session, opened).items()}
    return _settling(opened.edition, accepting(opened.edition, picked, material, settings_of(show_of(session, opened))))


def _insert(session: Session, _opened: Opened, wanted: InsertIn) -> Operation:
    pieces = tuple(Piece(**piece.model_dump()) for piece in wanted.pieces)
    for name in {piece.recording.removeprefix(ROOM_TONE) for piece in pieces} - {SILENCE, CARD}:
        if not (session.get(Recording, name) or session.get(SessionRow, name)):
            raise Problem("recording-gone", "What was copied belongs to a recording that is not here any more. Copy it again.")
    return Insert(wanted.at, pieces)


def _rest(_session: Session, opened: Opened, wanted: RestIn) -> Operation:
    if wanted.silent:
        return Insert(wanted.at, (Piece(SILENCE, 0, wanted.length),))
    edition = opened.edition
    near = [edition.pieces[i].recording for i in (edition.index_at(max(0, wanted.at - 1)),) if i < len(edition.pieces)]
    recorded = [name.removeprefix(ROOM_TONE) for name in (*near, *edition.recordings) if name not in (SILENCE, CARD)]
    if not recorded:
        raise Problem("no-room-tone", "There is no recording here whose room could be heard. Put in silence instead.")
    start = opened.revision * TONE_STEP % (60 * RATE)
    return Insert(wanted.at, (Piece(ROOM_TONE + recorded[0], start, start + wanted.length),))


def _card(_session: Session, opened: Opened, wanted: CardIn) -> Operation:
    """The card in the place of the one that is there. A closing card goes to the end, also where material came after it."""
    edition = opened.edition
    known = edition.card(closing=wanted.closing)
    first = CLOSING if wanted.closing else 0
    place = edition.length if wanted.closing else 0
    new = (Piece(CARD, first, first + wanted.length),) if wanted.length else ()
    edits = [] if known is None else [Edit(*known, ())]
    if known and place in known:
        edits = [Edit(*known, new)]
    elif new:
        edits.append(Edit(place, place, new))
    return Rewrite(tuple(sorted(edits, key=lambda edit: edit.begin)))


def splice_at(edition: Edition, at: Ticks) -> tuple[Run, Run]:
    """What meets at the splice whose later side begins at a laid time.

    Raises
    ------
    Problem
        ``no-splice``.
    """
    runs = edition.kept_runs
    index = next((i for i, run in enumerate(runs) if run.laid == at and i), None)
    if index is None:
        raise Problem("no-splice", "There is no splice here any more. Look at the page and choose it again.")
    return runs[index - 1], runs[index]


def _splice(_session: Session, opened: Opened, wanted: SpliceIn) -> Operation:
    before, after = splice_at(opened.edition, wanted.at)
    meeting = Meeting(before.recording, before.end, after.recording, after.start)
    changes: dict[str, Any] = wanted.model_dump(include={"crossfade", "shape", "lead"}, exclude_none=True)
    known = replace(opened.edition.by_meeting.get(meeting, Splice(opened.edition.crossfade)), settled=False)
    return SetSplices(
        ((meeting, replace(known, **changes) if changes else settled(context().workshop, opened.edition, before, after)),)
    )


def _part(_session: Session, opened: Opened, wanted: PartIn) -> Operation:
    for run in opened.edition.kept_runs:
        place = run.start + wanted.at - run.laid
        if run.start < place < run.end:
            return SetSplices(((Meeting(run.recording, place, run.recording, place), Splice(0)),))
    raise Problem("nothing-to-part", "Nothing is heard on both sides of this place. Choose one within what is kept.")


def _adjust(session: Session, opened: Opened, wanted: AdjustIn) -> Operation:
    """One level for each stretch of the range that is of a recording with that track."""
    stretches = [
        Level(run.recording, track, run.start + begin - run.laid, run.start + end - run.laid, wanted.decibels)
        for run in opened.edition.runs(struck=True)
        if not is_rest(run.recording)
        for begin, end in [(max(wanted.begin, run.laid), min(wanted.end, run.laid + run.end - run.start))]
        if begin < end
        for track in ([wanted.track] if wanted.track else tracks_of(session, run.recording))
    ]
    if not stretches:
        raise Problem("no-track", "Nothing of that track is heard in the range. Select again and repeat it.")
    return Adjust(tuple(stretches))


def _restore(session: Session, opened: Opened, wanted: RestoreIn) -> Operation:
    """The edition as it was, its words included: what was corrected in its own history since is taken back."""
    editions = context().workshop.home.editions
    known = editions.as_it_was(session, opened.id, wanted.revision)
    _, changes = editions.words_as_they_were(session, opened.id, wanted.revision)
    what = f"how it was at step {wanted.revision}"
    if others := _also_shown_in(session, opened, changes):
        names = " and ".join(f"“{name}”" for name in others)
        what += f", words too, which {names} {'show' if len(others) > 1 else 'shows'} as well"
    become = Become(known.pieces, known.splices, known.levels, what)
    return Together((become, Retype(tuple(changes)))) if changes else become


def _also_shown_in(session: Session, opened: Opened, changes: Sequence[Change]) -> list[str]:
    """The names of other editions that show the words of ``changes``."""
    changed = {change.recording for change in changes}
    changed |= {track.session_id for name in changed if (track := session.get(TrackRow, name))}
    row = session.get_one(EditionRow, opened.id)
    editions = context().workshop.home.editions
    others = [each for each in row.episode.editions if each.id != row.id] if changed else []
    return [each.name for each in others if changed & set(editions.open(session, each.id).edition.recordings)]


def _correcting(correct: Callable[[Session, Opened, Corrections, Any], None]) -> Callable[..., Operation]:
    def make(session: Session, opened: Opened, wanted: AnyOperation) -> Operation:
        corrections = Corrections(session, opened.edition, context().workshop.home.transcripts)
        correct(session, opened, corrections, wanted)
        return corrections.operation

    return make


def _retype(_session: Session, _opened: Opened, corrections: Corrections, wanted: RetypeIn) -> None:
    for laid in _ranges(wanted.ranges):
        corrections.retype(laid, wanted.text)


def _give_voice(session: Session, opened: Opened, corrections: Corrections, wanted: GiveVoiceIn) -> None:
    voice = _voice(session, opened, wanted.voice)
    corrections.give_voice((wanted.begin, wanted.end), voice.id, onward=wanted.onward)


def _voice(session: Session, opened: Opened, wanted: str) -> Voice:
    """The voice with an id or a name; a name that nobody has yet makes a new one."""
    show = session.get_one(EditionRow, opened.id).episode.show
    known = next((voice for voice in show.voices if wanted.casefold() in (voice.id, voice.name.casefold())), None)
    return known or new_voice(session, show.id, wanted)


_MAKERS: dict[type, Callable[[Session, Opened, Any], Operation]] = {
    StrikeIn: _strike,
    TidyIn: _tidy,
    PutBackIn: lambda _session, _opened, wanted: PutBack(_ranges(wanted.ranges)),
    LiftIn: lambda _session, _opened, wanted: Lift(_ranges(wanted.ranges)),
    MoveIn: lambda _session, _opened, wanted: Move(_ranges(wanted.ranges), wanted.to),
    InsertIn: _insert,
    RestIn: _rest,
    CardIn: _card,
    TrimIn: lambda _session, _opened, wanted: Trim(wanted.at, wanted.before, wanted.after),
    SlipIn: lambda _session, _opened, wanted: Slip(wanted.at, wanted.by),
    SpliceIn: _splice,
    PartIn: _part,
    AdjustIn: _adjust,
    TrackLevelIn: lambda _session, _opened, wanted: Adjust((), ((wanted.track, wanted.decibels),)),
    RestoreIn: _restore,
    RetypeIn: _correcting(_retype),
    GiveVoiceIn: _correcting(_give_voice),
    AcceptIn: _correcting(lambda _s, _o, corrections, wanted: corrections.accept((wanted.begin, wanted.end))),
    PassageIn: _correcting(lambda _s, _o, corrections, wanted: corrections.begin_passage(wanted.at, wanted.begins)),
    EdgesIn: _correcting(lambda _s, _o, corrections, wanted: corrections.set_edges(wanted.at, wanted.begin, wanted.end)),
}
