"""Make the demo world: speak it, spoil it, film it, and write down where everything is.

Run with ``python -m jaskel.demo.make`` where the ``demo-world`` extra is installed. Its products in ``jaskel/demo/media`` are
committed, so that nobody needs the synthetic voices to start the demo.

Each recording gets a file of truths beside it: every word with its edges, every fault with its place, in seconds of that
recording.
"""

from __future__ import annotations

import json
import multiprocessing
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from functools import partial
from pathlib import Path

import av
import numpy as np
from scipy.signal import fftconvolve

from jaskel.demo import presenter, world
from jaskel.demo.voices import RATE, Clip, HibariVoice, PiperVoice, cough, door, laugh, written_words

MEDIA = Path(__file__).with_name("media")
FILLERS = {"um", "uh"}
LEVEL = {"orla": 1.0, "teo": 0.16, "ines": 0.9}


@dataclass
class Placed:
    """One recording as it is put together: a track per voice, what the room adds, and what is true of it."""

    tracks: dict[str, np.ndarray]
    room: np.ndarray
    words: list[dict[str, object]] = field(default_factory=list)
    faults: list[dict[str, object]] = field(default_factory=list)


def _put(track: np.ndarray, clip: np.ndarray, at: float) -> None:
    start = round(at * RATE)
    track[start : start + len(clip)] += clip


def perform(turns: tuple[world.Turn, ...], voices: dict[str, HibariVoice | PiperVoice]) -> Placed:
    """Speak the turns one after the other, each voice on a clean track of its own."""
    placed = Placed({name: np.zeros(RATE * 600, np.float32) for name in voices}, np.zeros(RATE * 600, np.float32))
    now, seed = 0.0, 0

    def say(voice: str, clip: Clip, at: float, kind: str) -> float:
        _put(placed.tracks[voice], clip.samples * LEVEL[voice], at)
        for word in clip.words:
            entry = {"text": word.text, "start": round(at + word.start, 4), "end": round(at + word.end, 4)}
            placed.words.append({**entry, "voice": voice, "exact": word.exact, "kind": kind})
        return at + clip.seconds

    for turn in turns:
        begun = now = now + turn.gap
        for part in re.split(r"(\{[^}]+\})", turn.text):
            name, _, value = part.strip("{}").partition(" ") if part.startswith("{") else ("", "", "")
            seed += 1
            if name == "rest":
                placed.faults.append({"kind": "rest", "start": round(now, 4), "end": round(now + float(value), 4)})
                now += float(value)
            elif name == "cough":
                clip = cough(seed)
                _put(placed.tracks[value], clip.samples * 0.8, now + 0.9)
                where = {"start": round(now + 0.9, 4), "end": round(now + 0.9 + clip.seconds, 4), "voice": value}
                placed.faults.append({"kind": "cough", **where})
            elif name in ("laugh", "door"):
                clip = laugh(voices[value].speak("Ha.", 1), 3) if name == "laugh" else door(seed)
                track, level = (placed.tracks[value], LEVEL[value]) if name == "laugh" else (placed.room, 0.5)
                _put(track, clip.samples * level, now + 0.3)
                where = {"start": round(now + 0.3, 4), "end": round(now + 0.3 + clip.seconds, 4)}
                placed.faults.append({"kind": name, **({"voice": value} if value else {}), **where})
                now += clip.seconds + 0.55
            elif name in FILLERS:
                clip = voices[turn.voice].speak(f"{name.capitalize()},", seed)
                now += 0.16
                end = say(turn.voice, clip, now, "filler")
                where = {"start": round(now, 4), "end": round(end, 4), "voice": turn.voice}
                placed.faults.append({"kind": "filler", "text": name, **where})
                now = end + 0.14
            else:
                for sentence in re.findall(r"[^.?!]+[.?!]?", part):
                    if written_words(sentence):
                        seed += 1
                        now = say(turn.voice, voices[turn.voice].speak(sentence.strip(), seed), now, "speech") + 0.12
        now -= 0.12
        if turn.fault or turn.take:
            where = {"start": round(begun, 4), "end": round(now, 4), "voice": turn.voice, "take": turn.take}
            text = re.sub(r"\s*\{[^}]+\}\s*", " ", turn.text).strip()
            placed.faults.append({"kind": turn.fault or "good take", "text": text, **where})
    length = round((now + 1.5) * FPS_TICKS) / FPS_TICKS
    placed.tracks = {name: track[: round(length * RATE)] for name, track in placed.tracks.items()}
    placed.room = placed.room[: round(length * RATE)]
    placed.words.sort(key=lambda word: float(str(word["start"])))
    return placed


