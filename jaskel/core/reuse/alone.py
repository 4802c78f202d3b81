"""How well something that was said stands alone: heard by somebody who did not hear what came before.

Written as a list of criteria, each of which can be told as the reason. The words are English; of other languages only the
criteria of form count (length, ends, questions).
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from jaskel.core.reuse.sentences import Sentence

SHORTEST, LONGEST = 6, 45
"""Words between which a sentence says something by itself, and can be followed."""


def _pattern(*parts: str) -> re.Pattern[str]:
    return re.compile("".join(parts), re.IGNORECASE)


_LINKS = _pattern(r"(and|but|so|or|because|cause|which|then|also|plus|although|though|whereas|yet|nor|that's why)\b")
_POINTS = _pattern(
    r"(this|that|these|those|it|it's|its|he|he's|she|she's|they|they're|them|his|her|their|him|there|here|such",
    r"|the (other|same|former|latter))(?!\w)",
    r"(?! (is|was|are|were) (a|an|no|nothing|something|one|two|three)\b)",
)
NAMELESS = _pattern(r"\b(this|that|these|those|it|he|she|they|them|him)\b")
_ANSWERS = _pattern(r"(yes|yeah|yep|no|nope|sure|exactly|right|absolutely|of course|true|correct|okay|ok|mm|mhm|uh-huh)\b")
_BACKWARDS = _pattern(r"\b(as i said|like i said|as we said|as mentioned|as you said|you said|the one i mentioned|again)\b")
_TALK = _pattern(
    r"\b(is it on|can you hear|hang on|hold on|let me start again|start again|sorry|one more time|are we recording",
    r"|thanks? (you )?for (coming|listening|having)|welcome (back )?to|good (morning|evening|afternoon)|my name is",
    r"|subscribe|see you)\b",
)
_HEDGES = _pattern(r"\b(um|uh|er|you know|i mean|sort of|kind of|whatever|or something|stuff)\b")
_OPENING = _pattern(r"^(well|so|oh|now|okay|right|look|you know|i mean|yeah|um|uh),? ")

_END = _pattern(r"(?<!\.\.)[.!?。！？][\"'”’)\]»]*$")
"""A full stop; three of them say that somebody broke off."""

HARMS = {
    "points back to what was said before": 0.5,
    "goes on from what was said before": 0.3,
    "answers a question that is not heard": 0.5,
    "asks and is not answered": 0.6,
    "is too short to say something": 0.5,
    "is long to follow": 0.25,
    "speaks of the talk itself": 0.6,
    "does not end": 0.3,
    "is hesitant": 0.15,
}
"""What speaks against it, and how much of 1 it costs."""


def harms(run: Sequence[Sentence]) -> Iterator[str]:
    """What speaks against a run of sentences that follow one another: keys of :data:`HARMS`."""
    first, last = run[0], run[-1]
    opening = first.text.lstrip("\"'“‘«(")
    words = sum(each.last - each.first for each in run)
    bare = _OPENING.sub("", opening)
    if _POINTS.match(bare) or _BACKWARDS.search(opening) or NAMELESS.search(" ".join(opening.split()[:5])):
        yield "points back to what was said before"
    if _LINKS.match(opening) and not first.asks:
        yield "goes on from what was said before"
    if _ANSWERS.match(opening):
        yield "answers a question that is not heard"
    if last.asks:
        yield "asks and is not answered"
    if words < SHORTEST:
        yield "is too short to say something"
    if max(each.last - each.first for each in run) > LONGEST:
        yield "is long to follow"
    if any(_TALK.search(each.text) for each in run):
        yield "speaks of the talk itself"
    if not _END.search(last.text):
        yield "does not end"
    if sum(len(_HEDGES.findall(each.text)) for each in run) * 8 > words:
        yield "is hesitant"


def alone(run: Sequence[Sentence]) -> float:
    """How well a run stands alone, 0 to 1."""
    return max(0.0, 1 - sum(HARMS[each] for each in harms(run)))
