"""Moving pictures without sound, for pages that play them by themselves, and single pictures."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from PIL import Image

from jaskel.core.plan import Plan
from jaskel.core.plan.picture import Outlet
from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE, Ticks, frame_start
from jaskel.media.captions.drawn import Overlay
from jaskel.media.graphics import Artist
from jaskel.media.render import Report, pictures

LONGEST: Ticks = 60 * RATE
"""A longer one would be larger than a film of it, by far."""

SHORT = 360
"""Pixels of the shorter side at most."""

SLOW = Fraction(25, 2)
"""Pictures a second: each of them lasts 80 ms, which both forms can say exactly."""

COLOURS = 256


def write_animation(
    path: Path,
    form: str,
    plan: Plan,
    originals: Callable[[str], Path],
    artist: Artist,
    progress: Report,
    overlay: Callable[[Plan], Overlay] | None,
) -> None:
    """``GIF`` or ``WEBP`` that begins again at its end.

    Raises
    ------
    Problem
        ``too-long``.
    """
    if plan.length > LONGEST:
        raise Problem("too-long", f"Moving pictures of this form have {LONGEST // RATE} s at most. Select a shorter stretch.")
    short = min(SHORT, plan.frame.width, plan.frame.height)
    small = replace(plan, outlet=Outlet(short - short % 2, SLOW))
    every = _images(small, originals, artist, progress, overlay)
    first = next(every)
    how = {"quality": 75, "method": 2} if form == "WEBP" else {"disposal": 1}
    images = every if form == "WEBP" else (_reduced(each) for each in every)
    first = first if form == "WEBP" else _reduced(first)
    first.save(path, form, save_all=True, append_images=images, duration=round(1000 / SLOW), loop=0, **how)


def write_picture(path: Path, plan: Plan, originals: Callable[[str], Path], artist: Artist, overlay: Overlay | None) -> None:
    """The first picture of a programme as PNG, as large as a film of it."""
    picture = next(pictures(plan, originals, artist))
    shown = overlay.over(picture, 0) if overlay else picture
    Image.fromarray(shown.to_ndarray(format="rgb24")).save(path, "PNG")


def _images(
    plan: Plan,
    originals: Callable[[str], Path],
    artist: Artist,
    progress: Report,
    overlay: Callable[[Plan], Overlay] | None,
) -> Iterator[Image.Image]:
    over = overlay(plan) if overlay else None
    for number, picture in enumerate(pictures(plan, originals, artist)):
        at = frame_start(number, SLOW)
        shown = over.over(picture, at) if over else picture
        yield Image.fromarray(shown.to_ndarray(format="rgb24"))
        progress(min(at, plan.length))


def _reduced(image: Image.Image) -> Image.Image:
    return image.quantize(COLOURS, Image.Quantize.MEDIANCUT, dither=Image.Dither.FLOYDSTEINBERG)
