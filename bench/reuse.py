"""What is proposed of what is said: borders of known subjects found again, every subject told, in time.

The texts are 299 short pieces of news that the package gensim carries for its own tests (the background corpus of Lee,
Pincombe and Welsh, "An empirical evaluation of models of text document similarity", 2005). Five to ten of them, chosen at
random, are one "episode", said at 160 words a minute.
"""

from __future__ import annotations

import json
import random
import re
import statistics
import subprocess
import sys
from collections import Counter
from collections.abc import Iterator, Sequence
from importlib import resources
from itertools import pairwise
from math import sqrt
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from bench.figure import Figure, timed
from jaskel.core.reuse.alone import harms
from jaskel.core.reuse.chapters import Density, borders
from jaskel.core.reuse.clips import LONGEST, SHORTEST, clips
from jaskel.core.reuse.highlights import Wish, highlights
from jaskel.core.reuse.outline import Wanted, outline
from jaskel.core.reuse.sentences import Sentence, sentences_of
from jaskel.core.reuse.shorter import least_missed
from jaskel.core.reuse.stretches import SAME_PLACE, SaidStretch, stretches_of
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word
from jaskel.speech.meaning import meanings_of
from jaskel.store.meant import PLACE, SIZE, MeantFiles

EPISODES = 30
NEWS = Density(10, 90)
"""Pieces of news are far shorter than chapters."""

WORD: Ticks = RATE * 60 // 160


def figures(_folder: Path) -> Iterator[Figure]:
    chance = random.Random(29)
    news = _news()
    told = [_Episode(chance.sample(news, chance.randint(5, 10))) for _ in range(EPISODES)]
    found = statistics.mean(pk(each.truth, borders(each.sentences, each.meanings, NEWS), len(each.sentences)) for each in told)
    tiling = statistics.mean(pk(each.truth, _tiled(each.sentences, len(each.truth)), len(each.sentences)) for each in told)
    yield Figure("borders of subjects: Pk", f"{found:.3f}", "≤ 0.25", found <= 0.25)
    yield Figure("the same by TextTiling, told how many there are", f"{tiling:.3f}", "", True)
    yield from _highlights(told)
    yield from _to_length(told)
    yield from _clips(told)
    yield from _found(news)
    yield from _quick()
    words = [word for each in _spaced(chance.sample(news, 60)) for word in each][:9600]
    seconds = timed(lambda: outline(words, meanings_of, Wanted(450 * RATE, 6, 10)))
    yield Figure("all proposals for an hour of speech", f"{seconds:.1f} s", "< 10 s", seconds < 10)
    yield from _memory(words)


class _Episode:
    """Pieces of news one after the other, what they mean, and with which sentences they begin."""

    def __init__(self, texts: Sequence[str]) -> None:
        said = [*_spaced(texts)]
        self.sentences = sentences_of([word for words in said for word in words])
        self.truth = [next(at for at, each in enumerate(self.sentences) if each.start >= words[0].start) for words in said]
        self.meanings = meanings_of([each.text for each in self.sentences])
        self.length = self.sentences[-1].end

    def subject(self, sentence: int) -> int:
        """The number of the piece that a sentence is in."""
        return sum(1 for begin in self.truth if begin <= sentence)


FIRST = 5

SAME_NEWS = 0.7
"""Two pieces so alike tell the same news: either answers a question about it."""


def _found(news: Sequence[str]) -> Iterator[Figure]:
    """Whether questions lead to what they ask about, among all the news.

    Each was written from what a piece is about, with none of its longer words where that could be helped. Several pieces tell
    the same news: those that are alike as wholes count, and those that were found to answer a question when they were read.
    """
    asked = json.loads((Path(__file__).parent / "questions.json").read_text())
    whole = meanings_of([" ".join(text.split()[:90]) for text in news])
    stretches = [(number, each) for number, words in enumerate(_spaced(news)) for each in stretches_of(words)]
    meanings = meanings_of([each.text for _, each in stretches])
    right = 0
    for question, (piece, *others) in asked:
        near: list[tuple[int, SaidStretch]] = []
        for at in np.argsort(-(meanings @ meanings_of([question])[0])):
            home, said = stretches[at]
            if not any(max(said.start, it.start) - min(said.end, it.end) < SAME_PLACE for _, it in near):
                near.append((home, said))
            if len(near) == FIRST:
                break
        right += any(home in others or float(whole[home] @ whole[piece]) >= SAME_NEWS for home, _ in near)
    share = right / len(asked)
    name = f"right among the first {FIRST} of {len(asked)} questions in other words"
    yield Figure(name, f"{share:.0%}", "≥ 90 %", share >= 0.9)


HOURS = 300


def _quick() -> Iterator[Figure]:
    """How long a search over so many hours takes, by the files as they are kept."""
    count = HOURS * 800
    chance = np.random.default_rng(3)
    with TemporaryDirectory() as folder:
        files = MeantFiles(Path(folder))
        vectors = chance.integers(-127, 128, (count, SIZE), np.int8)
        places = np.zeros(count, PLACE)
        places["length"] = np.linalg.norm(vectors.astype(np.float32), axis=1)
        files.append(vectors, places)
        (wanted,) = meanings_of(["boats that dry out"])
        files.near(wanted)
        took = min(timed(lambda: files.near(meanings_of(["boats that dry out"])[0])) for _ in range(5))
    yield Figure(
        f"a search by meaning over {HOURS} hours, {count:,} stretches", f"{1000 * took:.0f} ms", "< 300 ms", took < 0.3
    )


