"""Real voices in five languages: the recorded prompts of Debian's packages ``asterisk-core-sounds-*-wav``, with their texts.

They are not part of the repository. Install them (``apt-get install asterisk-core-sounds-en asterisk-core-sounds-en-wav``, and
the same for it, es, fr and ru), or name the folder they were unpacked to in ``JASKEL_PROMPTS``; without them this group is left
out. The voices are telephone sound of 8 kHz, which none of the product's rules was made for.
"""

from __future__ import annotations

import gzip
import os
import random
import re
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
import soxr

from bench.bare import bare_recogniser
from bench.figure import Figure
from jaskel.core.tidy.find import find
from jaskel.core.tidy.heard import strung
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.speech.activity import hear
from jaskel.speech.language import spoken_in
from jaskel.speech.measure import plain, word_error
from jaskel.speech.recognise import RATE_16K
from jaskel.speech.script import fit_text
from jaskel.speech.transcribe import transcribe
from jaskel.speech.weights import recogniser_for

ROOT = Path(os.environ.get("JASKEL_PROMPTS", "/"))
LANGUAGES = {"en": 60, "it": 25, "es": 25, "fr": 25, "ru": 25}
"""Sentences heard in each."""

FEWEST_WORDS = 5
TALKS, TAKES = 4, 8
"""Talks with takes in them, and sentences said twice in each, among as many said once."""


@dataclass(frozen=True)
class Prompt:
    text: str
    sound: np.ndarray


