"""The library of music and sounds that ships with Jaskel, made from nothing: ``python -m jaskel.demo.sounds``.

Plucked strings (Karplus and Strong, 1983), soft pads, and noise through filters for wind, water and rooms. Beds are loops: what
rings on at their end sounds into their beginning.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path

import numpy as np
import soundfile
from scipy.signal import butter, lfilter, sosfilt

RATE = 48_000
OUT = Path(__file__).resolve().parents[1] / "standins" / "sounds"

SCALE = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}


@dataclass(frozen=True)
class Made:
    """A sound of the library: what it is for, how it feels, and how long it is in seconds."""

    id: str
    name: str
    kind: str
    moods: tuple[str, ...]
    seconds: float
    loops: bool


def note(name: str) -> float:
    """The frequency of a note such as ``A3`` or ``F#4``, in hertz."""
    octave, step = int(name[-1]), SCALE[name[0]] + ("#" in name) - ("b" in name)
    return float(440 * 2 ** ((step - 9) / 12 + octave - 4))


def pluck(hertz: float, seconds: float, chance: np.random.Generator, soft: float = 0.5) -> np.ndarray:
    """A plucked string."""
    period = RATE / hertz
    length = int(period)
    burst = np.zeros(round(seconds * RATE))
    burst[:length] = sosfilt(butter(1, min(0.99, 0.9 - 0.8 * soft), output="sos"), chance.uniform(-1, 1, length))
    part = period - length
    damping = 0.996 ** (220 / hertz)
    # The loop: a delay of one period, and a filter that takes a little of the top each time round.
    taps = np.zeros(length + 2)
    taps[length], taps[length + 1] = damping * (1 - 0.5 * part), damping * 0.5 * part
    feedback = np.concatenate([[1.0], -taps[1:]])
    return np.asarray(lfilter([1.0], feedback, burst)) * np.exp(-np.arange(len(burst)) / RATE * 0.6)


def pad(chord: Sequence[float], seconds: float, rise: float = 1.2) -> np.ndarray:
    """A held chord of soft voices, slightly out of tune with one another: shape (samples, 2)."""
    t = np.arange(round(seconds * RATE)) / RATE
    out = np.zeros((len(t), 2))
    for number, hertz in enumerate(chord):
        for side, away in ((0, 0.9985), (1, 1.0015)):
            for harmonic, level in ((1, 1.0), (2, 0.28), (3, 0.1)):
                out[:, side] += level * np.sin(2 * np.pi * hertz * harmonic * away * t + number + harmonic * side)
    shape = np.minimum(1, t / rise) * np.minimum(1, (seconds - t) / (rise * 1.2)).clip(0)
    return out * (np.sin(np.pi / 2 * shape) ** 2)[:, None] / (len(chord) * 2)


def tap(chance: np.random.Generator, hertz: float = 180, seconds: float = 0.18) -> np.ndarray:
    """A soft drum."""
    t = np.arange(round(seconds * RATE)) / RATE
    body = np.sin(2 * np.pi * hertz * np.exp(-t * 8) * t) * np.exp(-t * 26)
    return np.asarray(body + 0.15 * chance.standard_normal(len(t)) * np.exp(-t * 90))


def brush(chance: np.random.Generator) -> np.ndarray:
    t = np.arange(round(0.14 * RATE)) / RATE
    noise = sosfilt(butter(2, [3000, 9000], "bandpass", fs=RATE, output="sos"), chance.standard_normal(len(t)))
    return np.asarray(noise * np.exp(-t * 45) * 0.35)


class Tape:
    """Sounds laid at places; what goes beyond the end sounds at the beginning where it is a loop."""

    def __init__(self, seconds: float, *, loops: bool) -> None:
        self.out, self.loops = np.zeros((round(seconds * RATE), 2)), loops

    def lay(self, at: float, sound: np.ndarray, level: float = 1.0, place: float = 0.0) -> None:
        if sound.ndim == 1:
            sound = sound[:, None] * np.array([np.cos((place + 1) * np.pi / 4), np.sin((place + 1) * np.pi / 4)])
        begin = round(at * RATE)
        here = sound[: max(0, len(self.out) - begin)]
        self.out[begin : begin + len(here)] += level * here
        rest = sound[len(here) :]
        if self.loops and len(rest):
            self.out[: len(rest[: len(self.out)])] += level * rest[: len(self.out)]


