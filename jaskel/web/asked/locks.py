"""Locked passages."""

from __future__ import annotations

from typing import Any, Literal

from jaskel.core.marks.lock import Lock
from jaskel.core.operations import Operation, SetMarks
from jaskel.core.problem import Problem
from jaskel.core.roles import Right
from jaskel.store.models import EditionRow, new_id
from jaskel.web.asked.asked import Asked, Floor, asked
from jaskel.web.gate import asking
from jaskel.web.schemas.common import Ranges
from jaskel.web.stretches import stretches_in


@asked
class LockIn(Asked):
    """Lock ranges: until they are unlocked, only who locked them changes what stands there."""

    kind: Literal["lock"]
    ranges: Ranges

    def operation(self, floor: Floor) -> Operation:
        person = asking()
        if not person.id:
            raise Problem("no-team", "Passages are locked against others, and there are no accounts here.")
        stretches = stretches_in(floor.opened.edition.kept_runs, [(each.begin, each.end) for each in self.ranges])
        if not stretches:
            raise Problem("nothing-there", "There is no recorded sound in what is selected. Select words.")
        lock = Lock(new_id(), stretches, person.id, person.name)
        return SetMarks.of({lock.id: lock}, "locked a passage")


@asked
class UnlockIn(Asked):
    """Unlock a passage; an owner of the show unlocks those of others, too."""

    kind: Literal["unlock"]
    id: str

    def carried(self, _since: Any) -> UnlockIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        lock = floor.opened.edition.marks.get(self.id)
        if not isinstance(lock, Lock):
            raise Problem("no-lock", "This passage was unlocked meanwhile.")
        show = floor.session.get_one(EditionRow, floor.opened.id).episode.show_id
        if lock.by != asking().id and Right.OWN not in asking().rights_in(show):
            raise Problem("locked", f"{lock.who} has locked this passage. Ask them, or an owner of the show, to unlock it.")
        return SetMarks.of(
            {lock.id: None}, f"unlocked a passage of {lock.who}’s" if lock.by != asking().id else "unlocked a passage"
        )