def _news() -> list[str]:
    held = resources.files("gensim") / "test" / "test_data" / "lee_background.cor"
    return [line for line in held.read_text(encoding="utf-8").splitlines() if line.strip()]


def _spaced(texts: Sequence[str]) -> Iterator[list[Word]]:
    at = 0
    for text in texts:
        words = text.split()
        yield [Word(word, at + number * WORD, at + (number + 1) * WORD - RATE // 50) for number, word in enumerate(words)]
        at += len(words) * WORD + RATE // 4


def pk(truth: Sequence[int], found: Sequence[int], count: int) -> float:
    """How often two sentences half a subject apart are wrongly put together or parted (Beeferman and others, 1999)."""
    apart = max(2, round(count / len(truth) / 2))
    one, other = (np.cumsum([at in begins for at in range(count)]) for begins in (set(truth), set(found)))
    wrong = [(one[at] == one[at + apart]) != (other[at] == other[at + apart]) for at in range(count - apart)]
    return float(np.mean(wrong))


def _tiled(sentences: Sequence[Sentence], count: int, beside: int = 5) -> list[int]:
    """TextTiling (Hearst, 1997): the places where the words before and after have least in common, so many."""
    bags = [Counter(word[:6] for word in re.findall(r"[a-z]{4,}", each.text.lower())) for each in sentences]
    alike = [0.0]
    for at in range(1, len(bags)):
        before, after = (sum(bags[part], Counter()) for part in (slice(max(0, at - beside), at), slice(at, at + beside)))
        size = sqrt(sum(n * n for n in before.values()) * sum(n * n for n in after.values()))
        alike.append(sum(n * after[word] for word, n in before.items()) / size if size else 0.0)
    depth = [
        max(alike[max(0, at - beside) : at + 1]) + max(alike[at : at + beside + 1]) - 2 * alike[at] for at in range(len(alike))
    ]
    taken: list[int] = []
    for at in sorted(range(1, len(depth)), key=lambda at: -depth[at]):
        if len(taken) < count - 1 and all(abs(at - other) > 2 for other in taken):
            taken.append(at)
    return [0, *sorted(taken)]


def _highlights(told: Sequence[_Episode]) -> Iterator[Figure]:
    covered, off = [], []
    alone, chosen_alone = [], []
    for each in told:
        wanted = each.length // 8
        begins = borders(each.sentences, each.meanings, NEWS)
        chosen = highlights(each.sentences, each.meanings, begins, Wish(wanted))
        alone += [not any(harms([it])) for it in each.sentences]
        chosen_alone += [not any(harms(each.sentences[it.first : it.last])) for it in chosen]
        covered.append(len({each.subject(it.first) for it in chosen}) / len(each.truth))
        length = sum(each.sentences[it.last - 1].end - each.sentences[it.first].start for it in chosen)
        half = max(it.length for it in each.sentences) / 2
        off.append(abs(length - wanted) <= max(0.03 * wanted, half))
    whole = statistics.mean(covered)
    yield Figure("an eighth of the time tells of every subject", f"{whole:.1%} of subjects", "100 %", whole == 1)
    yield Figure("and is as long as asked for", f"{statistics.mean(off):.0%} of episodes", "100 %", all(off))
    complete, usual = statistics.mean(chosen_alone), statistics.mean(alone)
    name = "highlights against which nothing of the written list speaks"
    yield Figure(name, f"{complete:.0%}; of all sentences {usual:.0%}", "≥ 90 %", complete >= 0.9)


def _to_length(told: Sequence[_Episode]) -> Iterator[Figure]:
    """A fifth has to go: how far off what is proposed is, and whether it goes from all over the episode."""
    off = []
    for each in told:
        surplus = each.length // 5
        gone = least_missed(each.sentences, each.meanings, surplus)
        length = sum(each.sentences[it.last - 1].end - each.sentences[it.first].start for it in gone)
        off.append(0 <= length - surplus + RATE // 10 <= max(0.03 * surplus, max(it.length for it in each.sentences) / 2))
    yield Figure("a fifth less: as much goes as has to", f"{statistics.mean(off):.0%} of episodes", "100 %", all(off))


MEANT = """
import sys
from pathlib import Path
from jaskel.core.reuse.outline import Wanted, outline
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.speech.meaning import meanings_of
words = [Word(text, n * RATE * 3 // 8, (n + 1) * RATE * 3 // 8 - 9) for n, text in enumerate(sys.stdin.read().split())]
outline(words, meanings_of, Wanted(450 * RATE, 6, 10))
print(int(Path("/proc/self/status").read_text().split("VmHWM:")[1].split()[0]) * 1024)
"""


def _memory(words: Sequence[Word]) -> Iterator[Figure]:
    text = " ".join(word.text for word in words)
    told = subprocess.run([sys.executable, "-c", MEANT], input=text, check=True, capture_output=True, text=True).stdout
    most = int(told)
    yield Figure("memory for all proposals for an hour", f"{most / 1e6:.0f} MB", "≤ 800 MB", most <= 800e6)


def _clips(told: Sequence[_Episode]) -> Iterator[Figure]:
    good = 0
    for each in told:
        begins = borders(each.sentences, each.meanings, NEWS)
        chosen = clips(each.sentences, each.meanings, begins, 4)
        lengths = [each.sentences[it.last - 1].end - each.sentences[it.first].start for it in chosen]
        apart = all(one.last <= other.first for one, other in pairwise(chosen))
        good += len(chosen) == 4 and apart and all(SHORTEST <= length <= LONGEST for length in lengths)
    yield Figure(
        "four clips of 15 to 60 s, none over another", f"{good / len(told):.0%} of episodes", "100 %", good == len(told)
    )