def chord(names: str) -> list[float]:
    return [note(each) for each in names.split()]


def strings(
    chords: Sequence[str], beat: float, pattern: Sequence[int], seed: int, *, drums: bool = False, held: bool = True
) -> Tape:
    """A bed of chords, four beats each: plucked by a pattern of their notes, over a pad."""
    chance = np.random.default_rng(seed)
    tape = Tape(len(chords) * 4 * beat, loops=True)
    for bar, names in enumerate(chords):
        notes, begin = chord(names), bar * 4 * beat
        if held:
            tape.lay(begin, pad([each / 2 for each in notes[:3]], 4 * beat + 1.0), 0.16)
        for number, which in enumerate(pattern):
            at = begin + number * 4 * beat / len(pattern) + chance.normal(0, 0.004)
            tape.lay(
                max(0, at),
                pluck(notes[which % len(notes)], 2.2, chance),
                0.22 * chance.uniform(0.8, 1),
                chance.uniform(-0.4, 0.4),
            )
        tape.lay(begin, pluck(notes[0] / 2, 2.6, chance, 0.8), 0.3)
        if drums:
            for number in range(4):
                tape.lay(begin + number * beat, tap(chance) if number % 2 == 0 else brush(chance), 0.28, 0.1)
    return tape


def theme() -> Tape:
    """Eight bars that begin by themselves and end on their own chord."""
    chance = np.random.default_rng(11)
    beat = 0.54
    chords = [
        "D3 A3 D4 F#4",
        "G3 B3 D4 G4",
        "A3 C#4 E4 A4",
        "D3 A3 D4 F#4",
        "B2 F#3 B3 D4",
        "G3 B3 D4 G4",
        "A3 C#4 E4 G4",
        "D3 A3 D4 F#4",
    ]
    tune = "F#4 A4 B4 A4 G4 B4 D5 B4 E4 A4 C#5 A4 F#4 A4 D5 A4 D4 F#4 B4 F#4 G4 B4 D5 B4 E4 G4 C#5 E4 D5 A4 F#4 D4"
    tape = Tape(len(chords) * 4 * beat + 3.0, loops=False)
    for bar, names in enumerate(chords):
        notes, begin = chord(names), bar * 4 * beat
        tape.lay(begin, pad([each / 2 for each in notes[:3]], 4 * beat + 1.4, 0.6), 0.2)
        tape.lay(begin, pluck(notes[0] / 2, 3.0, chance, 0.8), 0.4)
        tape.lay(begin + 2 * beat, pluck(notes[1] / 2, 2.0, chance, 0.8), 0.26)
        for number in range(8):
            tape.lay(begin + number * beat / 2, pluck(notes[(0, 2, 1, 3, 2, 3, 1, 2)[number]], 1.6, chance), 0.14, -0.3)
        if bar >= 2:
            for number in range(4):
                tape.lay(begin + number * beat, tap(chance) if number % 2 == 0 else brush(chance), 0.3, 0.1)
    for number, name in enumerate(tune.split()):
        tape.lay(number * beat, pluck(note(name), 2.0, chance, 0.3), 0.32, 0.25)
    for hertz in chord("D3 A3 D4 F#4 A4 D5"):
        tape.lay(len(chords) * 4 * beat - 0.02, pluck(hertz, 3.0, chance), 0.22)
    return tape


def filtered(seconds: float, low: float, high: float, seed: int) -> np.ndarray:
    """Noise of a band that comes round again without a step: shape (samples, 2)."""
    chance = np.random.default_rng(seed)
    length = round(seconds * RATE)
    lines = np.fft.rfftfreq(length, 1 / RATE)
    shape = 1 / (1 + (low / np.maximum(lines, 1)) ** 4) / (1 + (lines / high) ** 4)
    spectra = (chance.standard_normal((2, len(lines))) + 1j * chance.standard_normal((2, len(lines)))) * shape
    sound = np.fft.irfft(spectra, length, axis=1).T
    return np.asarray(sound / sound.std())


