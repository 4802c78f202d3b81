"""Makes ``jaskel/speech/models/together.onnx`` from the weights as their authors trained them.

It was run once: ``python -m bench.make_together WEIGHTS OUT``, where ``onnx`` is installed. WEIGHTS is
``assets/pytorch_model.bin`` of the package murmurai-core 1.0.6, which carries the segmentation model of pyannote.audio 2 (MIT)
unchanged. PyTorch is not needed.
"""

from __future__ import annotations

import pickle
import sys
from collections import OrderedDict
from pathlib import Path
from typing import Any
from zipfile import ZipFile

import numpy as np

LOWEST, HIGHEST = 50.0, 8_000.0
"""Hertz: the filters of the first layer lie between these."""

LAYERS, HIDDEN = 4, 128


class _Other:
    """Stands for whatever else was stored beside the weights."""

    def __init__(self, *_: Any, **__: Any) -> None: ...

    def __setstate__(self, _: Any) -> None: ...


def weights(path: Path) -> dict[str, np.ndarray]:
    """The tensors of a file of PyTorch; nothing in it is run."""
    with ZipFile(path) as file:
        root = file.namelist()[0].split("/")[0]
        kinds = {"FloatStorage": np.float32, "LongStorage": np.int64}

        def tensor(stored: Any, offset: int, shape: tuple[int, ...], stride: tuple[int, ...], *_: Any) -> np.ndarray:
            kind, key = stored
            flat = np.frombuffer(file.read(f"{root}/data/{key}"), kind)[offset:]
            return np.lib.stride_tricks.as_strided(flat, shape, [each * flat.itemsize for each in stride]).copy()

        class Reader(pickle.Unpickler):
            def find_class(self, module: str, name: str) -> Any:
                if name == "_rebuild_tensor_v2":
                    return tensor
                if name == "OrderedDict":
                    return OrderedDict
                return kinds[name] if module == "torch" and name in kinds else type(name, (_Other,), {})

            def persistent_load(self, stored: Any) -> Any:
                return stored[1], stored[2]

        with file.open(f"{root}/data.pkl") as stream:
            return {name: np.asarray(value) for name, value in Reader(stream).load()["state_dict"].items()}


def filters(known: dict[str, np.ndarray]) -> np.ndarray:
    """The band-pass filters of the first layer from their edges (Ravanelli and Bengio, "SincNet", 2018), even ones then odd."""
    at = "sincnet.conv1d.0.filterbank."
    low = LOWEST + np.abs(known[at + "low_hz_"])
    high = np.clip(low + LOWEST + np.abs(known[at + "band_hz_"]), LOWEST, HIGHEST)
    times, window, band = known[at + "n_"], known[at + "window_"], high - low
    below, above = low @ times, high @ times
    even, odd = (np.sin(above) - np.sin(below)) / (times / 2) * window, (np.cos(below) - np.cos(above)) / (times / 2) * window
    both = [np.hstack([even, 2 * band, even[:, ::-1]]), np.hstack([odd, 0 * band, -odd[:, ::-1]])]
    return np.concatenate([each / (2 * band) for each in both])[:, None].astype(np.float32)


def main(source: Path, out: Path) -> None:
    import onnx  # type: ignore[import-not-found,unused-ignore]
    from onnx import TensorProto, helper, numpy_helper

    known = weights(source)
    stored: list[Any] = []
    nodes: list[Any] = []

    def kept(name: str, value: np.ndarray) -> str:
        """Weights in half precision, which moves answers by a few hundredths at most; they are widened when they are read."""
        if value.dtype.kind == "i":
            stored.append(numpy_helper.from_array(value, name))
            return name
        stored.append(numpy_helper.from_array(np.ascontiguousarray(value, np.float16), f"{name} half"))
        return node("Cast", [f"{name} half"], name, to=TensorProto.FLOAT)

    def node(kind: str, inputs: list[str], name: str, **how: Any) -> str:
        nodes.append(helper.make_node(kind, inputs, [name], **how))
        return name

    def own(name: str) -> str:
        return kept(name, known[name])

    def ordered(name: str) -> np.ndarray:
        """The gates of an LSTM in the order of ONNX (input, output, forget, cell)."""
        first, forget, cell, last = np.split(known[name], 4)
        return np.concatenate([first, last, forget, cell])

    at = node("InstanceNormalization", ["sound", own("sincnet.wav_norm1d.weight"), own("sincnet.wav_norm1d.bias")], "evened")
    for number in range(3):
        if number:
            parts = [own(f"sincnet.conv1d.{number}.{each}") for each in ("weight", "bias")]
            at = node("Conv", [at, *parts], f"conv {number}")
        else:
            at = node("Abs", [node("Conv", [at, kept("filters", filters(known))], "filtered", strides=[10])], "conv 0")
        at = node("MaxPool", [at], f"pool {number}", kernel_shape=[3], strides=[3])
        parts = [own(f"sincnet.norm1d.{number}.{each}") for each in ("weight", "bias")]
        at = node("LeakyRelu", [node("InstanceNormalization", [at, *parts], f"norm {number}")], f"out {number}", alpha=0.01)
    at = node("Transpose", [at], "in time", perm=[2, 0, 1])
    for layer in range(LAYERS):
        ways = [f"l{layer}", f"l{layer}_reverse"]
        parts = [
            kept(f"w{layer}", np.stack([ordered(f"lstm.weight_ih_{way}") for way in ways])),
            kept(f"r{layer}", np.stack([ordered(f"lstm.weight_hh_{way}") for way in ways])),
            kept(
                f"b{layer}",
                np.stack([np.hstack([ordered(f"lstm.bias_{each}_{way}") for each in ("ih", "hh")]) for way in ways]),
            ),
        ]
        at = node("LSTM", [at, *parts], f"lstm {layer}", hidden_size=HIDDEN, direction="bidirectional")
        at = node("Transpose", [at], f"both {layer}", perm=[0, 2, 1, 3])
        at = node("Reshape", [at, kept(f"shape {layer}", np.array([0, 0, 2 * HIDDEN]))], f"hidden {layer}")
    for name in ("linear.0", "linear.1", "classifier"):
        at = node("MatMul", [at, kept(f"{name} in", known[f"{name}.weight"].T)], f"{name} product")
        at = node("Add", [at, own(f"{name}.bias")], f"{name} sum")
        at = node("Sigmoid" if name == "classifier" else "LeakyRelu", [at], f"{name} out")
    node("Transpose", [at], "voices", perm=[1, 0, 2])
    sound = helper.make_tensor_value_info("sound", TensorProto.FLOAT, ["batch", 1, "samples"])
    voices = helper.make_tensor_value_info("voices", TensorProto.FLOAT, ["batch", "frames", 3])
    graph = helper.make_graph(nodes, "voices at once", [sound], [voices], stored)
    made = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 17)], ir_version=8)
    onnx.checker.check_model(made)
    onnx.save(made, out)


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
