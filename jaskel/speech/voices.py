"""Telling the voices of one mixed recording apart.

Speech is listened to in windows of 1.6 s, each described by its voiceprint. Windows that sound alike are joined by spectral
clustering, which also says how many voices there are (T. J. Park and others, "Auto-tuning spectral clustering for speaker
diarization using normalized maximum eigengap", 2020). Then every phrase goes to the voice whose print it is most like, with
reluctance to change.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.cluster.hierarchy import fcluster, linkage

from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word
from jaskel.speech.voiceprint import mean_print, prints_of

PHRASE_REST: Ticks = RATE * 25 // 100
"""A voice does not change without a rest this long, or the end of a sentence."""

EDGE: Ticks = RATE * 5 // 100
"""So much of the sound around a phrase goes along."""

MOST_VOICES = 6
MOST_WINDOWS = 600
"""More windows than this are thinned out before grouping: four minutes of speech tell voices apart."""

LONG: Ticks = RATE
"""Voices are found by phrases of a second and more: what is shorter sounds more like what is said than like who says it."""

FEW = 8
"""With fewer windows of such phrases all are taken."""

ALIKE = 0.86
"""Groups whose prints are so near (cosine) are one voice. (On 64 made-up talks of one to four voices, parts of one voice mostly
0.89 to 0.95, two voices 0.62 to 0.87, among them one voice and itself lowered by a fifth: the number was right in 61.)"""

SHARP = 50.0
"""By so much the logarithm of the odds for a voice grows with the cosine to its print, for each window."""

CHANGE = 2.0
"""Logarithm of odds against a change of voice between two phrases."""


@dataclass(frozen=True)
class Phrase:
    """Words from index ``first`` to ``last`` said without a rest, by one voice."""

    first: int
    last: int
    start: Ticks
    end: Ticks


Sound16k = Callable[[Ticks, Ticks], np.ndarray]


def voices_of(sound: Sound16k, words: Sequence[Word], count: int | None = None) -> list[int]:
    """The number of the voice that says each word, from 0 in order of appearance; ``count`` voices, or as many as are found."""
    if not words:
        return []
    phrases = _phrases(words)
    prints = [_prints(sound, phrase) for phrase in phrases]
    long = [print for phrase, print in zip(phrases, prints, strict=True) if phrase.end - phrase.start >= LONG]
    chosen = _assigned(prints, _voices(np.concatenate(long if sum(map(len, long)) >= FEW else prints), count))
    order = {voice: number for number, voice in enumerate(dict.fromkeys(chosen))}
    out = [0] * len(words)
    for phrase, voice in zip(phrases, chosen, strict=True):
        out[phrase.first : phrase.last] = [order[voice]] * (phrase.last - phrase.first)
    return out


def print_of(sound: Sound16k, words: Sequence[Word]) -> list[float] | None:
    """The print of a voice; None where too little is said.

    ``words`` are those of one voice; up to two minutes of them are listened to.
    """
    prints: list[np.ndarray] = []
    heard = 0
    for phrase in _phrases(words):
        prints.append(_prints(sound, phrase))
        heard += phrase.end - phrase.start
        if heard > LISTENED:
            break
    return [round(float(value), 5) for value in mean_print(prints)] if heard >= LEAST else None


LISTENED: Ticks = 120 * RATE
LEAST: Ticks = 8 * RATE


def _phrases(words: Sequence[Word]) -> list[Phrase]:
    phrases = []
    first = 0
    for index in range(1, len(words) + 1):
        if index < len(words):
            rest = words[index].start - words[index - 1].end
            if rest < PHRASE_REST and not (words[index - 1].ends_sentence and rest > RATE // 20):
                continue
        phrases.append(Phrase(first, index, words[first].start, words[index - 1].end))
        first = index
    return phrases


def _prints(sound: Sound16k, phrase: Phrase) -> np.ndarray:
    return prints_of(sound(max(0, phrase.start - EDGE), phrase.end + EDGE))


def _voices(prints: np.ndarray, count: int | None) -> np.ndarray:
    """The print of each voice, shape (voices, 256)."""
    thinned = prints[:: max(1, -(-len(prints) // MOST_WINDOWS))]
    alone = mean_print([thinned])[None]
    if len(thinned) < 3 or count == 1:
        return alone
    told, vectors = _spectrum(thinned)
    if count is not None:
        return _grouped(thinned, vectors, min(count, len(thinned)))
    if told == 1:
        return alone
    # The eigengap is often one short where some voice says little; and it may take two manners of one voice for two.
    tried = [_grouped(thinned, vectors, groups) for groups in range(min(told + 1, MOST_VOICES), 1, -1)]
    return next((voices for voices in tried if _nearest(voices) < ALIKE), alone)


def _nearest(voices: np.ndarray) -> float:
    """The cosine of the two voices that are most alike."""
    near = voices @ voices.T
    return float(near[np.triu_indices(len(near), 1)].max())


def _grouped(prints: np.ndarray, vectors: np.ndarray, count: int) -> np.ndarray:
    """The print of each of ``count`` groups, parted by the first eigenvectors."""
    places = vectors[:, :count]
    cut = fcluster(linkage(places / (np.linalg.norm(places, axis=1, keepdims=True) + 1e-9), "average"), count, "maxclust")
    return np.stack([mean_print([prints[cut == group]]) for group in np.unique(cut)])


def _spectrum(prints: np.ndarray) -> tuple[int, np.ndarray]:
    """How many groups the eigengap tells, and the eigenvectors by which they are parted.

    How many neighbours count as such is found as well: as few as leave the gap wide.
    """
    order = np.argsort(-(prints @ prints.T), axis=1)
    best: tuple[float, int, np.ndarray] | None = None
    for neighbours in sorted({max(2, round(len(prints) * share)) for share in NEIGHBOURS}):
        graph = np.zeros((len(prints), len(prints)))
        np.put_along_axis(graph, order[:, :neighbours], 1.0, axis=1)
        graph = (graph + graph.T) / 2
        values, vectors = np.linalg.eigh(np.diag(graph.sum(axis=1)) - graph)
        gaps = np.diff(values[: MOST_VOICES + 1])
        ratio = neighbours / len(prints) / (gaps.max() / values[-1] + 1e-9)
        if best is None or ratio < best[0]:
            best = ratio, int(np.argmax(gaps)) + 1, vectors
    assert best is not None
    return best[1:]


NEIGHBOURS = (0.02, 0.04, 0.06, 0.09, 0.12, 0.16, 0.2, 0.25)
"""Shares of the windows that are tried as the neighbours of each."""


def _assigned(prints: Sequence[np.ndarray], voices: np.ndarray) -> list[int]:
    """The likeliest voice of each phrase, with reluctance to change (Viterbi)."""
    scores = np.stack([SHARP * (phrase @ voices.T).sum(axis=0) for phrase in prints])
    best = scores[0]
    back = []
    for score in scores[1:]:
        change = best.max() - CHANGE
        stay = best >= change
        back.append(np.where(stay, np.arange(len(voices)), int(best.argmax())))
        best = np.where(stay, best, change) + score
    voice = int(best.argmax())
    chosen = [voice]
    for step in reversed(back):
        voice = int(step[voice])
        chosen.append(voice)
    return chosen[::-1]