def swell(seconds: float, rounds: int, depth: float, seed: int) -> np.ndarray:
    """A slow rise and fall that comes round with its sound."""
    t = np.arange(round(seconds * RATE)) / (seconds * RATE)
    phase = np.random.default_rng(seed).uniform(0, 2 * np.pi, 3)
    wave = sum(np.sin(2 * np.pi * (rounds + k) * t + phase[k]) for k in range(3)) / 3
    return np.asarray(1 + depth * wave)[:, None]


def harbour() -> Tape:
    tape = Tape(40, loops=True)
    tape.out += 0.05 * filtered(40, 60, 700, 1) * swell(40, 5, 0.6, 2)
    chance = np.random.default_rng(3)
    for at in chance.uniform(0, 40, 26):  # wavelets against a hull
        t = np.arange(round(0.35 * RATE)) / RATE
        drop = np.sin(2 * np.pi * (260 + 240 * t) * t) * np.exp(-t * 14)
        tape.lay(at, drop, 0.03 * chance.uniform(0.4, 1), chance.uniform(-0.8, 0.8))
    return tape


def workshop() -> Tape:
    tape = Tape(40, loops=True)
    tape.out += 0.025 * filtered(40, 90, 2400, 5)
    chance = np.random.default_rng(6)
    for at in (3.1, 3.6, 4.1, 14.2, 14.75, 15.3, 15.8, 27.0, 27.5, 28.1):  # a mallet at the far end
        tape.lay(at, tap(chance, 320, 0.12), 0.16, 0.5)
    for at in (8.0, 21.5, 33.0):  # a plane along a plank
        t = np.arange(round(1.1 * RATE)) / RATE
        rasp = sosfilt(butter(2, [1200, 6000], "bandpass", fs=RATE, output="sos"), chance.standard_normal(len(t)))
        tape.lay(at, rasp * np.sin(np.pi * t / 1.1) ** 2, 0.03, -0.4)
    return tape


def wind() -> Tape:
    tape = Tape(40, loops=True)
    tape.out += 0.06 * filtered(40, 120, 900, 8) * swell(40, 3, 0.7, 9) + 0.012 * filtered(40, 900, 3500, 10) * swell(
        40, 7, 0.9, 11
    )
    return tape


def room() -> Tape:
    tape = Tape(30, loops=True)
    tape.out += 0.012 * filtered(30, 70, 1500, 13)
    return tape


def sting(kind: str) -> Tape:
    chance = np.random.default_rng(len(kind))
    match kind:
        case "up":
            tape = Tape(2.4, loops=False)
            for number, name in enumerate(["D4", "F#4", "A4", "D5"]):
                tape.lay(number * 0.11, pluck(note(name), 2.0, chance), 0.4, -0.3 + number * 0.2)
        case "down":
            tape = Tape(2.6, loops=False)
            for number, name in enumerate(["A4", "F4", "D4", "A3"]):
                tape.lay(number * 0.13, pluck(note(name), 2.1, chance), 0.4, 0.3 - number * 0.2)
        case "bell":
            tape = Tape(3.2, loops=False)
            t = np.arange(round(3.2 * RATE)) / RATE
            strike = sum(
                level * np.sin(2 * np.pi * 620 * ratio * t) * np.exp(-t * fall)
                for ratio, level, fall in ((1, 1, 1.4), (2.76, 0.5, 2.6), (5.4, 0.25, 4.5), (0.5, 0.3, 1.1))
            )
            tape.lay(0, np.asarray(strike), 0.16)
        case "tap":
            tape = Tape(0.7, loops=False)
            tape.lay(0, tap(chance, 240, 0.4), 0.6)
            tape.lay(0.16, tap(chance, 300, 0.4), 0.5)
        case "whoosh":
            tape = Tape(1.4, loops=False)
            shape = np.sin(np.pi * np.arange(len(tape.out)) / len(tape.out)) ** 3
            tape.out += 0.14 * filtered(1.4, 400, 5000, 21) * shape[:, None]
        case _:
            tape = Tape(4.0, loops=False)
            tape.lay(0, pad(chord("D3 A3 D4 F#4"), 4.0, 0.3), 0.5)
    return tape


