"""The cutaways of an edition."""

from __future__ import annotations

from sqlalchemy.orm import Session

from jaskel.core.edition import Edition
from jaskel.core.marks.anchor import Place
from jaskel.core.marks.cutaway import Cutaway
from jaskel.core.places import Places
from jaskel.store.models import Recording
from jaskel.web.schemas.cutaways import CutawayFields, CutawayOut


def cutaways_out(session: Session, edition: Edition) -> list[CutawayOut]:
    """The cutaways of an edition, by their words; those whose words are not in it come last."""
    found = edition.marks.all(Cutaway)
    places = Places(edition) if found else None
    out = []
    for each in found:
        known = session.get(Recording, each.shown)
        begin, end = (_laid(places, place, ends=ends) for place, ends in ((each.begins, False), (each.ends, True)))
        here = begin is not None and end is not None and begin < end
        out.append(
            CutawayOut(
                id=each.id,
                recording=each.shown,
                name=known.name if known else "",
                kind="still" if known and not known.length else "film",
                begin=begin if here else None,
                end=end if here else None,
                **{name: getattr(each, name) for name in CutawayFields.model_fields},
            )
        )
    return sorted(out, key=lambda each: (each.begin is None, each.begin))


def _laid(places: Places | None, place: Place, *, ends: bool) -> int | None:
    found = places.of(Place(place.recording, place.at - ends)) if places else []
    return found[0][0] + ends if found else None