@dataclass(frozen=True)
class Talk:
    """Sentences one after the other: the sound at 16 kHz; each with its place in seconds, and whether it is said twice."""

    sound: np.ndarray
    said: tuple[tuple[str, float, float, bool], ...]

    def part(self, start: int, end: int) -> np.ndarray:
        return self.sound[start // 3 : end // 3]

    @property
    def length(self) -> int:
        return 3 * len(self.sound)

    @property
    def words(self) -> list[str]:
        return [word for text, *_ in self.said for word in text.split()]


def prompts(language: str) -> list[Prompt]:
    """Whole sentences of a language, longest texts last."""
    listed = ROOT / f"usr/share/doc/asterisk-core-sounds-{language}/core-sounds-{language}.txt.gz"
    if not listed.exists():
        return []
    found = []
    for line in gzip.decompress(listed.read_bytes()).decode("utf-8", "replace").splitlines():
        name, _, text = line.partition(":")
        text = re.sub(r"\[[^\]]*\]|\([^)]*\)|<[^>]*>", " ", text).strip()
        files = sorted((ROOT / "usr/share/asterisk/sounds").glob(f"{language}*/{name.strip()}.wav")) if text else []
        if files and len(text.split()) >= FEWEST_WORDS and not re.search(r"[\d;#*/\"]|\.\.\.", text):
            sound, rate = soundfile.read(files[0], dtype="float32")
            found.append(Prompt(" ".join(text.split()), np.asarray(soxr.resample(sound, rate, RATE_16K), np.float32)))
    return sorted(found, key=lambda prompt: len(prompt.text))


def talk(chosen: list[tuple[Prompt, bool]], seed: int) -> Talk:
    """Sentences with rests between them; one said twice is said a little quicker and louder the second time."""
    rng = np.random.default_rng(seed)
    parts, said, at = [np.zeros(RATE_16K // 2, np.float32)], [], 0.5
    for prompt, twice in chosen:
        for again in range(2 if twice else 1):
            sound = _trimmed(prompt.sound)
            if again:
                sound = 1.1 * soxr.resample(sound, 1.03, 1.0)
            rest = rng.uniform(0.35, 0.6) if twice and not again else rng.uniform(0.6, 1.1)
            said.append((prompt.text, at, at + len(sound) / RATE_16K, twice))
            parts += [sound, np.zeros(round(rest * RATE_16K), np.float32)]
            at += (len(parts[-2]) + len(parts[-1])) / RATE_16K
    sound = np.concatenate(parts)
    return Talk((sound + 3e-4 * rng.standard_normal(len(sound))).astype(np.float32), tuple(said))


def _trimmed(sound: np.ndarray) -> np.ndarray:
    loud = np.flatnonzero(np.abs(sound) > 0.02 * np.abs(sound).max())
    return sound[max(0, loud[0] - 800) : loud[-1] + 1600]


def heard(made: Talk, language: str) -> list[Word]:
    return [word for part in transcribe(made.part, made.length, recogniser_for(language), language) for word in part.words]


def figures(folder: Path) -> Iterator[Figure]:
    """Word error and cost beside the bare recogniser, texts fitted, and sentences said twice."""
    known = {language: prompts(language) for language in LANGUAGES}
    if not known["en"]:
        yield Figure("prompts of real voices", "not installed", "left out", True)
        return
    for language, count in LANGUAGES.items():
        chosen = random.Random(5).sample(known[language], min(count, len(known[language])))
        if chosen:
            yield from _heard_and_fitted(language, talk([(prompt, False) for prompt in chosen], 5), folder)
    yield from _takes(known["en"])


def _heard_and_fitted(language: str, made: Talk, folder: Path) -> Iterator[Figure]:
    name = f"prompts, {language}"
    found = spoken_in(made.part, made.length).language
    yield Figure(f"{name}: language found", found, language, found == language)
    recogniser_for(language)  # loaded before the time is taken, as the bare one is
    begun = time.perf_counter()
    words = heard(made, language)
    took = time.perf_counter() - begun
    reference = [plain(word) for word in made.words]
    error = word_error(reference, [plain(word.text) for word in words if not word.is_sound])
    sounds = sum(word.is_sound for word in words)
    if language == "en":
        soundfile.write(folder / "prompts.wav", made.sound, RATE_16K)
        model = bare_recogniser()
        begun = time.perf_counter()
        segments = list(model.transcribe(str(folder / "prompts.wav"), language="en", word_timestamps=True)[0])
        bare_took = time.perf_counter() - begun
        bare_error = word_error(reference, [plain(word.word) for segment in segments for word in segment.words or ()])
        yield Figure(f"{name}: word error", f"{error:.1%}", f"bare {bare_error:.1%}", error <= bare_error + 0.005)
        yield Figure(
            f"{name}: time beside the bare recogniser", f"{took / bare_took:.2f} ×", "≤ 1.4 ×", took <= 1.4 * bare_took
        )
    else:
        yield Figure(f"{name}: word error", f"{error:.1%}", "", True)
    yield Figure(f"{name}: sounds found where there are none", f"{sounds}", "0", sounds == 0)
    recogniser = recogniser_for(language)
    script = fit_text(made.part, made.length, made.words, recogniser, language, known=words)
    lost = 1 - len(script.words) / len(made.words)
    yield Figure(f"{name}: words of its text lost", f"{lost:.2%}", "≤ 0.3 %", lost <= 0.003)


def unlike(known: list[Prompt]) -> list[Prompt]:
    """Those that share no three words in a row with one before: instructions resemble one another as attempts do."""
    found, taken = [], set[tuple[str, ...]]()
    for prompt in known:
        words = [plain(word) for word in prompt.text.split()]
        runs = {tuple(words[index : index + 3]) for index in range(len(words) - 2)}
        if not runs & taken:
            found.append(prompt)
            taken |= runs
    return found


def _takes(known: list[Prompt]) -> Iterator[Figure]:
    found = touched = twice = single = 0
    for number in range(TALKS):
        chosen = unlike(random.Random(number).sample(known, len(known)))[: 2 * TAKES]
        made = talk([(prompt, index % 2 == 0) for index, prompt in enumerate(chosen)], number)
        words = heard(made, "en")
        findings = find(words, strung(list(hear(made.part, made.length))), kinds=["retake"])
        cut = [(f.start / RATE, f.end / RATE) for f in findings]
        places = list(made.said)
        for index, (_, start, end, again) in enumerate(places):
            first = again and index + 1 < len(places) and places[index + 1][0] == places[index][0]
            share = sum(max(0.0, min(end, b) - max(start, a)) for a, b in cut) / (end - start)
            if first:
                twice += 1
                found += share > 0.8
            elif not again:
                single += 1
                touched += share > 0.1
    yield Figure(f"sentences of a real voice said twice, of {twice}", f"{found / twice:.0%}", "≥ 95 %", found >= 0.95 * twice)
    yield Figure(
        f"sentences said once that are touched, of {single}", f"{touched / single:.1%}", "≤ 1 %", touched <= 0.01 * single
    )
