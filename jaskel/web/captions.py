"""The captions of an edition, as the page shows them."""

from __future__ import annotations

from jaskel.core.captions.check import Trouble, checked
from jaskel.core.captions.cues import Cue
from jaskel.core.marks.captions import caption_rules
from jaskel.core.plan import Plan
from jaskel.store.models import EditionRow
from jaskel.store.sessions import shown_name
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.captions import CueOut, CuesOut, FaultOut
from jaskel.web.schemas.common import EditionPath
from jaskel.web.serializers import reply

api = resource("captions", __name__)


@api.get("/editions/<edition_id>/cues", responses={200: CuesOut})
def listed(path: EditionPath):  # type: ignore[no-untyped-def]
    """The captions of an edition by its rules, and what is wrong with them."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened)
        show = session.get_one(EditionRow, path.edition_id).episode.show
        names = {voice.id: shown_name(voice) for voice in show.voices}
    made = plan.captions(names)
    faults: dict[int, list[Trouble]] = {}
    for each in checked(made, caption_rules(plan.edition.marks)):
        faults.setdefault(each.cue, []).append(each)
    return reply(CuesOut(cues=[_out(plan, cue, faults.get(number, [])) for number, cue in enumerate(made)]))


def _out(plan: Plan, cue: Cue, faults: list[Trouble]) -> CueOut:
    return CueOut(
        start=cue.start,
        end=cue.end,
        begin=plan.laid_at(cue.start),
        until=plan.laid_at(cue.words[-1].end - 1) + 1 if cue.words else plan.laid_at(cue.end - 1) + 1,
        lines=[*cue.lines],
        breaks=[plan.laid_at(at) for at in cue.line_starts],
        voice=cue.voice,
        rate=round(cue.rate, 1),
        faults=[FaultOut(fault=each.fault, told=each.told) for each in faults],
    )
