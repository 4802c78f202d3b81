"""One picture going over into another: fading, through a colour, sliding over it, or pushing it away."""

from __future__ import annotations

import numpy as np

from jaskel.core.picture.joins import Join
from jaskel.media.bridge import Bridge


class Transition:
    """The pictures of a join, each made of the two that would be seen at its moment (RGB, eight bits)."""

    def __init__(self, join: Join) -> None:
        self._join = join
        self._bridge: Bridge | None = None

    @property
    def holds(self) -> bool:
        """Whether it is made of the last picture before it and the first one after it alone."""
        return self._join.kind == "bridge"

    def at(self, share: float, before: np.ndarray, after: np.ndarray) -> np.ndarray:
        """What is seen so far on the way, from 0 to 1."""
        kind = self._join.kind
        if kind == "bridge":
            self._bridge = self._bridge or Bridge(before, after)
            return self._bridge.at(share)
        if kind == "dip":
            colour = np.array([int(self._join.colour[at : at + 2], 16) for at in (1, 3, 5)], np.float32)
            solid = np.broadcast_to(colour, before.shape)
            return _mixed(before, solid, 2 * share) if share < 0.5 else _mixed(solid, after, 2 * share - 1)
        if kind == "dissolve":
            return _mixed(before, after, share)
        width = before.shape[1]
        edge = round(width * (1 - _eased(share)))
        out = np.empty_like(before)
        # Both go to the left: what comes next comes from the right, as one reads.
        out[:, :edge] = before[:, width - edge :] if kind == "push" else before[:, :edge]
        out[:, edge:] = after[:, : width - edge]
        return out


def _mixed(a: np.ndarray, b: np.ndarray, share: float) -> np.ndarray:
    mixed: np.ndarray = a * np.float32(1 - share) + b * np.float32(share) + np.float32(0.5)
    return mixed.astype(np.uint8)


def _eased(share: float) -> float:
    """The smoothstep 3p² − 2p³."""
    return share * share * (3 - 2 * share)
