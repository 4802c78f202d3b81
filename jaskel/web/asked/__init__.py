"""What is asked of an edition over the wire, and the operation of the core it comes down to.

Operations of the core that are ``asked`` for just as they are have their request made from their fields (:mod:`.plain`). What
needs more (the words on the page, a better place for a join, findings by their ids) is a class derived from
:class:`~jaskel.web.asked.asked.Asked`, in a module that is named here. The OpenAPI document is made from all of them.
"""

from functools import reduce
from operator import or_
from typing import Annotated, Any

from pydantic import Field

from jaskel.web.asked import (
    beds,
    breaks,
    cameras,
    captions,
    cutaways,
    graphics,
    history,
    joins,
    locks,
    pickups,
    pieces,
    plain,
    shots,
    sound,
    splices,
    tidy,
    words,
)
from jaskel.web.asked.asked import ASKED, Asked, Floor
from jaskel.web.schemas.common import Revision
from jaskel.web.schemas.editions import LookedFor

AnyAsked: Any = reduce(or_, ASKED)
"""The union of all requests, told apart by their ``kind``."""


class OperationIn(LookedFor):
    """``revision`` is what the operation was made on."""

    revision: Revision
    operation: Annotated[AnyAsked, Field(discriminator="kind")]


__all__ = [
    "ASKED",
    "AnyAsked",
    "Asked",
    "Floor",
    "OperationIn",
    "beds",
    "breaks",
    "cameras",
    "captions",
    "cutaways",
    "graphics",
    "history",
    "joins",
    "locks",
    "pickups",
    "pieces",
    "plain",
    "shots",
    "sound",
    "splices",
    "tidy",
    "words",
]
