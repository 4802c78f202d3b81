"""Speak generated talks: other texts, voices, speeds, rooms and noise than the demo's.

Run with ``python -m bench.make_talks [NAME …]`` where the ``demo-world`` extra and Debian's ``flite`` are installed. Its
products in ``bench/talks`` are committed, so that the figures need no synthetic voices. Each talk has a file of truths beside
it, in seconds.
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from itertools import accumulate, pairwise
from pathlib import Path
from typing import Protocol

import numpy as np
import soundfile
from scipy.signal import resample_poly

from bench.tidy_cases import Speaker, Talk, given_by
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word
from jaskel.demo.make import echo, hum, noise, write_media
from jaskel.demo.voices import Clip, HibariVoice, PiperVoice, SpokenWord

TALKS = Path(__file__).with_name("talks")
SENTENCE = re.compile(r"[^.?!]+[.?!]?")
BREATHER: Ticks = RATE * 3 // 10


class Voice(Protocol):
    """Whoever can say a sentence."""

    def speak(self, text: str, seed: int) -> Clip:
        """Say one sentence."""
        ...


@dataclass
class Deeper:
    """A voice played ``count`` parts as long for every ``of``: deeper and slower above 1, higher and quicker below."""

    voice: Voice
    count: int
    of: int

    def speak(self, text: str, seed: int) -> Clip:
        """Say one sentence."""
        clip, by = self.voice.speak(text, seed), self.count / self.of
        words = tuple(SpokenWord(word.text, word.start * by, word.end * by, word.exact) for word in clip.words)
        return Clip(resample_poly(clip.samples, self.count, self.of).astype(np.float32), words)


class FliteVoice:
    """One of the voices of Flite, put together from recordings of a person sound by sound.

    So it is known to the sample where each sound was set, while networks only plan how long theirs are to be.
    """

    def __init__(self, name: str, stretch: float = 1.0) -> None:
        self.name, self.stretch = name, stretch
        self._counts: dict[str, int] = {}

    def speak(self, text: str, seed: int) -> Clip:
        """Say one sentence."""
        samples, sounds = self._said(text)
        words = text.split()
        counts = [self._count(word.strip(",.?!")) for word in words]
        exact = sum(counts) == len(sounds)  # a word by itself may have more sounds than among others
        if not exact:
            counts = [round(each) for each in np.diff(np.linspace(0, len(sounds), len(words) + 1).round())]
        edges = list(pairwise(accumulate(counts, initial=0)))
        spoken = [SpokenWord(w, sounds[a][0], sounds[b - 1][1], exact) for w, (a, b) in zip(words, edges, strict=True)]
        head, tail = spoken[0].start - 0.03, spoken[-1].end + 0.06
        cut = resample_poly(samples, 3, 1).astype(np.float32)[round(head * RATE) : round(tail * RATE)]
        return Clip(cut, tuple(SpokenWord(w.text, w.start - head, w.end - head, w.exact) for w in spoken))

    def _count(self, word: str) -> int:
        if word not in self._counts:
            self._counts[word] = len(self._said(word)[1])
        return self._counts[word]

    def _said(self, text: str) -> tuple[np.ndarray, list[tuple[float, float]]]:
        """Samples at 16 kHz, and from-to in seconds of each sound that is no pause."""
        with tempfile.NamedTemporaryFile(suffix=".wav") as file:
            stretch = ["--setf", f"duration_stretch={self.stretch}"]
            told = subprocess.run(
                ["flite", "-voice", self.name, *stretch, "-psdur", "-t", text, "-o", file.name],
                capture_output=True, text=True, check=True,
            ).stdout.split()  # fmt: skip
            samples, _ = soundfile.read(file.name, dtype="float32")
        ends = [(name, float(end)) for name, end in (each.rsplit(":", 1) for each in told)]
        begun = [0.0, *(end for _, end in ends)]
        return samples, [(a, end) for a, (name, end) in zip(begun, ends, strict=False) if name != "pau"]


class Aloud(Speaker):
    """Says texts with a voice."""

    def __init__(self, seed: int, voice: Voice, stumbles: float = 0.0) -> None:
        super().__init__(seed, stumbles)
        self.voice = voice
        self.clips: list[tuple[Ticks, np.ndarray]] = []
        self.exact: list[bool] = []

    def say(self, text: str) -> tuple[Ticks, Ticks]:
        """Say a text, sentence by sentence; what breaks off keeps its voice up, as before a comma."""
        begun = len(self.talk.words)
        for number, sentence in enumerate(SENTENCE.findall(text)):
            if number:
                self.at += BREATHER
            said = sentence.strip()
            clip = self.voice.speak(said if said[-1] in ".?!," else f"{said},", len(self.talk.words))
            self.clips.append((self.at, clip.samples))
            for word in clip.words:
                self.talk.words.append(Word(word.text, self.at + round(word.start * RATE), self.at + round(word.end * RATE)))
                self.exact.append(word.exact)
            self.at += len(clip.samples)
        return self.talk.words[begun].start, self.talk.words[-1].end

    def say_around(self, text: str, part: str) -> tuple[tuple[Ticks, Ticks], tuple[Ticks, Ticks]]:
        """Say a text in one go."""
        whole = self.say(text)
        first = len(self.talk.words) - len(text.split()) + len(text.split(part, 1)[0].split())
        words = self.talk.words[first : first + len(part.split())]
        return (words[0].start, words[-1].end), whole

    def sound(self) -> np.ndarray:
        """All that was said, float32 mono, without the room."""
        track = np.zeros(self.at + RATE, np.float32)
        for at, samples in self.clips:
            track[at : at + len(samples)] += samples
        return track


def write(
    name: str, voice: Callable[[], Voice], seed: int, room: Callable[[np.ndarray], np.ndarray], stumbles: float = 0.0
) -> None:
    """Give a talk and store its sound and its truth; where names are asked for, only those."""
    if sys.argv[1:] and name not in sys.argv[1:]:
        return
    aloud = Aloud(seed, voice(), stumbles)
    talk = given_by(aloud)
    sound = room(aloud.sound())
    write_media(TALKS / f"{name}.opus", 0.9 * sound / max(0.9, np.abs(sound).max()), audio_rate=24_000)
    (TALKS / f"{name}.truth.json").write_text(json.dumps(_truth(talk, aloud.exact), indent=1) + "\n")
    print(f"{aloud.at / RATE:6.1f} s  {name}")


def _truth(talk: Talk, exact: list[bool]) -> dict[str, object]:
    def seconds(ticks: Ticks) -> float:
        return round(ticks / RATE, 4)

    return {
        "faults": [{"kind": kind, "start": seconds(begin), "end": seconds(end)} for kind, begin, end in talk.faults],
        "meant": [[seconds(begin), seconds(end)] for begin, end in talk.meant],
        "words": [
            {"text": word.text, "start": seconds(word.start), "end": seconds(word.end), "exact": sure}
            for word, sure in zip(talk.words, exact, strict=True)
        ],
    }


def main() -> None:
    """Give them all."""
    TALKS.mkdir(exist_ok=True)

    def room(level: float, slope: float, seed: int, hall: float = 0.0, mains: float | None = None):
        def through(sound: np.ndarray) -> np.ndarray:
            heard = echo(sound, hall, seed) if hall else sound
            heard = heard + noise(len(sound), level, seed, slope)
            return heard if mains is None else heard + hum(len(sound), mains)

        return through

    write("quick-and-clean", lambda: HibariVoice(depth=0.94, pace=1.2), 101, room(-72, 1.0, 11))
    write("slow-in-a-hall", lambda: HibariVoice(depth=1.3, pace=0.95), 102, room(-58, 1.0, 12, hall=0.6))
    write("beside-a-fan", lambda: PiperVoice(pace=1.1), 103, room(-46, 1.6, 13))
    write("slow-with-hum", lambda: PiperVoice(pace=0.85), 104, room(-62, 1.0, 14, mains=-46))
    write("higher-with-hiss", lambda: Deeper(PiperVoice(pace=0.9), 7, 8), 105, room(-48, 0.0, 15))
    write("deep-and-quick", lambda: Deeper(HibariVoice(depth=1.15, pace=1.3), 9, 8), 106, room(-56, 1.0, 16, hall=0.25))
    write("light-and-dry", lambda: FliteVoice("slt"), 107, room(-66, 1.0, 17))
    write("low-beside-a-road", lambda: FliteVoice("rms", 1.1), 108, room(-52, 1.6, 18))
    write("northern-in-a-room", lambda: FliteVoice("awb", 0.95), 109, room(-58, 1.0, 19, hall=0.15))
    write("low-and-flat", lambda: FliteVoice("kal16", 1.05), 301, room(-60, 1.0, 31))
    write("slow-by-a-window", lambda: FliteVoice("slt", 1.2), 302, room(-54, 1.2, 32, hall=0.1))
    write("near-and-even", lambda: FliteVoice("rms", 0.95), 303, room(-64, 1.0, 33))
    write("bright-and-even", lambda: HibariVoice(depth=1.05, pace=1.05), 304, room(-60, 1.0, 34))
    write("plain-in-a-room", lambda: PiperVoice(pace=1.0), 305, room(-55, 1.0, 35, hall=0.1))
    write("deep-beside-a-vent", lambda: HibariVoice(depth=1.25, pace=1.15), 306, room(-50, 1.4, 36))
    write("clear-with-hiss", lambda: FliteVoice("slt", 1.05), 401, room(-58, 0.4, 41), stumbles=0.6)
    write("low-in-a-kitchen", lambda: FliteVoice("rms", 1.0), 402, room(-57, 1.0, 42, hall=0.2), stumbles=0.6)
    write("northern-and-near", lambda: FliteVoice("awb", 1.05), 403, room(-62, 1.2, 43), stumbles=0.6)
    write("round-and-calm", lambda: HibariVoice(depth=1.12, pace=0.95), 404, room(-59, 1.0, 44), stumbles=0.6)
    write("plain-and-quick", lambda: PiperVoice(pace=1.15), 405, room(-60, 1.0, 45), stumbles=0.6)
    write("northern-in-a-church", lambda: FliteVoice("awb", 1.1), 701, room(-60, 1.0, 71, hall=0.4), stumbles=0.6)
    write("light-beside-a-fan", lambda: FliteVoice("slt", 1.0), 702, room(-48, 1.6, 72), stumbles=0.6)
    write("flat-and-dry", lambda: FliteVoice("kal16", 1.1), 703, room(-65, 1.0, 73), stumbles=0.6)
    write("low-and-quick", lambda: FliteVoice("rms", 0.88), 704, room(-59, 1.0, 74, hall=0.1), stumbles=0.6)
    write("bright-and-quick", lambda: HibariVoice(depth=1.0, pace=1.25), 705, room(-57, 0.8, 75), stumbles=0.6)
    write("plain-in-a-hall", lambda: PiperVoice(pace=0.9), 706, room(-60, 1.0, 76, hall=0.45), stumbles=0.6)
    write("deep-in-an-office", lambda: Deeper(PiperVoice(pace=1.1), 10, 9), 707, room(-55, 1.3, 77), stumbles=0.6)
    write("calm-with-hum", lambda: HibariVoice(depth=1.1, pace=0.9), 708, room(-62, 1.0, 78, mains=-48), stumbles=0.6)


if __name__ == "__main__":
    main()
