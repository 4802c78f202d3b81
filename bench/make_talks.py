"""Speak generated talks: other texts, voices, speeds, rooms and noise than the demo's.

Run with ``python -m bench.make_talks`` where the ``demo-world`` extra is installed. Its products in ``bench/talks`` are
committed, so that the figures need no synthetic voices. Each talk has a file of truths beside it, in seconds.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

import numpy as np
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


class Aloud(Speaker):
    """Says texts with a voice."""

    def __init__(self, seed: int, voice: Voice) -> None:
        super().__init__(seed)
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


def write(name: str, aloud: Aloud, room: Callable[[np.ndarray], np.ndarray]) -> None:
    """Give a talk and store its sound and its truth."""
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

    write("quick-and-clean", Aloud(101, HibariVoice(depth=0.94, pace=1.2)), room(-72, 1.0, 11))
    write("slow-in-a-hall", Aloud(102, HibariVoice(depth=1.3, pace=0.95)), room(-58, 1.0, 12, hall=0.6))
    write("beside-a-fan", Aloud(103, PiperVoice(pace=1.1)), room(-46, 1.6, 13))
    write("slow-with-hum", Aloud(104, PiperVoice(pace=0.85)), room(-62, 1.0, 14, mains=-46))
    write("higher-with-hiss", Aloud(105, Deeper(PiperVoice(pace=0.9), 7, 8)), room(-48, 0.0, 15))
    write("deep-and-quick", Aloud(106, Deeper(HibariVoice(depth=1.15, pace=1.3), 9, 8)), room(-56, 1.0, 16, hall=0.25))


if __name__ == "__main__":
    main()