FPS_TICKS = presenter.FPS


def noise(count: int, level_db: float, seed: int, slope: float = 1.0) -> np.ndarray:
    """Room noise: white noise tilted by 1/f^slope/2, ``level_db`` RMS below full scale."""
    spectrum = np.fft.rfft(np.random.default_rng(seed).standard_normal(count))
    spectrum /= np.maximum(np.fft.rfftfreq(count, 1 / RATE), 40) ** (slope / 2)
    sound = np.fft.irfft(spectrum, count)
    return (sound / np.sqrt((sound**2).mean()) * 10 ** (level_db / 20)).astype(np.float32)


def hum(count: int, level_db: float) -> np.ndarray:
    t = np.arange(count) / RATE
    tone = sum(np.sin(2 * np.pi * 50 * n * t + n) / n for n in (1, 2, 3, 5))
    return (tone * 10 ** (level_db / 20)).astype(np.float32)


def echo(sound: np.ndarray, seconds: float, seed: int) -> np.ndarray:
    rng = np.random.default_rng(seed)
    t = np.arange(round(seconds * RATE)) / RATE
    response = rng.standard_normal(len(t)) * np.exp(-t / (seconds / 5)) * 0.03
    response[0] = 1.0
    return fftconvolve(sound, response)[: len(sound)].astype(np.float32)


def write_media(
    path: Path, sound: np.ndarray, pictures: Iterator[np.ndarray] | None = None, audio_rate: int = 64_000, crf: int = 31
) -> None:
    """Write mono ``sound`` (and 25 fps ``pictures``) to ``path``; the suffix chooses the container."""
    with av.open(str(path), "w") as out:
        audio = out.add_stream("aac" if path.suffix in (".mp4", ".m4a") else "libopus", rate=RATE, layout="mono")
        audio.bit_rate = audio_rate
        video = None
        if pictures is not None:
            video = out.add_stream("libx264", rate=presenter.FPS, options={"crf": str(crf), "preset": "slow", "g": "250"})
            video.width, video.height = presenter.SIZE
            video.pix_fmt = "yuv420p"
            for picture in pictures:
                for packet in video.encode(av.VideoFrame.from_ndarray(picture, format="rgb24")):
                    out.mux(packet)
            for packet in video.encode():
                out.mux(packet)
        for start in range(0, len(sound), 1024):
            chunk = np.clip(sound[None, start : start + 1024], -1, 1)
            block = av.AudioFrame.from_ndarray(np.ascontiguousarray(chunk), "fltp", "mono")
            block.sample_rate, block.pts, block.time_base = RATE, start, Fraction(1, RATE)
            for packet in audio.encode(block):
                out.mux(packet)
        for packet in audio.encode():
            out.mux(packet)


def write_truth(name: str, placed: Placed, **more: object) -> None:
    about = {"duration": len(next(iter(placed.tracks.values()))) / RATE, **more}
    text = json.dumps({**about, "faults": placed.faults, "words": placed.words}, indent=1)
    (MEDIA / f"{name}.truth.json").write_text(text + "\n")


