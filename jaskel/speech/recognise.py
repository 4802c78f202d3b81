"""What was said: the recogniser behind a small protocol, and its adapter for CTranslate2 models."""

from __future__ import annotations

import os
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import accumulate, pairwise
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

import numpy as np

from jaskel.core.problem import Problem
from jaskel.speech.pipeline import AHEAD

if TYPE_CHECKING:
    from faster_whisper.tokenizer import Tokenizer
    from faster_whisper.transcribe import Segment

RATE_16K = 16_000

FILLER_PROMPT = "Um, so, uh, I was, um, thinking, hmm, you know."
"""Recognisers trained on tidied captions leave fillers out; a prompt that has them brings many back."""


MOST_WORDS_A_SECOND = 7.0
"""Nobody speaks faster; more words than fit the voice are made up, as these models do where it is silent."""

DOUBTFUL, TOO_LITTLE_VOICE = 0.15, 0.25
"""The models thank their listeners where a sound ends: a last sentence whose first word has less than this probability, and
less than a quarter of a second of voice, is made up. (Seen: made up at most 0.12 and 0.21 s, spoken at least 1.2 s.)"""

Voice = Sequence[tuple[float, float]]
"""From-to in seconds of the stretches with voice."""


@dataclass(frozen=True)
class HeardWord:
    """A word as the recogniser gives it: rough times in seconds of the sound it was given, probability 0 to 1."""

    text: str
    start: float
    end: float
    probability: float


@dataclass(frozen=True)
class Utterance:
    """A stretch the recogniser took as one: rough ``start`` and ``end`` in seconds, its words in order."""

    start: float
    end: float
    words: tuple[HeardWord, ...]


class Recogniser(Protocol):
    """Turns sound into words. Several sounds are heard in less time together than one after the other."""

    languages: Sequence[str]

    def utterances(self, sounds: Sequence[np.ndarray], language: str, voices: Sequence[Voice]) -> list[list[Utterance]]:
        """What is said in each of the sounds: float32 mono at 16 kHz, at most 30 s, with the voice that is in them."""
        ...

    def heard(self, sounds: Sequence[np.ndarray], language: str, prompt: str = "") -> list[list[HeardWord]]:
        """The same in a hurry: what is said, with times only as good as the sentence they stand in.

        ``prompt`` has terms that may occur; it makes them likelier.
        """
        ...

    def likelihoods(self, sound: np.ndarray, texts: Sequence[str], language: str) -> list[float]:
        """How likely each of the texts is what is said in ``sound``, as the logarithm of a probability."""
        ...

    def placed(self, sound: np.ndarray, texts: Sequence[str], language: str) -> list[HeardWord]:
        """Words known to be said in this order in ``sound`` (at most 30 s), with rough times and how well they fit it."""
        ...

    def captions_of(self, sounds: Sequence[np.ndarray]) -> list[str]:
        """What it would write for sounds that may hold no words, such as ``(laughs)``; at most 30 s each."""
        ...

    def languages_of(self, voice: np.ndarray) -> dict[str, float]:
        """How probable each language (a code of ISO 639-1) is for up to 30 s of voice, float32 mono at 16 kHz."""
        ...


