"""Time as an integer count of ticks, 48,000 to the second.

Everything inside Jaskel counts in ticks, so that sums are exact and one tick is one sample of sound. Seconds and frames
appear only where something comes in or goes out.
"""

from __future__ import annotations

from fractions import Fraction

Ticks = int

RATE = 48_000
"""Ticks in a second; also the sample rate of everything that is mixed."""


def from_seconds(seconds: float | Fraction) -> Ticks:
    """The tick nearest to ``seconds``.

    >>> from_seconds(0.5)
    24000
    """
    return round(seconds * RATE)


def to_seconds(ticks: Ticks) -> float:
    """Seconds, for files and people."""
    return ticks / RATE


def frame_start(number: int, rate: Fraction) -> Ticks:
    """First tick of frame ``number`` at ``rate`` frames a second, rounded up so that the frame has begun.

    >>> frame_start(25, Fraction(25))
    48000
    """
    return -(-number * RATE * rate.denominator // rate.numerator)


def frame_count(length: Ticks, rate: Fraction) -> int:
    """How many frames a programme of ``length`` has at ``rate``: the nearest whole number, never none."""
    return max(1, round(Fraction(length) * rate / RATE))


def clock(ticks: Ticks, decimals: int = 0) -> str:
    """``ticks`` as people read a running time: ``m:ss`` or ``h:mm:ss``.

    >>> clock(48_000 * 192 + 19_200, decimals=1)
    '3:12.4'
    """
    scale = 10**decimals
    units = ticks * scale // RATE
    seconds, part = divmod(units, scale)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    text = f"{hours}:{minutes:02}:{seconds:02}" if hours else f"{minutes}:{seconds:02}"
    return f"{text}.{part:0{decimals}}" if decimals else text
