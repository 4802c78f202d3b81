"""The recogniser by itself, as it comes: what transcription and alignment are measured against."""

from __future__ import annotations

import os
from functools import lru_cache
from typing import TYPE_CHECKING

from jaskel.speech.weights import english_weights

if TYPE_CHECKING:
    from faster_whisper import WhisperModel


@lru_cache(maxsize=1)
def bare_recogniser() -> WhisperModel:
    """The packaged weights with all of the machine's processors, warm."""
    import numpy as np
    from faster_whisper import WhisperModel

    model = WhisperModel(str(english_weights()), device="cpu", compute_type="int8", cpu_threads=os.cpu_count() or 2)
    list(model.transcribe(np.zeros(160_000, np.float32), language="en")[0])
    return model
