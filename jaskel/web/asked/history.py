"""Going back to an earlier state."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import Field

from jaskel.core.operations import Become, Operation, Retype, Together
from jaskel.core.retype import Change
from jaskel.store.models import EditionRow, TrackRow
from jaskel.web.asked.asked import Asked, Floor, asked


@asked
class RestoreIn(Asked):
    """Be as at an earlier revision; what came after stays in the history."""

    kind: Literal["restore"]
    revision: Annotated[int, Field(ge=1, le=2**31)]

    def carried(self, _since: Any) -> RestoreIn:
        return self

    def operation(self, floor: Floor) -> Operation:
        """The edition as it was, its words included: what was corrected in its own history since is taken back."""
        editions = floor.context.workshop.home.editions
        known = editions.as_it_was(floor.session, floor.opened.id, self.revision)
        _, changes = editions.words_as_they_were(floor.session, floor.opened.id, self.revision)
        what = f"how it was at step {self.revision}"
        if others := _also_shown_in(floor, changes):
            names = " and ".join(f"“{name}”" for name in others)
            what += f", words too, which {names} {'show' if len(others) > 1 else 'shows'} as well"
        become = Become(known, what)
        return Together((become, Retype(tuple(changes)))) if changes else become


def _also_shown_in(floor: Floor, changes: Sequence[Change]) -> list[str]:
    """The names of other editions that show the words of ``changes``."""
    session = floor.session
    changed = {change.recording for change in changes}
    changed |= {track.session_id for name in changed if (track := session.get(TrackRow, name))}
    row = session.get_one(EditionRow, floor.opened.id)
    editions = floor.context.workshop.home.editions
    others = [each for each in row.episode.editions if each.id != row.id] if changed else []
    return [each.name for each in others if changed & set(editions.open(session, each.id).edition.recordings)]
