"""What sentences of an episode mean, as it was found once: in bytes, each under the digest of its text."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from pathlib import Path
from zipfile import BadZipFile

import numpy as np

from jaskel.store.vault import Vault

SIZE = 384


class Meanings:
    """The file of one episode; it can be deleted at any time and is made again."""

    def __init__(self, vault: Vault, episode: str) -> None:
        self._vault, self._path = vault, vault.meanings(episode)

    @property
    def stamp(self) -> tuple[str, int]:
        """Names the state of the file."""
        return str(self._path), self._path.stat().st_mtime_ns if self._path.exists() else 0

    def of(self, texts: Sequence[str]) -> np.ndarray | None:
        """What texts mean, shape (texts, 384), each of length 1; None where that of one is not known."""
        keys, vectors = _read(self._path)
        wanted = _keys(texts)
        at = np.searchsorted(keys, wanted)
        if not len(keys) or (keys[np.minimum(at, len(keys) - 1)] != wanted).any():
            return None
        found = vectors[at].astype(np.float32)
        directed: np.ndarray = found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-9)
        return directed

    def missing(self, texts: Sequence[str]) -> list[str]:
        """Those of which it is not known yet, each once."""
        known = {*_read(self._path)[0].tolist()}
        return [text for text, key in dict(zip(texts, _keys(texts).tolist(), strict=True)).items() if key not in known]

    def add(self, texts: Sequence[str], meanings: np.ndarray, *, only: Sequence[str] | None = None) -> None:
        """Keep what texts mean; with ``only``, forget all other texts."""
        keys, vectors = _read(self._path)
        # Directions alone count, so that the longest part of each may take up the whole byte.
        most = np.maximum(np.abs(meanings).max(axis=1, keepdims=True), 1e-9)
        keys = np.concatenate((keys, _keys(texts)))
        vectors = np.concatenate((vectors, np.round(meanings / most * 127).astype(np.int8)))
        keys, first = np.unique(keys, return_index=True)
        vectors = vectors[first]
        if only is not None:
            wanted = np.isin(keys, _keys(only))
            keys, vectors = keys[wanted], vectors[wanted]
        with self._vault.making(self._path) as new, new.open("wb") as file:
            np.savez(file, keys=keys, vectors=vectors)


def _keys(texts: Sequence[str]) -> np.ndarray:
    digests = (hashlib.blake2b(text.encode(), digest_size=8).digest() for text in texts)
    return np.array([int.from_bytes(each, "big") for each in digests], np.uint64)


def _read(path: Path) -> tuple[np.ndarray, np.ndarray]:
    try:
        with np.load(path) as held:
            return held["keys"], held["vectors"]
    except (OSError, ValueError, KeyError, BadZipFile, EOFError):
        return np.zeros(0, np.uint64), np.zeros((0, SIZE), np.int8)
