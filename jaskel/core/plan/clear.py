"""Captions that keep clear of lower thirds, and of faces where there is room elsewhere."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace

from jaskel.core.captions.cues import Cue
from jaskel.core.picture.faces import Faces
from jaskel.core.picture.framing import Box
from jaskel.core.picture.graphic import Graphic, Overlay, Strap, Title
from jaskel.core.plan.picture import Layer, Scene
from jaskel.core.timebase import Ticks

STRAP_HEIGHT = 16.0
"""How high captions go to clear a lower third, in per cent of the picture's height in a wide picture."""

CAPTION_SHARE = 0.22
"""So much of the picture, from below or from above, captions may take."""

Boxes = Callable[[Ticks], Sequence[Box]]
"""Where faces are in the frame at a place of the programme."""


def clear_of(cues: Sequence[Cue], overlays: Sequence[Overlay], ratio: float, faces: Boxes = lambda _: ()) -> tuple[Cue, ...]:
    """Captions out of the way of lower thirds and faces; ``ratio`` is the width of the picture by its height.

    Over a lower third or title at the bottom they move up. Where a face is below, they stand at the top if none is there.
    """
    low = [each for each in overlays if isinstance(each.graphic, Strap) or _low(each.graphic)]
    return tuple(_clear(cue, low, STRAP_HEIGHT * min(1.0, ratio), faces) for cue in cues)


def _clear(cue: Cue, low: Sequence[Overlay], up: float, faces: Boxes) -> Cue:
    if cue.look.down != "bottom":
        return cue
    if any(each.begin < cue.end and each.until > cue.start for each in low):
        cue = replace(cue, look=replace(cue.look, y=max(-100.0, min(cue.look.y, 0.0) - up)))
    if hides_face(cue, faces) and not any(_reaches(box, 0.0, CAPTION_SHARE) for box in _during(cue, faces)):
        return replace(cue, look=replace(cue.look, down="top", y=0.0))
    return cue


def hides_face(cue: Cue, faces: Boxes) -> bool:
    """Whether a caption at the bottom stands over the middle of a face."""
    until = 1 + min(0.0, cue.look.y) / 100
    return cue.look.down == "bottom" and any(_reaches(box, until - CAPTION_SHARE, until) for box in _during(cue, faces))


def _during(cue: Cue, faces: Boxes) -> Iterator[Box]:
    """The faces that are seen during a caption, at its beginning, its middle and its end."""
    for at in (cue.start, (cue.start + cue.end) // 2, cue.end - 1):
        yield from faces(at)


def _reaches(box: Box, top: float, bottom: float) -> bool:
    """Whether the lower half of a face, its mouth, lies between two heights."""
    return box.y + box.height * 0.9 > top and box.y + box.height * 0.5 < bottom and box.x < 0.95 and box.x + box.width > 0.05


def faces_seen(layer: Layer | None, at: Ticks, faces: Mapping[str, Faces]) -> Iterator[Box]:
    """Where faces are in the frame, of the cameras of a layer at a place of the programme."""
    if layer is None or not isinstance(layer.shown, Scene):
        return
    after = at - layer.begin
    for view in layer.shown.views:
        known = faces.get(view.camera.recording)
        crop = view.crop(after)
        for box in known.at(view.camera.after(after)) if known else ():
            x, y = (box.x - crop.x) / crop.width, (box.y - crop.y) / crop.height
            wide, high = box.width / crop.width, box.height / crop.height
            slot = view.box
            yield Box(slot.x + x * slot.width, slot.y + y * slot.height, wide * slot.width, high * slot.height)


def _low(graphic: Graphic) -> bool:
    return isinstance(graphic, Title) and graphic.down == "bottom"
