"""Chains by name, and as plain values: the ones that come with Jaskel, and those in files."""

from __future__ import annotations

import json
from dataclasses import asdict, fields, replace
from typing import Any

from jaskel.core.problem import Problem
from jaskel.core.sound.processor import PROCESSORS, Chain, Compressor, Gain, Hum, LowCut, Noise, Processor, Sibilants

CHAINS: dict[str, Chain] = {
    "close microphone": (LowCut(hertz=70), Hum(amount=100), Noise(amount=60), Sibilants(), Compressor()),
    "room with echo": (LowCut(hertz=90), Hum(), Noise(amount=85), Sibilants(strength=0.3), Compressor(ratio=2.0)),
    "phone line": (LowCut(hertz=150), Hum(), Noise(amount=75), Compressor(threshold=-28, ratio=3.0)),
    "leave it alone": (),
}
"""Full strength sounds unnatural, so none of them takes all noise out."""


OWN = "own"
"""What a chain is called that is none of these."""


def noise_of(chain: Chain) -> int | None:
    """How much noise is taken out, in per cent; None where a chain has nothing for it."""
    return next((each.amount for each in chain if isinstance(each, Noise)), None)


def with_noise(chain: Chain, amount: int) -> Chain:
    """The same chain taking out another amount of noise."""
    return tuple(replace(each, amount=amount) if isinstance(each, Noise) else each for each in chain)


def called(chain: Chain) -> str:
    """What a chain is called, whatever its gain and its amount of noise reduction; ``own`` where it is none of ours."""
    known = with_noise(_without_gain(chain), 100)
    return next((name for name, each in CHAINS.items() if with_noise(each, 100) == known), OWN)


def _without_gain(chain: Chain) -> Chain:
    return tuple(each for each in chain if not isinstance(each, Gain))


def to_json(chain: Chain) -> list[dict[str, Any]]:
    """A chain as plain values; :func:`from_json` reads them."""
    return [{"kind": each.kind, **asdict(each)} for each in chain]


def from_json(values: Any) -> Chain:
    """A chain from plain values: a list, or an object with a list under ``chain``.

    Raises
    ------
    Problem
        ``no-chain``, which says what is wrong with it.

    >>> from_json([{"kind": "gain", "decibels": -3}])
    (Gain(on=True, amount=100, decibels=-3.0),)
    """
    listed = values.get("chain") if isinstance(values, dict) else values
    if not isinstance(listed, list):
        raise _wrong("it is no list of processors")
    return tuple(_processor(each, number) for number, each in enumerate(listed, 1))


def _processor(values: Any, number: int) -> Processor:
    kind = values.get("kind") if isinstance(values, dict) else None
    made = PROCESSORS.get(kind) if isinstance(kind, str) else None
    if made is None:
        raise _wrong(f"its processor {number} is none that is known; there are {', '.join(PROCESSORS)}")
    known = {field.name: field.type for field in fields(made)}
    settings = {name: value for name, value in values.items() if name != "kind"}
    for name, value in settings.items():
        if name not in known:
            raise _wrong(f"“{kind}” has no setting “{name}”; it has {', '.join(known)}")
        number_wanted = known[name] != "bool"
        if isinstance(value, bool) == number_wanted or not isinstance(value, bool | int | float):
            raise _wrong(f"“{name}” of “{kind}” is {'no number' if number_wanted else 'neither true nor false'}")
    try:
        return made(**settings)
    except ValueError as error:
        raise _wrong(str(error)) from error


def _wrong(what: str) -> Problem:
    return Problem("no-chain", f"This is not a chain that Jaskel can use: {what}.")


def chain_called(name: str) -> Chain:
    """A chain that comes with Jaskel, by its name.

    Raises
    ------
    Problem
        ``no-chain`` where there is none of that name.
    """
    wanted = " ".join(name.lower().replace("-", " ").split())
    if wanted not in CHAINS:
        raise Problem(
            "no-chain", f"There is no chain called “{name}”. There are {', '.join(CHAINS)}, or a JSON file of your own."
        )
    return CHAINS[wanted]


def read_chain(text: str) -> Chain:
    """A chain from the text of a JSON file.

    Raises
    ------
    Problem
        ``no-chain``.
    """
    try:
        return from_json(json.loads(text))
    except (ValueError, RecursionError) as error:
        raise _wrong("it is not JSON") from error
