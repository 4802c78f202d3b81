"""When recordings of the same moment began, told by their sound.

Two stages. First the *shapes* of both, the level in a dozen bands fifty times a second with its slow course taken out, are
correlated stretch by stretch: that finds the offset within some hundredths of a second, even when it is minutes, and even
when all that one microphone has of the other's voice is faint bleed. Then short windows of the sound itself are correlated
with their spectra flattened (PHAT, Knapp and Carter, "The generalized correlation method for estimation of time delay",
IEEE ASSP 1976): each that shares sound gives the offset there to a fraction of a millisecond. A line through them is offset
and drift. Windows that do not agree with any line mean that there is nothing to tell by.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.fft import irfft, next_fast_len, rfft, rfftfreq
from scipy.ndimage import uniform_filter1d

from jaskel.speech.recognise import RATE_16K

Read16k = Callable[[float, float], np.ndarray]
"""Gives the sound between two seconds as float32 mono at 16 kHz."""

HOP = RATE_16K // 50
BANDS = 12
SLOW = 50
"""The course of levels over so many hops (one second) is taken out."""

STRETCH = 240.0
STRETCHES = 9
"""Coarse stretches: long enough to be unlike any other, short enough for drift not to blur them."""

MOST_DRIFT = 200e-6
"""Recorders' clocks differ by up to 100 ppm; beyond twice that it is not drift."""

WINDOW = 10.0
SHORTEST_WINDOW = 3.0
WINDOWS = 48
SEARCH = 0.25
"""Fine windows look this many seconds around the coarse offset."""

CLEAR = 7.0
"""A correlation peak this many standard deviations above the rest is no accident: of ten thousand lags of noise about one
reaches 4."""

TOGETHER = 0.012
"""Windows agree when they lie within this many seconds of the line; sound takes 12 ms for four metres."""


@dataclass(frozen=True)
class Sync:
    """How two recordings lie to one another: what is at ``t`` in the second is at ``offset + t * (1 + drift)`` in the first.

    ``sure`` is the share of windows that bear it out, 0 where nothing does; ``windows`` how many did.
    """

    offset: float
    drift: float
    sure: float
    windows: int

    @property
    def known(self) -> bool:
        return self.windows >= 3 and self.sure >= 0.2

    def turned(self) -> Sync:
        """The same, seen from the second."""
        return Sync(-self.offset / (1 + self.drift), 1 / (1 + self.drift) - 1, self.sure, self.windows)


@dataclass(frozen=True)
class Fingerprint:
    """A recording to be synced: its sound, its length in seconds, and its shape."""

    read: Read16k
    length: float
    shape: np.ndarray


def listen(read: Read16k, length: float) -> Fingerprint:
    """Take the shape of a recording, a minute at a time."""
    parts = [_levels(read(at, min(at + 60.0, length))) for at in np.arange(0, length, 60.0)]
    levels = np.concatenate(parts) if parts else np.zeros((0, BANDS), np.float32)
    course = uniform_filter1d(levels, SLOW, axis=0) if len(levels) else levels
    # Tanh keeps a door that slams from outweighing an hour of talk.
    return Fingerprint(read, length, np.tanh((levels - course) / 0.7).astype(np.float32))


def _levels(sound: np.ndarray) -> np.ndarray:
    """Natural logarithm of the power in :data:`BANDS` bands, shape (hops, bands)."""
    count = len(sound) // HOP
    if not count:
        return np.zeros((0, BANDS), np.float32)
    frames = sound[: count * HOP].reshape(count, HOP) * np.hanning(HOP).astype(np.float32)
    power = np.abs(rfft(frames, axis=1)) ** 2
    edges = np.geomspace(150, 6000, BANDS + 1) / (RATE_16K / 2) * (power.shape[1] - 1)
    bands = [power[:, round(a) : max(round(a) + 1, round(b))].mean(axis=1) for a, b in itertools.pairwise(edges)]
    return np.log(np.stack(bands, axis=1) + 1e-9).astype(np.float32)


def sync(first: Fingerprint, second: Fingerprint) -> Sync:
    """Find how ``second`` lies to ``first``; look at ``known`` of the answer before using it."""
    coarse = _coarse(first.shape, second.shape)
    if coarse is None:
        return Sync(0.0, 0.0, 0.0, 0)
    found = [place for line in coarse if (place := _fine(first, second, *line)).windows]
    return max(found, key=lambda place: place.sure * place.windows, default=Sync(0.0, 0.0, 0.0, 0))


def _coarse(first: np.ndarray, second: np.ndarray) -> list[tuple[float, float]] | None:
    """The likeliest lines (offset, drift) by shape, best first."""
    if not len(first) or not len(second):
        return None
    hop = HOP / RATE_16K
    size = min(len(second), round(STRETCH / hop))
    starts = np.unique(np.linspace(0, len(second) - size, STRETCHES if len(second) > size else 1).astype(int))
    guesses: list[tuple[float, float, float]] = []  # clearness, middle of the stretch, offset; in seconds
    for start in starts:
        stretch = second[start : start + size]
        total = next_fast_len(len(first) + len(stretch))
        spectra = rfft(first, total, axis=0) * np.conj(rfft(stretch, total, axis=0))
        correlation = irfft(spectra.sum(axis=1), total)
        lags = np.arange(total)
        lags[lags > len(first)] -= total
        overlap = np.minimum(len(first), lags + len(stretch)) - np.maximum(0, lags)
        enough = overlap > min(size, len(first)) * 0.15
        score = np.where(enough, correlation / np.sqrt(np.maximum(overlap, 1)), 0.0)
        spread = np.std(score[enough]) or 1.0
        for _ in range(3):
            best = int(np.argmax(score))
            if score[best] <= 0:
                break
            guesses.append((float(score[best] / spread), (start + size / 2) * hop, (lags[best] - start) * hop))
            score[np.abs(lags - lags[best]) < 0.4 / hop] = 0.0
    return _lines(guesses)