class WhisperRecogniser:
    """Adapter for faster-whisper and a folder of weights in CTranslate2 form."""

    def __init__(self, folder: Path) -> None:
        from faster_whisper import WhisperModel

        # Threads of one batch wait for each other at every layer; those of different batches do not.
        threads = max(1, (os.cpu_count() or 2) // AHEAD)
        self._model = WhisperModel(str(folder), device="cpu", compute_type="int8", cpu_threads=threads, num_workers=AHEAD)
        self.languages: Sequence[str] = ("en",) if not self._model.model.is_multilingual else self._model.supported_languages

    def utterances(self, sounds: Sequence[np.ndarray], language: str, voices: Sequence[Voice]) -> list[list[Utterance]]:
        found = []
        for sound, voice, segments in zip(sounds, voices, self._segments(sounds, language), strict=True):
            if any(map(_is_doubtful, segments)):
                segments = self._tried_again(sound, language)
            segments = [segment for segment in segments if not _is_silence(segment)]
            found.append(list(_utterances(segments, voice, len(sound) / RATE_16K)))
        return found

    def _segments(self, sounds: Sequence[np.ndarray], language: str) -> list[list[Segment]]:
        """What the model makes of each of the sounds at first, in one batch."""
        from faster_whisper import BatchedInferencePipeline

        edges = list(accumulate(map(len, sounds), initial=0))
        found, _ = BatchedInferencePipeline(self._model).transcribe(
            np.concatenate(sounds),
            language=language,
            clip_timestamps=[{"start": a / RATE_16K, "end": b / RATE_16K} for a, b in pairwise(edges)],
            batch_size=len(sounds),
            word_timestamps=True,
            without_timestamps=False,
            initial_prompt=_prompt(language),
        )
        by_sound: list[list[Segment]] = [[] for _ in sounds]
        for segment in found:
            # Its own times may lie a little outside of what it was given.
            number = bisect_right(edges, (segment.seek + 1) * RATE_16K // FRAMES, hi=len(sounds)) - 1
            by_sound[number].append(_earlier(segment, edges[number] / RATE_16K))
        return by_sound

    def _tried_again(self, sound: np.ndarray, language: str) -> list[Segment]:
        """What it makes of one of them where it may leave its first thought, with more and more chance in its choice."""
        return list(
            self._model.transcribe(
                sound,
                language=language,
                word_timestamps=True,
                condition_on_previous_text=False,
                initial_prompt=_prompt(language),
            )[0]
        )

    def heard(self, sounds: Sequence[np.ndarray], language: str, prompt: str = "") -> list[list[HeardWord]]:
        from ctranslate2 import StorageView

        model, tokenizer = self._model, self._tokenizer(language)
        before = tokenizer.encode(" " + (_prompt(language, prompt) or "")) if prompt else []
        tokens = model.get_prompt(tokenizer, before)
        encoded = StorageView.from_array(self._encoded(sounds))
        results = model.model.generate(encoded, [tokens] * len(sounds), beam_size=1)
        return [
            list(_spread_words(result.sequences_ids[0], tokenizer, len(sound) / RATE_16K))
            for sound, result in zip(sounds, results, strict=True)
        ]

    def likelihoods(self, sound: np.ndarray, texts: Sequence[str], language: str) -> list[float]:
        from ctranslate2 import StorageView

        model, tokenizer = self._model, self._tokenizer(language)
        prompt = model.get_prompt(tokenizer, tokenizer.encode(" " + (_prompt(language) or "")), without_timestamps=True)
        tokens = [tokenizer.encode(f" {text}") for text in texts]
        encoded = StorageView.from_array(np.repeat(self._encoded([sound]), len(texts), axis=0))
        frames = min(LONGEST, len(sound) * FRAMES // RATE_16K) // 2
        results = model.model.align(encoded, prompt, tokens, frames)
        return [float(np.log(np.maximum(result.text_token_probs, 1e-9)).sum()) for result in results]

    def placed(self, sound: np.ndarray, texts: Sequence[str], language: str) -> list[HeardWord]:
        from ctranslate2 import StorageView

        if not texts:
            return []
        tokenizer = self._tokenizer(language)
        encoded = StorageView.from_array(self._encoded([sound], LONGEST))
        frames = min(LONGEST, len(sound) * FRAMES // RATE_16K)
        parts = self._model.find_alignment(tokenizer, [tokenizer.encode(f" {' '.join(texts)}")], encoded, frames)[0]
        return _gathered(
            [HeardWord(p["word"], float(p["start"]), float(p["end"]), float(p["probability"])) for p in parts], texts
        )

    def captions_of(self, sounds: Sequence[np.ndarray]) -> list[str]:
        from ctranslate2 import StorageView

        model, tokenizer = self._model, self._tokenizer("en")
        prompt = model.get_prompt(tokenizer, [], without_timestamps=True)
        texts = []
        for sound in sounds:
            encoded = StorageView.from_array(self._encoded([sound], SOUND))
            # Captions of sounds are among the tokens that are suppressed as a rule.
            found = model.model.generate(encoded, [prompt], beam_size=1, suppress_tokens=[], max_length=CAPTION)
            texts.append(str(tokenizer.decode(found[0].sequences_ids[0])))
        return texts

    def languages_of(self, voice: np.ndarray) -> dict[str, float]:
        if not self._model.model.is_multilingual:
            return {self.languages[0]: 1.0}
        return dict(self._model.detect_language(voice)[2])

    def _tokenizer(self, language: str) -> Tokenizer:
        from faster_whisper.tokenizer import Tokenizer

        multilingual = self._model.model.is_multilingual
        return Tokenizer(self._model.hf_tokenizer, multilingual, task="transcribe", language=language)

    def _encoded(self, sounds: Sequence[np.ndarray], least: int = 0) -> np.ndarray:
        """Sounds as the model hears them, with no more silence after them than it needs, and ``least`` frames together."""
        from faster_whisper.audio import pad_or_trim

        features = [self._model.feature_extractor(sound) for sound in sounds]
        frames = min(LONGEST, max(least, max(each.shape[-1] for each in features) + QUIET_END))
        # One after the other is quicker here; for what follows, all at once is.
        return np.concatenate([np.asarray(self._model.encode(pad_or_trim(each, frames))) for each in features])


def _gathered(parts: Sequence[HeardWord], texts: Sequence[str]) -> list[HeardWord]:
    """Words from the parts they were taken apart into, at marks or syllable by syllable."""
    found: list[HeardWord] = []
    left = list(parts)
    for text in texts:
        missing, here = len("".join(text.split())), []
        while missing > 0 and left:
            here.append(left.pop(0))
            missing -= len("".join(here[-1].text.split()))
        at = found[-1].end if found else 0.0
        start, end = (here[0].start, here[-1].end) if here else (at, at)
        likely = max((part.probability for part in here), default=0.0)
        found.append(HeardWord(text, start, max(start, end), min(likely, MOST_CERTAIN)))
    return found


CAPTION, SOUND = 24, 1000
"""Tokens to which what is written for a sound is kept, and frames it is given. (Of 21 whole laughs and coughs by real people,
18 are named right in 10 s, and 15 in 30 s, which take four times as long.)"""

FRAMES, LONGEST, QUIET_END = 100, 3000, 100
"""Frames a second, in 30 s, and in one second. The models are made for 30 s and take as long for less, unless they are given
less: of the silence after a sound they need about a second, or they go on talking."""

REPEATING, UNLIKELY, SILENT = 2.4, -1.0, 0.6
"""Words that compress better than this are one phrase over and over; with a mean log probability below this they are guesses,
unless the model itself takes it for silence, with so much probability. (The bounds of the models' makers.)"""


def _is_doubtful(segment: Segment) -> bool:
    guessed = segment.avg_logprob < UNLIKELY and not _is_silence(segment)
    return guessed or segment.compression_ratio > REPEATING


def _is_silence(segment: Segment) -> bool:
    return segment.avg_logprob < UNLIKELY and segment.no_speech_prob > SILENT


def _earlier(segment: Segment, seconds: float) -> Segment:
    words = [replace(word, start=word.start - seconds, end=word.end - seconds) for word in segment.words or ()]
    return replace(segment, start=segment.start - seconds, end=segment.end - seconds, words=words)


def _utterances(segments: Sequence[Segment], voice: Voice, length: float) -> Iterator[Utterance]:
    """Segments as utterances, without what nobody said; ``length`` is that of the sound, in seconds."""
    for segment in segments:
        words = tuple(_whole_words(segment))
        words = without_made_up_end(words, voice, length)
        if words and len(words) <= 3 + MOST_WORDS_A_SECOND * _voiced(voice, words[0].start - 0.5, words[-1].end + 0.5):
            yield Utterance(segment.start, segment.end, words)


MOST_CERTAIN = 0.999
"""Only people are certain."""


def _whole_words(segment: Segment) -> Iterator[HeardWord]:
    """The words of a segment as they are written: what has no space before it belongs to the word before (“open-source”)."""
    waiting: HeardWord | None = None
    for part in segment.words or ():
        text = part.word.strip()
        if not any(character.isalnum() for character in text):
            continue
        if waiting and not part.word[0].isspace() and not (text[0].isalnum() and waiting.text[-1].isalnum()):
            likely = min(waiting.probability, part.probability)
            waiting = HeardWord(waiting.text + text, waiting.start, part.end, likely)
            continue
        if waiting:
            yield waiting
        waiting = HeardWord(text, part.start, part.end, min(part.probability, MOST_CERTAIN))
    if waiting:
        yield waiting


def _spread_words(tokens: Sequence[int], tokenizer: Tokenizer, length: float) -> Iterator[HeardWord]:
    """The words of each sentence laid out over its time; ``tokens`` are text with times before and after each sentence."""
    begin, text = 0.0, []
    for token in [*tokens, tokenizer.timestamp_begin + round(length / TIME_STEP)]:
        if token < tokenizer.timestamp_begin:
            text.append(token)
            continue
        end = (token - tokenizer.timestamp_begin) * TIME_STEP
        words = [word for word in tokenizer.decode(text).split() if any(character.isalnum() for character in word)]
        share = max(0.0, end - begin) / max(1, len(words))
        for index, word in enumerate(words):
            yield HeardWord(word, begin + index * share, begin + (index + 1) * share, 0.9)
        begin, text = end, []


TIME_STEP = 0.02
"""Seconds from one token of time to the next."""


def without_made_up_end(words: tuple[HeardWord, ...], voice: Voice, length: float) -> tuple[HeardWord, ...]:
    """Words up to a last sentence that nobody said; ``length`` is that of the sound, in seconds."""
    first = next((i for i in range(len(words) - 1, 0, -1) if words[i - 1].text[-1] in ".?!…"), 0)
    doubtful = bool(words) and words[first].probability < DOUBTFUL
    return words[:first] if doubtful and _voiced(voice, words[first].start, length) < TOO_LITTLE_VOICE else words


def _prompt(language: str, terms: str = "") -> str | None:
    return f"{FILLER_PROMPT if language == 'en' else ''} {terms}".strip() or None


def _voiced(voice: Voice, begin: float, end: float) -> float:
    """Seconds of voice between two places."""
    return sum(max(0.0, min(until, end) - max(start, begin)) for start, until in voice)


@lru_cache(maxsize=2)
def whisper(folder: Path) -> WhisperRecogniser:
    """The recogniser with the weights in ``folder``, loaded once in a process.

    Raises
    ------
    Problem
        ``no-weights`` when the folder does not hold any. They are never looked for elsewhere, by whatever name.
    """
    wanted = [name for name in ("model.bin", "config.json") if not (folder / name).is_file()]
    if wanted:
        raise Problem("no-weights", f"There are no recogniser weights in {folder}: {' and '.join(wanted)} should be there.")
    try:
        return WhisperRecogniser(folder.resolve())
    except (RuntimeError, ValueError, OSError) as error:
        raise Problem(
            "no-weights", f"The recogniser weights in {folder} are damaged, or not in the form that is read here (CTranslate2)."
        ) from error
