"""What something is about, in its own words: titles of chapters, keywords, and the people and places that are named."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from math import log

import numpy as np

from jaskel.core.reuse.sentences import Sentence
from jaskel.core.tidy.finding import set_of

Means = Callable[[Sequence[str]], np.ndarray]
"""What texts mean, shape (texts, directions), each of length 1."""

LONGEST = 4
"""Words of a phrase."""

LOOKED_AT = 60
"""So many phrases that are told apart by counting are then compared by what they mean."""

EMPTY = set_of(
    """
    a an the this that these those some any each every no not none all both few more most other another such own same
    only just even i me my mine myself we us our ours ourselves you your yours yourself he him his himself she her hers
    herself it its itself they them their theirs themselves who whom whose which what where when why how there here then
    now am is are was were be been being do does did doing done have has had having will would shall should can could
    may might must and but or nor so if because as until while of at by for with about against between into through
    during before after above below to from up down in out on off over under again further once than too very i'm i've
    i'd i'll you're you've you'd you'll he's she's it's we're we've we'd we'll they're they've that's there's here's
    what's don't doesn't didn't isn't aren't wasn't weren't haven't hasn't hadn't won't wouldn't can't cannot couldn't
    shouldn't let's really actually basically quite rather almost always never ever often sometimes usually maybe
    perhaps probably well oh okay ok yes yeah no yep um uh er hm mm like also still already yet though although however
    anyway whatever get gets got getting go goes going went gone come comes came coming make makes made making take
    takes took taken taking put puts say says said saying tell tells told know knows knew known think thinks thought see
    sees saw seen look looks looked want wants wanted need needs needed let keep keeps kept give gives gave given find
    finds found feel feels felt seem seems seemed try tries tried use uses used ask asks asked mean means meant call
    calls called bring brings brought learn learns learned walk walks cut cuts thing things something anything
    everything nothing somebody anybody everybody nobody someone anyone everyone lot lots bit kind sort way ways one
    ones two three four five six seven eight nine ten twenty thirty forty fifty hundred much many little good bad great
    big small new old first last next right left back long time times day days year years people man woman mr mrs ms dr
    today yesterday tomorrow morning
    """
)
"""English words that are about nothing by themselves. A phrase neither begins nor ends with one."""

INSIDE = set_of("of the a an in on for and to with at by")
"""Those that may stand within a phrase."""

_WORD = re.compile(r"[^\W_]+(?:['’-][^\W_]+)*")
_CLAUSE = re.compile(r"[,;:.!?…()\[\]\"“”«»—–]+")


def phrases_in(text: str) -> Iterator[str]:
    """The phrases of a text, as they are written."""
    for clause in _CLAUSE.split(text):
        words = _WORD.findall(clause)
        for first in range(len(words)):
            for last in range(first + 1, min(first + LONGEST, len(words)) + 1):
                phrase = words[first:last]
                low = [word.casefold().replace("’", "'") for word in phrase]
                if _empty(low[0]) or _empty(low[-1]) or any(_empty(word) and word not in INSIDE for word in low[1:-1]):
                    continue
                yield " ".join(phrase)


def _empty(word: str) -> bool:
    return word in EMPTY or len(word) < 3 or word.isdigit()


def titles_of(sentences: Sequence[Sentence], meanings: np.ndarray, begins: Sequence[int], means: Means) -> list[str]:
    """A title for each chapter: of the phrases said more in it than elsewhere, the one nearest to all that it means."""
    chapters = [slice(begin, end) for begin, end in zip(begins, [*begins[1:], len(sentences)], strict=True)]
    counted = [_counted(sentences[chapter]) for chapter in chapters]
    spread = Counter(phrase for phrases in counted for phrase in phrases)
    titles: list[str] = []
    for chapter, phrases in zip(chapters, counted, strict=True):
        likely = _likeliest(phrases, spread, len(chapters))
        about = meanings[chapter].sum(0)
        fresh = [phrase for phrase in likely if _written(phrase) not in titles]
        titles.append(_written(_nearest(fresh, phrases, about, means)) if fresh else _opening(sentences[chapter.start]))
    return titles


def keywords(sentences: Sequence[Sentence], count: int = 12) -> list[str]:
    """What is spoken of, the most telling first; none that says the same as another."""
    counted = _counted(sentences)
    found: list[str] = []
    for phrase in _likeliest(counted, Counter(), 1, 6 * count):
        parts = set(phrase.casefold().split())
        if all(not parts & set(other.casefold().split()) for other in found):
            found.append(phrase)
        if len(found) == count:
            break
    return found


def names_in(sentences: Sequence[Sentence]) -> list[str]:
    """People, places and other things that have a name, by their capitals; those named oftener first."""
    seen: Counter[str] = Counter()
    for sentence in sentences:
        begins = True
        for clause in _CLAUSE.split(sentence.text):
            for run, opens in _capitals(_WORD.findall(clause)):
                # A capital at the beginning of a sentence says nothing unless a name goes on from it.
                if len(run) > 1 or not (begins and opens):
                    seen[" ".join(run)] += 1
            begins = begins and not clause.strip()
    return [name for name, _ in sorted(seen.items(), key=lambda item: (-item[1], item[0]))]


def _capitals(words: Sequence[str]) -> Iterator[tuple[list[str], bool]]:
    """The runs of words with a capital, and whether the first word is among them."""
    run: list[str] = []
    for at, word in enumerate([*words, ""]):
        if len(word) > 1 and word[0].isupper() and word.casefold().replace("’", "'") not in EMPTY:
            run.append(word)
            continue
        if run:
            yield run, len(run) == at
        run = []


def _counted(sentences: Sequence[Sentence]) -> dict[str, tuple[int, str]]:
    """How often each phrase is said, whatever its capitals, and how it was written first."""
    found: dict[str, tuple[int, str]] = {}
    for sentence in sentences:
        for phrase in phrases_in(sentence.text):
            key = phrase.casefold()
            times, written = found.get(key, (0, phrase))
            found[key] = times + 1, written
    return found


def _likeliest(counted: dict[str, tuple[int, str]], spread: Counter[str], of: int, most: int = LOOKED_AT) -> list[str]:
    def worth(key: str) -> float:
        times, _ = counted[key]
        rare = log(1 + of / spread[key]) if spread[key] else 1.0
        words = len(key.split())
        # A phrase of two or three words says more than one word, and is said less often.
        return (times if words > 1 else times - 0.6) * rare * (1 + 0.35 * (words > 1) - 0.15 * (words > 3))

    return [counted[key][1] for key in sorted(counted, key=lambda key: (-worth(key), key))[:most]]


def _nearest(phrases: Sequence[str], counts: dict[str, tuple[int, str]], about: np.ndarray, means: Means) -> str:
    """The phrase that means most of what is meant, among those that are said oftenest."""
    alike = means(phrases) @ (about / max(1e-9, float(np.linalg.norm(about))))
    often = np.array([_often(phrase, counts) for phrase in phrases])
    words = np.array([len(phrase.split()) for phrase in phrases])
    return phrases[int((alike + 0.3 * often + 0.2 * (words > 1)).argmax())]


def _often(phrase: str, counts: dict[str, tuple[int, str]]) -> float:
    """How often a phrase is said, or the words in it on average, 0 to 1."""
    parts = [counts.get(word, (0, ""))[0] for word in phrase.casefold().split() if word not in INSIDE]
    return min(1.0, max(counts[phrase.casefold()][0], sum(parts) / max(1, len(parts))) / 4)


def _written(phrase: str) -> str:
    return phrase[:1].upper() + phrase[1:]


def _opening(sentence: Sentence) -> str:
    """How a chapter begins, where nothing in it tells what it is about."""
    words = sentence.text.split()
    return _written(" ".join(words[:6]).rstrip(",.;:!?")) + ("" if len(words) <= 6 else " …")


_LINK = re.compile(
    r"\b((?:https?://)?(?:[a-z0-9](?:[a-z0-9-]*[a-z0-9])?(?:\.| dot ))+"
    r"(?:com|org|net|edu|gov|info|io|dev|app|fm|tv|co|eu|uk|us|de|fr|es|it|pt|nl|ru|at|ch|ie|ca|au|nz|example|test)"
    r"(?:(?: slash |/)[\w%/-]+)*)\b",
    re.IGNORECASE,
)


def links_in(sentences: Sequence[Sentence]) -> list[str]:
    """Addresses that are named, written or spoken ("dryhull dot example slash plans"), each once, as one types them."""
    found: dict[str, None] = {}
    for sentence in sentences:
        for each in _LINK.findall(sentence.text):
            found.setdefault(re.sub(r" dot ", ".", re.sub(r" slash ", "/", each, flags=re.IGNORECASE), flags=re.IGNORECASE))
    return [*found]
