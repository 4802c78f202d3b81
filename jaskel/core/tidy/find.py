"""All kinds of findings together: what lies within one that takes more out is not listed by itself."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from dataclasses import replace
from itertools import accumulate, pairwise

from jaskel.core.tidy.chatter import chatter
from jaskel.core.tidy.empty import empty_words
from jaskel.core.tidy.fillers import FILLERS, doubled, fillers, unspoken, voice_between
from jaskel.core.tidy.finding import KINDS, Finding, Kind, Stretch, Take, plain
from jaskel.core.tidy.heard import NOTHING, Heard, breath_findings, breaths_between, laughter
from jaskel.core.tidy.passages import passages_again, reach
from jaskel.core.tidy.rests import long_rests
from jaskel.core.tidy.retakes import retakes
from jaskel.core.tidy.said_twice import said_twice
from jaskel.core.tidy.script import Followed, follow
from jaskel.core.tidy.settings import TidySettings, rhythm_of, thresholds
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

Loudness = Callable[[Ticks, Ticks], float]
"""Mean level of a stretch, in any unit that grows with loudness."""

HESITATES: Ticks = RATE * 6 // 10
"""A rest this long within a take is a hesitation."""

WHOLE = 0.8
"""A take is complete that is so long as the longest one."""

LATEST: Ticks = 5 * RATE
"""Voice so long after the last word is more likely not transcribed yet than a hesitation."""


def find(
    words: Sequence[Word],
    heard: Heard = NOTHING,
    settings: TidySettings | None = None,
    kinds: Collection[Kind] = KINDS,
    loudness: Loudness | None = None,
    script: Sequence[str] = (),
) -> list[Finding]:
    """Everything that could be tidied in a recording, in order of time, without what would go with something larger.

    Parameters
    ----------
    words
        What was said, in order.
    heard
        What there is besides words; without it voice without words and breaths are not looked for.
    settings
        What counts as what.
    kinds
        Which kinds are looked for.
    loudness
        Tells which of several takes is the loudest.
    script
        The words of what was meant to be said: of several takes the one nearest to it is proposed.
    """
    return outermost(find_all(words, heard, settings, kinds, loudness, script))


def find_all(
    words: Sequence[Word],
    heard: Heard = NOTHING,
    settings: TidySettings | None = None,
    kinds: Collection[Kind] = KINDS,
    loudness: Loudness | None = None,
    script: Sequence[str] = (),
) -> list[Finding]:
    """The same with what lies within larger findings: which of them hide it depends on how they were judged."""
    settings = settings or TidySettings()
    if not words:
        return []  # voice without words tells nothing where nothing was transcribed
    voice = _voice(words, heard)
    said = [word for word in words if not word.is_sound]
    found: list[Finding] = []
    if "chatter" in kinds:
        found += chatter(said, settings.remarks)
    if "retake" in kinds:
        found += _again(said, settings.cues, script, loudness)
    if "filler" in kinds:
        found += fillers(said, settings.fillers)
    if "doubled" in kinds:
        found += doubled(said, settings.doubled)
    if "empty word" in kinds and settings.empty_words:
        found += empty_words(said)
    if "voice without words" in kinds:
        found += unspoken(words, voice)
    found = _at_known_places(found, words)
    if "long rest" in kinds:
        found += find_rests(words, heard, settings)
    if "breath" in kinds and settings.soften_breaths:
        found += breath_findings(words, heard.breaths)
    return sorted(found, key=lambda each: each.start)


def find_rests(words: Sequence[Word], heard: Heard, settings: TidySettings) -> Iterator[Finding]:
    """Long rests. They are measured between all sounds.

    A hesitation between two rests takes the shorter one along (see ``cut.py``); how long the other may be is another question.
    """
    spoken = (Word("", *each) for each in voice_between(words, _voice(words, heard)))
    sounds = sorted([*words, *spoken], key=lambda word: word.start)
    breaths = list(breaths_between(words, heard.breaths))
    laughs = laughter(words, heard.bursts) if settings.keep_laughter else ()
    limits = thresholds(rhythm_of(words), settings)
    return long_rests(sounds, limits, breaths, laughs, keep_answers=settings.keep_answers)


def _voice(words: Sequence[Word], heard: Heard) -> list[Stretch]:
    """Where there is voice; what comes after the last word may only not be transcribed yet."""
    return [stretch for stretch in heard.voice if words and stretch[1] <= words[-1].end + LATEST]


def outermost(findings: Sequence[Finding], stands: Callable[[Finding], bool] = lambda _: True) -> list[Finding]:
    """Findings without those that go with a larger one that ``stands``: one that was refused takes nothing along."""
    at_ends = [each for each in findings if each.kind == "chatter"]
    again = [each for each in findings if each.kind == "retake"]
    again = _outside(again, _parts(filter(stands, at_ends)))
    whole = _parts(filter(stands, [*at_ends, *again]))
    small = [each for each in findings if each.kind not in ("chatter", "retake", "long rest", "breath")]
    small = _outside(small, whole)
    # Of rests and breaths those are none of their own that so much as touch what goes.
    rests = _apart([each for each in findings if each.kind == "long rest"], whole)
    gone = _parts(filter(stands, [*at_ends, *again, *small, *rests]))
    breaths = _apart([each for each in findings if each.kind == "breath"], gone)
    return sorted([*at_ends, *again, *small, *rests, *breaths], key=lambda each: each.start)


def _apart(findings: Iterable[Finding], gone: _Gone) -> list[Finding]:
    return [each for each in findings if not any(gone.at(each.start, each.end))]


def _at_known_places(findings: Sequence[Finding], words: Sequence[Word]) -> list[Finding]:
    """Without those that would be cut beside a loose word: where that begins and ends is only a guess."""
    guessed = {edge for word in words if word.loose for edge in (word.start, word.end)}
    return [each for each in findings if each.start not in guessed and each.end not in guessed]


def _again(words: Sequence[Word], cues: Collection[str], script: Sequence[str], loudness: Loudness | None) -> list[Finding]:
    """The lines of a script that were read several times, and what else was begun again: also within what stays of a line."""
    attempts = _attempts(words, cues)
    read = readings(words, follow(words, script), attempts, loudness)
    gone = _parts(read)
    others = [
        each for each in attempts if not any(gone.at(each.start, each.end)) and not any(_is_stay(each, group) for group in read)
    ]
    return [*read, *takes(words, others, loudness)]


def _attempts(words: Sequence[Word], cues: Collection[str]) -> list[Finding]:
    """What was begun again or said again; attempts within a passage that goes as a whole go with that."""
    passages = list(passages_again(words, cues))
    twice = [each for each in said_twice(words) if not any(each.start < a.end and each.end > a.start for a in passages)]
    # What seems to be begun again across a sentence that was said twice is that sentence, and so with passages.
    begun = [
        each
        for each in _outside(retakes(words, cues), _parts(passages))
        if not any(each.start < a.end and each.end > a.start for a in twice)
        and not any(a.start < each.start < a.end < each.end for a in passages)
    ]
    return sorted([*passages, *twice, *begun], key=lambda each: each.start)


def readings(
    words: Sequence[Word], followed: Followed, attempts: Sequence[Finding], loudness: Loudness | None = None
) -> list[Finding]:
    """Lines of a script that were read several times, with the takes of each. Attempts right before a take are takes, too."""
    out: list[Finding] = []
    for line in followed.lines:
        if line.pick is None:
            continue
        stays, all_takes = line.takes[line.pick], list(line.takes)
        for attempt in reversed(attempts):
            if any(attempt.end == take.start for take in all_takes) and not any(
                attempt.start < take.end and attempt.end > take.start for take in all_takes
            ):
                all_takes.append(Take(attempt.start, attempt.end, attempt.text))
        if len(all_takes) > 1:
            all_takes.sort(key=lambda take: take.start)
            out.append(_group(words, all_takes, all_takes.index(stays), "nearest to the script", loudness))
    return out


def _is_stay(attempt: Finding, group: Finding) -> bool:
    """Whether an attempt is what stays of a group of takes, and no stumble within it."""
    stays = group.takes[group.pick]
    inside = min(attempt.end, stays.end) - max(attempt.start, stays.start)
    return inside * 2 > stays.end - stays.start


def takes(words: Sequence[Word], attempts: Iterable[Finding], loudness: Loudness | None = None) -> list[Finding]:
    """Attempts in groups: those that follow one another, with the take that was not given up at the end of each."""
    starts = {word.start: index for index, word in enumerate(words)}
    groups: list[list[Finding]] = []
    for attempt in attempts:
        if groups and groups[-1][-1].end == attempt.start:
            groups[-1].append(attempt)
        else:
            groups.append([attempt])
    return [_with_final(words, group, starts[group[-1].end], loudness) for group in groups]


def _with_final(words: Sequence[Word], attempts: Sequence[Finding], first: int, loudness: Loudness | None) -> Finding:
    last = max(first + reach(words, _between(words, attempt.start, attempt.end), first) for attempt in attempts)
    while last + 1 < len(words) and not words[last].ends_sentence and words[last + 1].voice == words[first].voice:
        last += 1
    final = Take(words[first].start, words[last].end, " ".join(word.text for word in words[first : last + 1]))
    all_takes = [*(Take(attempt.start, attempt.end, attempt.text) for attempt in attempts), final]
    given_up = ", ".join(dict.fromkeys(attempt.why for attempt in attempts))
    group = _group(words, all_takes, len(attempts), "", loudness, given_up)
    return replace(group, twice=all(attempt.twice for attempt in attempts))


def _group(
    words: Sequence[Word],
    all_takes: Sequence[Take],
    pick: int,
    besides: str,
    loudness: Loudness | None,
    given_up: str = "",
) -> Finding:
    """Takes as one finding.

    ``besides`` is what speaks for the one that stays beside what can be told from all of them, ``given_up`` what tells that the
    others were.
    """
    told = _reasons(words, all_takes, loudness)
    if besides:
        told[pick] = replace(told[pick], why=(*told[pick].why, besides))
    text = " ".join(take.text for number, take in enumerate(all_takes) if number != pick)
    which = "the last" if pick == len(all_takes) - 1 else f"number {pick + 1}"
    begun = f"begun {len(all_takes)} times{f' ({given_up})' if given_up else ''}"
    why = f"{begun}; {which} is {', '.join(told[pick].why) or 'proposed'}"
    return Finding("retake", all_takes[0].start, all_takes[-1].end, text, why=why, takes=tuple(told), pick=pick)


def _reasons(words: Sequence[Word], all_takes: Sequence[Take], loudness: Loudness | None) -> list[Take]:
    """The takes with what speaks for each of them."""
    told: list[list[str]] = []
    said = [_between(words, take.start, take.end) for take in all_takes]
    longest = max(len(each) for each in said)
    levels = [loudness(take.start, take.end) for take in all_takes] if loudness else []
    for number, each in enumerate(said):
        why: list[str] = []
        if each[-1].ends_sentence and len(each) >= WHOLE * longest:
            why.append("complete")
        rests = any(after.start - before.end >= HESITATES for before, after in pairwise(each))
        if not rests and not any(plain(word.text) in FILLERS for word in each):
            why.append("fluent")
        if number == len(said) - 1:
            why.append("last")
        if levels and levels[number] == max(levels):
            why.append("loudest")
        told.append(why)
    return [
        replace(take, why=tuple(why), rest=max(0, take.end - each[-1].end))
        for take, why, each in zip(all_takes, told, said, strict=True)
    ]


class _Gone:
    """Stretches that go, to be asked which of them lie at a place."""

    def __init__(self, stretches: Iterable[Stretch]) -> None:
        self._stretches = sorted(stretches)
        self._ends = list(accumulate((end for _, end in self._stretches), max))

    def at(self, start: Ticks, end: Ticks) -> Iterator[Stretch]:
        first = bisect_right(self._ends, start)
        for stretch in self._stretches[first:]:
            if stretch[0] >= end:
                return
            yield stretch

    def covers(self, start: Ticks, end: Ticks) -> bool:
        return any(a <= start and end <= b for a, b in self.at(start, end))


def _parts(findings: Iterable[Finding]) -> _Gone:
    return _Gone(part for finding in findings for part in finding.gone())


def _between(words: Sequence[Word], start: Ticks, end: Ticks) -> Sequence[Word]:
    first = bisect_left(words, start, key=lambda word: word.start)
    return words[first : bisect_left(words, end, first, key=lambda word: word.start)]


def _outside(findings: Iterable[Finding], gone: _Gone) -> list[Finding]:
    return [each for each in findings if not gone.covers(each.start, each.end)]
