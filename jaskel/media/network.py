"""Small networks that look at pictures."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from threading import Lock

import numpy as np
from ai_edge_litert.interpreter import Interpreter

MODELS = Path(__file__).parent / "models"


class Network:
    """A network of one input, as a TensorFlow Lite file; it may be asked by several threads, one after the other."""

    def __init__(self, file: Path) -> None:
        self._asked = Interpreter(str(file), num_threads=1)
        self._asked.allocate_tensors()
        self._input = self._asked.get_input_details()[0]["index"]
        self._outputs = [each["index"] for each in self._asked.get_output_details()]
        self._alone = Lock()

    def answers(self, picture: np.ndarray) -> list[np.ndarray]:
        """What it says of a picture (height, width, 3; float32), without the dimension of batches."""
        with self._alone:
            self._asked.set_tensor(self._input, picture[None])
            self._asked.invoke()
            return [self._asked.get_tensor(each)[0] for each in self._outputs]


@cache
def network(name: str) -> Network:
    """A network that comes with Jaskel, by the name of its file."""
    return Network(MODELS / f"{name}.tflite")
