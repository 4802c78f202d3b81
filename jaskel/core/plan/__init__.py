"""The plan: what is really played, seen, rendered and captioned, compiled from an edition and its material."""

from jaskel.core.plan.material import BARE, Material
from jaskel.core.plan.picture import CARD_FRAME, Blend, Camera, Frame, Layer, PictureSlice, Scene, View
from jaskel.core.plan.plan import BLOCK, Block, Plan, compile_plan
from jaskel.core.plan.sound import Feed, SoundSlice, TrackSpan
from jaskel.core.plan.span import Span

__all__ = [
    "BARE", "BLOCK", "CARD_FRAME", "Blend", "Block", "Camera", "Feed", "Frame", "Layer", "Material", "PictureSlice", "Plan",
    "Scene", "SoundSlice", "Span", "TrackSpan", "View", "compile_plan",
]  # fmt: skip
