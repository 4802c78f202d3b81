"""Decode the sound of an original once, to the rate everything is mixed at.

The *conformed* sound (:mod:`jaskel.media.conformed`) is lossless and readable from any sample, which compressed originals are
not. Preview and export read the same file, so they cannot differ.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

import av
import av.error
import numpy as np

from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.conformed import ConformedSound, NewConformedSound, gain_for
from jaskel.media.container import open_media
from jaskel.media.probe import CUT_OFF_SECONDS, MediaInfo

PEAKS_A_SECOND = 100
GAP_SECONDS = 0.04
"""Where the time stamps jump ahead by more than this, sound is missing and silence takes its place."""

SURE_GAP_SECONDS = 1.0
"""A longer jump is believed only where the stamps go on from it: a damaged one, or a few, say nothing."""

LOOKED_AHEAD = 48
"""Frames by which that is told: a second or more, while a packet has a few."""

LONGEST_GAP_SECONDS, MOST_SILENCE_SECONDS = 3_600.0, 2 * 3_600.0
"""A jump further than an hour is a damaged clock and no pause; so is one when two hours of silence have been put in already."""

BLOCK = RATE
"""Samples that are written and told of at a time: packets hold a fiftieth of a second, too little for each to be worth it."""

LOUDEST = 64.0
"""36 dB above full scale; what is beyond is damage and no sound."""

Report = Callable[[Ticks], None]


@dataclass(frozen=True)
class Conformed:
    """``length`` of what could be read; ``missing`` is how many seconds the file says there should be beyond that."""

    length: Ticks
    missing: float


def conform(original: Path, info: MediaInfo, sound: Path, peaks: Path, progress: Report = lambda _: None) -> Conformed:
    """Decode ``original`` into ``sound``, and its envelope into ``peaks``.

    ``peaks`` holds one unsigned byte for each 10 ms: 255 times the square root of the loudest sample in it.

    Raises
    ------
    Problem
        ``nothing-readable`` when not a single sample could be decoded.
    """
    channels = 1 if info.channels == 1 else 2
    length, peak, envelope = _write(original, channels, sound, progress)
    if peak > 1:
        length, _, envelope = _write(original, channels, sound, progress, gain_for(peak))
    if not length:
        raise Problem("nothing-readable", "No sound could be read from this file: it is damaged from the start. Copy it again.")
    peaks.write_bytes(envelope)
    return Conformed(length, missing_of(info, length))


def _write(original: Path, channels: int, sound: Path, progress: Report, gain: float = 1.0) -> tuple[Ticks, float, bytes]:
    """Write conformed ``sound`` as much lower as ``gain`` says; gives its length, its peak, and its envelope."""
    length, peak, envelope = 0, 0.0, _Envelope()
    with NewConformedSound(sound, channels, gain) as out:
        for block in _in_blocks(decoded(original, channels), BLOCK):
            out.write(block)
            envelope.add(block)
            length += len(block)
            peak = max(peak, float(np.abs(block).max(initial=0)))
            progress(length)
    return length, peak, envelope.bytes()


def missing_of(info: MediaInfo, length: Ticks) -> float:
    """How many seconds are missing of what a file promised, 0 where it is as good as complete."""
    promised = info.seconds or 0.0
    missing = promised - length / RATE
    return missing if missing >= max(CUT_OFF_SECONDS, 0.002 * promised) else 0.0


def already_conformed(sound: Path, info: MediaInfo) -> Conformed:
    """What :func:`conform` said when it made ``sound``."""
    with ConformedSound(sound) as known:
        return Conformed(known.length, missing_of(info, known.length))


def stretched(sound: Path, drift: float, out: Path) -> None:
    """Write conformed ``sound`` anew as it is on a clock by which it runs ``1 + drift`` times as long."""
    import soxr

    # What is resampled may overshoot a little: where it is stored lower anyway, there is room for that.
    with ConformedSound(sound) as old, NewConformedSound(out, old.channels, old.gain) as new:
        resampler = soxr.ResampleStream(RATE, RATE * (1 + drift), old.channels, dtype="float32", quality="VHQ")
        for at in range(0, old.length, RATE):
            new.write(resampler.resample_chunk(old.read(at, at + RATE), last=at + RATE >= old.length))


def decoded(original: Path, channels: int) -> Iterator[np.ndarray]:
    """Yield the sound of ``original`` as float32 blocks of shape (samples, channels) at 48 kHz, none longer than a second.

    Time zero is where the file begins, be it with sound or picture. What is damaged is passed over: packets that cannot be
    decoded, stamps that jump about, samples that are no numbers.
    """
    with open_media(original) as container:
        stream = container.streams.audio[0]
        stream.codec_context.thread_type = "AUTO"
        clock = _Clock((container.start_time or 0) / av.time_base)
        even = _Even(channels)
        for frame, after in _looking_ahead(_frames(container, stream)):
            if gap := clock.gap(frame, after):
                yield from even.flushed()
                yield from _silence(round(gap * RATE), channels)
            clock.fed(frame)
            yield from even.samples(frame)
        yield from even.flushed()


class _Clock:
    """Holds the time stamps of decoded sound against how much of it there was."""

    def __init__(self, zero: float) -> None:
        self._expected = zero
        self._silence = 0.0

    def fed(self, frame: av.AudioFrame) -> None:
        self._expected += frame.samples / frame.sample_rate

    def gap(self, frame: av.AudioFrame, after: av.AudioFrame | None) -> float:
        """Seconds of silence before ``frame``, 0 where it simply follows; ``after`` is a frame about a second later."""
        if frame.time is None:
            return 0.0
        ahead = frame.time - self._expected
        goes_on = after is not None and after.time is not None and after.time >= frame.time
        if abs(ahead) > SURE_GAP_SECONDS and not goes_on:
            return 0.0
        if ahead > LONGEST_GAP_SECONDS or ahead < -SURE_GAP_SECONDS or self._silence + ahead > MOST_SILENCE_SECONDS:
            self._expected = frame.time
            return 0.0
        if ahead <= GAP_SECONDS:
            return 0.0
        self._expected = frame.time
        self._silence += ahead
        return ahead


class _Even:
    """Turns frames into samples at one rate with one number of channels, whatever the file changes midway."""

    def __init__(self, channels: int) -> None:
        self._channels = channels
        self._layout = "mono" if channels == 1 else "stereo"
        self._resampler: av.AudioResampler | None = None
        self._form: tuple[object, ...] = ()

    def samples(self, frame: av.AudioFrame) -> Iterator[np.ndarray]:
        """Samples that are ready after one more frame."""
        if not frame.samples:
            return
        if frame.layout.nb_channels > MOST_CHANNELS:
            frame = _mixed(frame)
        form = frame.format.name, frame.layout.name, frame.layout.nb_channels, frame.sample_rate
        if form != self._form:
            yield from self.flushed()
        frame.pts = None
        try:
            found = self._resampled(frame, form)
        except (av.error.FFmpegError, ValueError):
            frame = _mixed(frame)  # channels that no layout names
            found = self._resampled(frame, form)
        yield from self._arrays(found)

    def _resampled(self, frame: av.AudioFrame, form: tuple[object, ...]) -> list[av.AudioFrame]:
        if self._resampler is None:
            self._resampler, self._form = av.AudioResampler("flt", self._layout, RATE), form
        try:
            return self._resampler.resample(frame)
        except (av.error.FFmpegError, ValueError):
            self._resampler = None
            raise

    def flushed(self) -> Iterator[np.ndarray]:
        """What the resampler still holds; it begins anew after that."""
        resampler, self._resampler, self._form = self._resampler, None, ()
        if resampler is not None:
            yield from self._arrays(resampler.resample(None))

    def _arrays(self, frames: list[av.AudioFrame]) -> Iterator[np.ndarray]:
        for frame in frames:
            if frame.samples:
                sound = frame.to_ndarray().reshape(-1, self._channels)
                yield np.clip(np.nan_to_num(sound, nan=0.0, posinf=0.0, neginf=0.0), -LOUDEST, LOUDEST)


MOST_CHANNELS = 16
"""More than any layout of loudspeakers has: what has more is a bundle of inputs, and all of them are mixed."""


def _mixed(frame: av.AudioFrame) -> av.AudioFrame:
    """All channels of a frame as one, each with the same share."""
    sound = frame.to_ndarray()
    count = frame.layout.nb_channels
    by_channel = sound if frame.format.is_planar else sound.reshape(-1, count).T
    if sound.dtype.kind in "iu":
        full = float(2 ** (8 * sound.dtype.itemsize - 1))
        by_channel = (by_channel.astype(np.float64) - (full if sound.dtype.kind == "u" else 0)) / full
    mean = by_channel.mean(axis=0, dtype=np.float64).astype(np.float32)
    mixed = av.AudioFrame.from_ndarray(np.ascontiguousarray(mean[None]), "flt", "mono")
    mixed.sample_rate = frame.sample_rate
    return mixed


def _silence(ticks: int, channels: int) -> Iterator[np.ndarray]:
    for begin in range(0, ticks, BLOCK):
        yield np.zeros((min(BLOCK, ticks - begin), channels), np.float32)


def _looking_ahead(frames: Iterable[av.AudioFrame]) -> Iterator[tuple[av.AudioFrame, av.AudioFrame | None]]:
    """Each frame with one of those after it, None for the last."""
    waiting: deque[av.AudioFrame] = deque()
    for frame in frames:
        waiting.append(frame)
        if len(waiting) > LOOKED_AHEAD:
            yield waiting.popleft(), frame
    while waiting:
        frame = waiting.popleft()
        yield frame, waiting[-1] if waiting else None


def _in_blocks(sound: Iterator[np.ndarray], size: int) -> Iterator[np.ndarray]:
    """The same samples in fewer blocks, each of at least ``size`` but for the last."""
    waiting: list[np.ndarray] = []
    for block in sound:
        waiting.append(block)
        if sum(map(len, waiting)) >= size:
            yield np.concatenate(waiting)
            waiting = []
    if waiting:
        yield np.concatenate(waiting)


def _frames(container: av.container.InputContainer, stream: av.audio.stream.AudioStream) -> Iterator[av.AudioFrame]:
    packets = container.demux(stream)
    while True:
        try:
            packet = next(packets)
        except (StopIteration, av.error.FFmpegError):
            return
        try:
            yield from packet.decode()
        except av.error.FFmpegError:
            continue


class _Envelope:
    def __init__(self) -> None:
        self._hop = RATE // PEAKS_A_SECOND
        self._rest = np.zeros(0, np.float32)
        self._peaks: list[np.ndarray] = []

    def add(self, block: np.ndarray) -> None:
        sound = np.concatenate([self._rest, np.abs(block).max(axis=1)])
        whole = len(sound) // self._hop * self._hop
        self._peaks.append(_to_bytes(sound[:whole].reshape(-1, self._hop).max(axis=1)))
        self._rest = sound[whole:]

    def bytes(self) -> bytes:
        last = _to_bytes(self._rest.max(keepdims=True)) if len(self._rest) else np.zeros(0, np.uint8)
        return np.concatenate([*self._peaks, last]).tobytes()


def _to_bytes(peaks: np.ndarray) -> np.ndarray:
    return np.round(255 * np.sqrt(np.clip(peaks, 0, 1))).astype(np.uint8)
