"""Where a line may break, by the words on either side: small words that lead into the next, conjunctions, names, numbers."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise

from jaskel.core.tidy.finding import set_of

LEADS = set_of("""
    a an the my your his her its our their this that these those no every each some any very so too as more most not
    of in on at by for from with to into onto over under about after before between through without against during
    i you he she it we they is are was were be been am has have had do does did will would can could should may might must
    der die das den dem des ein eine einen einem einer kein keine mein meine dein ihr ihre sein seine unser von zu mit im
    am an auf aus bei nach über unter für gegen ohne um durch ist sind war waren hat habe haben wird werden kann
    le la les un une du de d' au aux ce cet cette ces mon ma mes ton ta tes son sa ses notre votre leur leurs
    à dans sur sous avec pour par sans chez vers je tu il elle on nous vous ils elles est sont était ont ne se
    el los las una unos unas al del mi su sus en con por para sin sobre es é lo gli uno nel della dei delle
    di da che è sono ha o os as um uma uns umas do dos das no na nos nas ao em com sem
    het een mijn jouw zijn haar ons van op met voor naar uit bij te в во на с со к ко об от до из за у по для без не
""")
"""Words that belong to what follows: nobody pauses after them. English, German, French, Spanish, Italian, Portuguese, Dutch,
Russian."""

JOINS = set_of("""
    and but or nor because so although though while when where if unless until since which who whom whose that than
    und aber oder weil dass wenn als obwohl et mais ou parce que qui quand si y pero porque cuando e ma perché quando mas
    en maar omdat dat wanneer а но или потому что когда если который
""")
"""Words that begin a clause: a line breaks well before them."""

PREPOSITIONS = set_of("""
    of in on at by for from with to into onto over under about after before between through without against during
    von zu mit auf aus bei nach über unter für gegen ohne durch dans sur sous avec pour par sans chez vers con por para
    sobre di da su per tra em com sem van op met voor naar uit bij в на с к от до из за для без
""")

_BARE = re.compile(r"^\W+|\W+$")
_NUMBER = re.compile(r"\d")
_UNITS = set_of(
    "% ° °c m mm cm km g kg l ml hz khz db gb mb metre metres foot feet mile miles hour hours minute minutes second seconds"
    " year years day days pound pounds euro euros dollar dollars million billion thousand o'clock am pm per percent"
)

WELL, CLAUSE, JOIN, PREPOSITION, ANYWHERE, LEADING, TOGETHER = 0.0, 1.0, 2.0, 4.0, 8.0, 24.0, 60.0
"""What a break costs: after a sentence, after a clause, before a conjunction, before a preposition, elsewhere, after a word
that leads into the next, and within a name or a number."""


def bare(text: str) -> str:
    """A word without what stands around it, in small letters."""
    return _BARE.sub("", text).casefold().replace("’", "'")


def costs(texts: Sequence[str]) -> list[float]:
    """What it costs to break before each of these words; before the first it costs nothing.

    >>> costs(["So", "the", "boat,", "and", "Tarn", "Hythe", "12", "metres"])
    [0.0, 24.0, 24.0, 1.0, 8.0, 60.0, 8.0, 60.0]
    """
    found = [0.0]
    for before, after in pairwise(texts):
        found.append(_cost(before, after))
    return found


def _cost(before: str, after: str) -> float:
    stripped = before.rstrip("\"'”’)]»")
    if stripped.endswith((".", "?", "!", "…", "。", "？", "！")):
        return WELL
    if stripped.endswith((",", ";", ":", "–", "—", "，", "、", "；")):
        return CLAUSE
    first, second = bare(before), bare(after)
    if _NUMBER.search(first) and (_NUMBER.search(second) or (second in _UNITS or after.strip(".,;:!?") in _UNITS)):
        return TOGETHER
    if _named(before) and _named(after):
        return TOGETHER
    if first in LEADS:
        return LEADING if second not in JOINS else PREPOSITION
    if second in JOINS:
        return JOIN
    if second in PREPOSITIONS:
        return PREPOSITION
    return ANYWHERE


def _named(text: str) -> bool:
    """Whether a word looks like a part of a name: a capital, and more than a sentence's "I"."""
    plain = _BARE.sub("", text)
    return len(plain) > 1 and plain[0].isupper() and plain.casefold() not in LEADS