def switched(tracks: dict[str, np.ndarray]) -> Iterator[np.ndarray]:
    """The picture of whoever speaks, changed at most every two seconds."""
    faces = {name: list(presenter.performance(name, track, RATE)) for name, track in tracks.items()}
    hop = RATE // presenter.FPS
    names = list(tracks)
    loud = np.array(
        [[np.abs(t[i : i + hop]).max() / LEVEL[n] for i in range(0, len(t) - hop + 1, hop)] for n, t in tracks.items()]
    )
    window = np.ones(15)
    loud = np.array([np.convolve(row, window, "same") for row in loud])
    on, since = 0, 0
    for number in range(loud.shape[1]):
        best = int(loud[:, number].argmax())
        if best != on and number - since > 50 and loud[best, number] > 1.5 * loud[on, number]:
            on, since = best, number
        yield presenter.picture(names[on], faces[names[on]][number])


def make_interview(voices: dict[str, HibariVoice | PiperVoice]) -> list[Callable[[], None]]:
    """Two microphones (Orla's hums, Teo's is quiet), two cameras and a mix of it all; gives what is left to film."""
    placed = perform(world.INTERVIEW, voices)
    orla, teo, room = placed.tracks["orla"], placed.tracks["teo"], placed.room
    count = len(orla)
    bleed = 10 ** (-32 / 20)
    own = {
        "orla": echo(orla, 0.35, 1) + bleed * np.roll(teo, 288) + room + hum(count, -46) + noise(count, -58, 1),
        "teo": teo + bleed * np.roll(orla, 288) + 0.4 * np.roll(room, 200) + noise(count, -74, 2),
    }
    for name, track in own.items():
        write_media(MEDIA / f"interview-{name}.ogg", track, audio_rate=56_000)
    films: list[Callable[[], None]] = []
    offsets = {"orla": 1.72, "teo": -2.48}
    for name, offset in offsets.items():
        far = echo(0.5 * orla + 0.5 * teo, 0.5, 3) + room + noise(count, -56, 4)
        shift = round(abs(offset) * RATE / 1920) * 1920
        pad = (lambda x, s=shift: np.concatenate([np.zeros(s, np.float32), x])) if offset > 0 else (lambda x, s=shift: x[s:])
        offsets[name] = (1 if offset > 0 else -1) * shift / RATE
        films.append(partial(_film, f"interview-camera-{name}", pad(far), name, pad(placed.tracks[name]), 40_000))
    films.append(partial(_mixed, own["orla"] + own["teo"], placed.tracks))
    write_truth("interview", placed, camera_offsets=offsets)
    return films


def _film(file: str, sound: np.ndarray, voice: str, spoken: np.ndarray, audio_rate: int = 64_000) -> None:
    write_media(MEDIA / f"{file}.mp4", sound, presenter.frames(voice, spoken, RATE), audio_rate)


def _mixed(sound: np.ndarray, tracks: dict[str, np.ndarray]) -> None:
    write_media(MEDIA / "interview.mp4", sound, switched(tracks), audio_rate=64_000, crf=39)


def make_to_camera(voices: dict[str, HibariVoice | PiperVoice]) -> Callable[[], None]:
    """One voice and one camera; gives what is left to film."""
    placed = perform(world.TO_CAMERA, voices)
    spoken = placed.tracks["ines"]
    write_truth("mending-a-sail", placed)
    sound = echo(spoken, 0.2, 5) + noise(len(spoken), -62, 6)
    return partial(_film, "mending-a-sail", sound, "ines", spoken)


def main() -> None:
    MEDIA.mkdir(exist_ok=True)
    films = [
        *make_interview({"orla": HibariVoice(pace=1.02), "teo": PiperVoice(pace=0.97)}),
        make_to_camera({"ines": HibariVoice(depth=1.12)}),
    ]
    # Drawing is what takes long, and each film is drawn by itself.
    crew = [multiprocessing.get_context("fork").Process(target=film) for film in films]
    for each in crew:
        each.start()
    for each in crew:
        each.join()
        if each.exitcode:
            raise SystemExit("A film could not be made.")
    for path in sorted(MEDIA.iterdir()):
        print(f"{path.stat().st_size / 1e6:6.2f} MB  {path.name}")


if __name__ == "__main__":
    main()
