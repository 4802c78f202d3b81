"""The destinations that a show made for itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from fractions import Fraction

from jaskel.core.destination import Destination
from jaskel.store.models import Show


def destinations_of(show: Show) -> tuple[Destination, ...]:
    """A show's own destinations, in the order they were made."""
    return tuple(
        Destination(**each | {"beside": tuple(each["beside"]), "rate": Fraction(each["rate"])}) for each in show.destinations
    )


def keep_destinations(show: Show, own: Sequence[Destination]) -> None:
    """Store a show's own destinations."""
    show.destinations = [asdict(each) | {"beside": [*each.beside], "rate": str(each.rate)} for each in own]