def _lines(guesses: Sequence[tuple[float, float, float]]) -> list[tuple[float, float]]:
    """Lines through guesses that lie as near to one another as drift allows; the best three."""
    worth: list[tuple[float, float, float]] = []
    for _, middle, offset in guesses:
        near = [g for g in guesses if abs(g[2] - offset) < 0.06 + MOST_DRIFT * abs(g[1] - middle)]
        strength = sum(g[0] ** 2 for g in near)
        drift = 0.0
        if len({g[1] for g in near}) >= 3:
            drift = float(np.polyfit([g[1] for g in near], [g[2] for g in near], 1, w=[g[0] for g in near])[0])
            drift = float(np.clip(drift, -MOST_DRIFT, MOST_DRIFT))
        centre = np.average([g[2] - drift * g[1] for g in near], weights=[g[0] for g in near])
        worth.append((strength, float(centre), drift))
    worth.sort(reverse=True)
    lines: list[tuple[float, float]] = []
    for _, offset, drift in worth:
        if all(abs(offset - known[0]) > 0.1 for known in lines):
            lines.append((offset, drift))
    return lines[:3]


def _fine(first: Fingerprint, second: Fingerprint, offset: float, drift: float) -> Sync:
    begin = max(0.0, -offset / (1 + drift)) + SEARCH
    end = min(second.length, (first.length - offset) / (1 + drift)) - SEARCH
    if end - begin < 2.0:
        return Sync(offset, drift, 0.0, 0)
    # Short recordings are looked at in shorter windows, since one alone proves nothing.
    length = min(WINDOW, max(SHORTEST_WINDOW, (end - begin) / 4), end - begin)
    count = int(min(WINDOWS, max(1, (end - begin) // length)))
    places: list[tuple[float, float]] = []
    voiced = 0
    for at in np.linspace(begin, end - length, count):
        here = second.read(at, at + length)
        there_from = offset + (at + length / 2) * (1 + drift) - length / 2
        there = first.read(there_from - SEARCH, there_from + length + SEARCH)
        if min(np.abs(here).max(initial=0), np.abs(there).max(initial=0)) < 1e-4:
            continue
        voiced += 1
        lag, clear = _lag(there, here)
        if clear >= CLEAR:
            middle = at + length / 2
            places.append((middle, there_from - SEARCH + lag + length / 2 - middle))
    if not places:
        return Sync(offset, drift, 0.0, 0)
    return _fitted(np.array(places), voiced)


def _lag(there: np.ndarray, here: np.ndarray) -> tuple[float, float]:
    """Where in ``there`` (seconds) ``here`` begins, and how clear that is in standard deviations."""
    size = next_fast_len(len(there) + len(here))
    cross = rfft(there, size) * np.conj(rfft(here, size))
    hertz = rfftfreq(size, 1 / RATE_16K)
    cross = np.where((hertz > 120) & (hertz < 5000), cross / (np.abs(cross) + 1e-12), 0)
    correlation = irfft(cross, size)[: len(there) - len(here) + 1]
    # Echoes and several metres between microphones smear a peak over a millisecond or two.
    smooth = uniform_filter1d(np.abs(correlation), 9)
    best = int(np.argmax(smooth))
    rest = np.delete(smooth, slice(max(0, best - 400), best + 400)) if len(smooth) > 1000 else smooth
    return best / RATE_16K, float((smooth[best] - rest.mean()) / (rest.std() + 1e-12))


def _fitted(places: np.ndarray, windows: int) -> Sync:
    """The line that most windows bear out."""
    times, offsets = places[:, 0], places[:, 1]
    best: np.ndarray | None = None
    for i in range(len(places)):
        for j in [i, *range(i + 1, len(places))]:
            slope = (offsets[j] - offsets[i]) / (times[j] - times[i]) if j > i else 0.0
            if abs(slope) > MOST_DRIFT:
                continue
            agree = np.abs(offsets - offsets[i] - slope * (times - times[i])) < TOGETHER
            if best is None or agree.sum() > best.sum():
                best = agree
    assert best is not None
    times, offsets = times[best], offsets[best]
    drift = float(np.polyfit(times, offsets, 1)[0]) if len(times) >= 5 else 0.0
    # A smaller slope only follows the places of the voices in the room.
    if abs(drift) * np.ptp(times) < TOGETHER / 2:
        drift = 0.0
    return Sync(_middle(offsets - drift * times), drift, float(best.sum() / max(windows, 1)), int(best.sum()))


def _middle(offsets: np.ndarray) -> float:
    """Between the two ways sound went: each voice reaches the other's microphone later than its own."""
    return float((np.percentile(offsets, 10) + np.percentile(offsets, 90)) / 2)
