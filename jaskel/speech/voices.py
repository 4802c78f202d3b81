"""Telling the voices of one mixed recording apart.

Speech is cut into windows of about two seconds, each described by its mean cepstrum: what is said averages out, the voice
stays. The windows are joined by Ward's method, which keeps groups tight, into as many groups as there are voices; where that is
not known, groups are parted as long as two Gaussians explain their frames much better than one. Then every phrase goes to the
voice whose Gaussian explains it best, with reluctance to change.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.cluster.hierarchy import fcluster, linkage
from scipy.fft import dct

from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word
from jaskel.speech.recognise import RATE_16K

HOPS_A_SECOND = 100
CEPSTRA = 16
WINDOW: Ticks = 2 * RATE
PHRASE_REST: Ticks = RATE * 25 // 100
"""A voice does not change without a rest this long, or the end of a sentence."""

MOST_VOICES = 6
MOST_WINDOWS = 900
"""More windows than this are thinned out before grouping: half an hour of speech tells voices apart."""

APART = 0.3
"""Natural logarithm of the likelihood that a voice of their own must gain for the frames, on average. Measured on made-up
talks: parting one voice by what it says gains up to 0.25, parting two voices 0.4 to 0.9."""

CHANGE = 40.0
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
    frames = [_cepstra(sound(phrase.start, phrase.end)) for phrase in phrases]
    windows = [window for phrase in frames for window in _windows(phrase)]
    thinned = windows[:: max(1, -(-len(windows) // MOST_WINDOWS))]
    groups = _grouped(thinned, count)
    chosen = _assigned(frames, groups)
    order = {voice: number for number, voice in enumerate(dict.fromkeys(chosen))}
    out = [0] * len(words)
    for phrase, voice in zip(phrases, chosen, strict=True):
        out[phrase.first : phrase.last] = [order[voice]] * (phrase.last - phrase.first)
    return out


def print_of(sound: Sound16k, words: Sequence[Word]) -> list[float] | None:
    """How a voice sounds: mean, then spread of its cepstra; None where too little is said.

    ``words`` are those of one voice; up to two minutes of them are listened to.
    """
    frames: list[np.ndarray] = []
    heard = 0
    for phrase in _phrases(words):
        frames.append(_cepstra(sound(phrase.start, phrase.end)))
        heard += phrase.end - phrase.start
        if heard > LISTENED:
            break
    if heard < LEAST:
        return None
    all_frames = np.concatenate(frames)
    return [float(value) for value in (*all_frames.mean(axis=0), *all_frames.std(axis=0))]


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


def _cepstra(sound: np.ndarray) -> np.ndarray:
    """Cepstra of the frames with voice in them, shape (frames, CEPSTRA); the first tells loudness and is left out."""
    from faster_whisper.feature_extractor import FeatureExtractor

    if len(sound) < RATE_16K // 10:
        sound = np.pad(sound, (0, RATE_16K // 10 - len(sound)))
    mel = FeatureExtractor(feature_size=40)(sound, padding=0)[:, : len(sound) * HOPS_A_SECOND // RATE_16K]
    loud = mel.mean(axis=0)
    cepstra = dct(mel, axis=0, norm="ortho")[1 : CEPSTRA + 1].T
    return cepstra[loud >= np.percentile(loud, 30)].astype(np.float64)


def _windows(frames: np.ndarray) -> list[np.ndarray]:
    count = max(1, round(len(frames) / (WINDOW / RATE * HOPS_A_SECOND * 0.7)))
    return [window for window in np.array_split(frames, count) if len(window) > CEPSTRA]


@dataclass(frozen=True)
class _Voice:
    """The frames of a voice as a Gaussian."""

    mean: np.ndarray
    covariance: np.ndarray


def _grouped(windows: Sequence[np.ndarray], count: int | None) -> list[_Voice]:
    if len(windows) < 2 or count == 1:
        return [_voice(windows)] if windows else []
    means = np.array([window.mean(axis=0) for window in windows])
    means = (means - means.mean(axis=0)) / (means.std(axis=0) + 1e-9)
    tree = linkage(means, "ward")
    count = count or _found(tree, windows)
    cut = fcluster(tree, count, "maxclust")
    return [_voice([w for w, of in zip(windows, cut, strict=True) if of == group]) for group in np.unique(cut)]


def _voice(windows: Sequence[np.ndarray]) -> _Voice:
    frames = np.concatenate(windows)
    return _Voice(frames.mean(axis=0), np.cov(frames.T) + np.eye(CEPSTRA) * 1e-3)


def _found(tree: np.ndarray, windows: Sequence[np.ndarray]) -> int:
    """How many voices there are: parting goes on while it gains enough."""
    frames = sum(len(window) for window in windows)
    before = _cost(np.ones(len(windows), int), windows)
    for count in range(2, min(MOST_VOICES, len(windows)) + 1):
        after = _cost(fcluster(tree, count, "maxclust"), windows)
        if (before - after) / frames < APART:
            return count - 1
        before = after
    return min(MOST_VOICES, len(windows))


def _cost(cut: np.ndarray, windows: Sequence[np.ndarray]) -> float:
    """Negative logarithm of the likelihood of all frames under a Gaussian for each group, but for constants."""
    total = 0.0
    for group in np.unique(cut):
        here = [window for window, of in zip(windows, cut, strict=True) if of == group]
        total += sum(map(len, here)) / 2 * np.linalg.slogdet(_voice(here).covariance)[1]
    return float(total)


def _assigned(frames: Sequence[np.ndarray], groups: Sequence[_Voice]) -> list[int]:
    """The likeliest voice of each phrase, with reluctance to change (Viterbi)."""
    scores = np.stack([_likelihood(frames, group) for group in groups], axis=1)
    best = scores[0]
    back = []
    for score in scores[1:]:
        change = best.max() - CHANGE
        stay = best >= change
        back.append(np.where(stay, np.arange(len(groups)), int(best.argmax())))
        best = np.where(stay, best, change) + score
    voice = int(best.argmax())
    chosen = [voice]
    for step in reversed(back):
        voice = int(step[voice])
        chosen.append(voice)
    return chosen[::-1]


def _likelihood(frames: Sequence[np.ndarray], group: _Voice) -> np.ndarray:
    """Logarithm of the likelihood of each phrase, a frame in four counted: neighbours say the same."""
    inverse = np.linalg.inv(group.covariance)
    base = np.linalg.slogdet(group.covariance)[1]
    out = []
    for phrase in frames:
        away = phrase - group.mean
        distance = np.einsum("ij,jk,ik->i", away, inverse, away)
        out.append(-0.5 * (distance + base).sum() / 4)
    return np.array(out)
