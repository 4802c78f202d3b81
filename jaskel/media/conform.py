"""Decode the sound of an original once, to the rate everything is mixed at.

The *conformed* sound is FLAC at 48 kHz and 24 bit, one or two channels: lossless, and readable from any sample, which
compressed originals are not. Preview and export read the same file, so they cannot differ.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import av
import av.error
import numpy as np
import soundfile

from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE, Ticks
from jaskel.media.probe import CUT_OFF_SECONDS, MediaInfo

PEAKS_A_SECOND = 100
GAP_SECONDS = 0.04
"""Where the time stamps jump ahead by more than this, sound is missing and silence takes its place."""

BLOCK = RATE
"""Samples that are written and told of at a time: packets hold a fiftieth of a second, too little for each to be worth it."""

Progress = Callable[[Ticks], None]


@dataclass(frozen=True)
class Conformed:
    """``length`` of what could be read; ``missing`` is how many seconds the file says there should be beyond that."""

    length: Ticks
    missing: float


def conform(original: Path, info: MediaInfo, sound: Path, peaks: Path, progress: Progress = lambda _: None) -> Conformed:
    """Decode ``original`` into ``sound``, and its envelope into ``peaks``.

    ``peaks`` holds one unsigned byte for each 10 ms: 255 times the square root of the loudest sample in it.

    Raises
    ------
    Problem
        ``nothing-readable`` when not a single sample could be decoded.
    """
    channels = 1 if info.channels == 1 else 2
    length = 0
    envelope = _Envelope()
    with soundfile.SoundFile(sound, "w", RATE, channels, "PCM_24", format="FLAC") as out:
        for block in _in_blocks(decoded(original, channels), BLOCK):
            out.write(block)
            envelope.add(block)
            length += len(block)
            progress(length)
    if not length:
        raise Problem("nothing-readable", "No sound could be read from this file: it is damaged from the start. Copy it again.")
    peaks.write_bytes(envelope.bytes())
    missing = max(0.0, info.seconds - length / RATE) if info.seconds else 0.0
    return Conformed(length, missing if missing >= max(CUT_OFF_SECONDS, 0.002 * (info.seconds or 0)) else 0.0)


def stretched(sound: Path, drift: float, out: Path) -> None:
    """Write conformed ``sound`` anew as it is on a clock by which it runs ``1 + drift`` times as long."""
    import soxr

    with soundfile.SoundFile(sound) as old, soundfile.SoundFile(out, "w", RATE, old.channels, "PCM_24", format="FLAC") as new:
        resampler = soxr.ResampleStream(RATE, RATE * (1 + drift), old.channels, dtype="float32", quality="VHQ")
        while len(block := old.read(RATE, "float32", always_2d=True)):
            new.write(resampler.resample_chunk(block, last=old.tell() >= old.frames))


def decoded(original: Path, channels: int) -> Iterator[np.ndarray]:
    """Yield the sound of ``original`` as float32 blocks of shape (samples, channels) at 48 kHz.

    Time zero is where the file begins, be it with sound or picture. What is damaged is passed over.
    """
    layout = "mono" if channels == 1 else "stereo"
    with av.open(str(original)) as container:
        stream = container.streams.audio[0]
        stream.codec_context.thread_type = "AUTO"
        zero = (container.start_time or 0) / av.time_base
        resampler = av.AudioResampler("flt", layout, RATE)
        fed = 0.0
        for frame in _frames(container, stream):
            if frame.time is not None and (gap := frame.time - zero - fed) > GAP_SECONDS:
                yield from _samples(resampler.resample(None) if fed else [], channels)
                resampler = av.AudioResampler("flt", layout, RATE)
                yield np.zeros((round(gap * RATE), channels), np.float32)
                fed += gap
            fed += frame.samples / frame.sample_rate
            frame.pts = None
            yield from _samples(resampler.resample(frame), channels)
        if fed:
            yield from _samples(resampler.resample(None), channels)


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


def _samples(frames: list[av.AudioFrame], channels: int) -> Iterator[np.ndarray]:
    for frame in frames:
        if frame.samples:
            yield frame.to_ndarray().reshape(-1, channels)


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