WARM = ["D4 F#4 A4 D5", "B3 D4 F#4 B4", "G3 B3 D4 G4", "A3 C#4 E4 A4"]
CALM = ["C4 E4 G4 B4", "A3 C4 E4 G4", "F3 A3 C4 E4", "G3 B3 D4 F4"]
GRAVE = ["A3 C4 E4 A4", "F3 A3 C4 F4", "D3 F3 A3 D4", "E3 G#3 B3 E4"]
LIGHT = ["G3 B3 D4 G4", "C4 E4 G4 C5", "D4 F#4 A4 D5", "G3 B3 D4 G4"]
STILL = ["E3 B3 E4 G4", "C4 E4 G4 C5", "A3 E4 A4 C5", "B3 D4 F#4 B4"]


def planks() -> Tape:
    return strings(LIGHT * 4, 0.5, (0, 2, 1, 3, 2, 3, 1, 2), 32, drums=True)


def first_light() -> Tape:
    return strings(WARM * 3, 0.72, (0, 1, 2, 3, 2, 1), 33)


LIBRARY: tuple[tuple[Made, Callable[[], Tape]], ...] = (
    (Made("ropewalk-theme", "Ropewalk theme", "theme", ("warm", "bright"), 0, False), theme),
    (Made("slack-water", "Slack water", "bed", ("calm", "warm"), 0, True), lambda: strings(CALM * 3, 0.86, (0, 2, 1, 3), 31)),
    (Made("planks", "Planks", "bed", ("bright", "busy"), 0, True), planks),
    (Made("first-light", "First light", "bed", ("warm", "hopeful"), 0, True), first_light),
    (Made("low-tide", "Low tide", "bed", ("grave", "calm"), 0, True), lambda: strings(GRAVE * 3, 0.9, (0, 2, 3, 2), 34)),
    (Made("fog-bank", "Fog bank", "bed", ("still", "calm"), 0, True), lambda: strings(STILL * 3, 1.0, (0,), 35)),
    (Made("harbour", "Harbour water", "ambience", ("outdoors", "calm"), 0, True), harbour),
    (Made("workshop", "Boat shed", "ambience", ("indoors", "busy"), 0, True), workshop),
    (Made("wind", "Wind on the quay", "ambience", ("outdoors", "grave"), 0, True), wind),
    (Made("room", "Quiet room", "ambience", ("indoors", "still"), 0, True), room),
    (Made("sting-up", "Four up", "sting", ("bright",), 0, False), lambda: sting("up")),
    (Made("sting-down", "Four down", "sting", ("grave",), 0, False), lambda: sting("down")),
    (Made("sting-bell", "Ship's bell", "sting", ("warm",), 0, False), lambda: sting("bell")),
    (Made("sting-tap", "Two taps", "sting", ("busy",), 0, False), lambda: sting("tap")),
    (Made("sting-whoosh", "Gust", "sting", ("still",), 0, False), lambda: sting("whoosh")),
    (Made("sting-chord", "Held chord", "sting", ("calm",), 0, False), lambda: sting("chord")),
)  # fmt: skip

PEAK = 0.7


def main() -> None:
    OUT.mkdir(exist_ok=True)
    index = []
    for about, make in LIBRARY:
        sound = make().out
        level = PEAK / np.abs(sound).max() if about.kind != "ambience" else 0.25 / np.abs(sound).max()
        with soundfile.SoundFile(OUT / f"{about.id}.opus", "w", RATE, 2, "OPUS", format="OGG", compression_level=0.75) as file:
            file.write((sound * level).astype(np.float32))
        index.append({**asdict(about), "seconds": round(len(sound) / RATE, 3)})
    (OUT / "index.json").write_text(json.dumps(index, indent=1) + "\n")


if __name__ == "__main__":
    main()
