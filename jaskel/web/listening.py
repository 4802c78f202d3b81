"""Listening to an edition: its plan, and its sound in blocks."""

from __future__ import annotations

import hashlib
from bisect import bisect_right
from fractions import Fraction
from io import BytesIO
from typing import Any

from flask import Response, send_file
from pydantic import TypeAdapter

from jaskel.core.picture.framing import DARK
from jaskel.core.plan import Layer, Plan, Scene, SoundSlice, View
from jaskel.core.plan.picture import Carded
from jaskel.core.problem import Missing
from jaskel.core.source import OPENING, Drawn
from jaskel.core.timebase import RATE
from jaskel.media.picture import POSTER, make_poster
from jaskel.media.sound import mix_slice, wav_bytes
from jaskel.store.house_style import style_of
from jaskel.web.cameras import treatment_of
from jaskel.web.context import context
from jaskel.web.graphics import card_key, overlays_out
from jaskel.web.joins import stretch_key
from jaskel.web.resource import binary, kept, resource
from jaskel.web.schemas.common import EditionPath, EpisodePath
from jaskel.web.schemas.editions import (
    BlockOut,
    BlockPath,
    BlocksOut,
    BlocksQuery,
    LayerOut,
    ModeQuery,
    PlanOut,
    SpanOut,
)
from jaskel.web.schemas.sound import LaidBedOut, RidePointOut
from jaskel.web.serializers import reply
from jaskel.web.shows import find_episode

api = resource("listening", __name__)

AHEAD = 90 * RATE
"""So much of the programme is described at a time."""


@api.get("/editions/<edition_id>/plan", responses={200: PlanOut})
def get_plan(path: EditionPath, query: ModeQuery):  # type: ignore[no-untyped-def]
    """What plays and what is seen when: the page looks up in it where it is."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        return reply(plan_out(context().plan(session, opened, query.mode, _ranges(query.without)), opened.revision))


def plan_out(plan: Plan, revision: int) -> PlanOut:
    """A plan as the page looks things up in it."""
    return PlanOut(
        revision=revision,
        length=plan.length,
        width=plan.frame.width,
        height=plan.frame.height,
        spans=[SpanOut(handover=s.handover, at=s.clear_from, until=s.clear_to, laid=s.laid) for s in plan.spans],
        layers=_LAYERS.validate_python([_layer(plan, layer) for layer in plan.layers]),
        overlays=[*overlays_out(plan)],
        card=hashlib.sha256(repr(plan.material.style).encode()).hexdigest()[:12],
        beds=[
            LaidBedOut(
                id=each.bed.id,
                at=each.at,
                until=each.until,
                ride=[RidePointOut(at=at, decibels=level) for at, level in plan.ridden(each)],
            )
            for each in plan.placed
        ],
    )


def _layer(plan: Plan, layer: Layer) -> dict[str, Any]:
    """A layer as plain values, which are made into thousands of objects much more quickly at once."""
    shown = layer.shown
    views = [_view(view) for view in shown.views] if isinstance(shown, Scene) else []
    card = shown.card if isinstance(shown, Carded) else shown
    ground = shown.ground if isinstance(shown, Scene) and (len(views) > 1 or shown.ground != DARK) else None
    return {
        "begin": layer.begin,
        "until": layer.until,
        "views": views,
        "card": card_key(plan, shown),
        "text": card.text if isinstance(card, Drawn) else None,
        "ground": ground,
        "stretch": stretch_key(plan, layer),
    }


def _view(view: View) -> dict[str, Any]:
    camera = view.camera
    crops = [{"at": at, "box": box} for at, box in view.crops]
    at = {"recording": camera.recording, "place": camera.place, "speed": camera.speed, "still": camera.still}
    return at | {"box": view.box, "crops": crops} | treatment_of(view)


_LAYERS = TypeAdapter(list[LayerOut])


def _ranges(text: str) -> list[tuple[int, int]]:
    return [(int(begin), int(end)) for begin, end in (each.split("-") for each in text.split(",") if each)]


@api.get("/editions/<edition_id>/blocks", responses={200: BlocksOut})
def get_blocks(path: EditionPath, query: BlocksQuery):  # type: ignore[no-untyped-def]
    """The next blocks of sound from a place in the programme on. Their keys name their content: keep what you have."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().plan(session, opened, query.mode, _ranges(query.without))
    first = max(0, bisect_right(plan.blocks, query.at, key=lambda block: block.at) - 1)
    ahead = [block for block in plan.blocks[first : first + 90] if block.at < query.at + AHEAD]
    keys = [context().hand_out(plan.sound(block.at, block.until)) for block in ahead]
    blocks = [BlockOut(at=block.at, until=block.until, key=key) for block, key in zip(ahead, keys, strict=True)]
    return reply(BlocksOut(revision=opened.revision, length=plan.length, blocks=blocks))


@api.get("/editions/<edition_id>/sound/<key>", responses=binary("audio/wav"))
def get_sound(path: BlockPath):  # type: ignore[no-untyped-def]
    """One block as 16-bit WAV."""
    heard = context().handed_out.get(path.key, lambda: _found(path))
    return kept(Response(wav_bytes(mix_slice(heard, context().workshop.sound.read)), mimetype="audio/wav"))


def _found(path: BlockPath) -> SoundSlice:
    """A block by its key, where another process told of it: the edition as it is now has it, or it is gone."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plans = [context().plan(session, opened, mode) for mode in ("edited", "recorded")]
    for plan in plans:
        for block in plan.blocks:
            heard = plan.sound(block.at, block.until)
            if heard.digest == path.key:
                return heard
    raise Missing("no-block", "This stretch has changed since. Ask for the blocks again.")


@api.get("/episodes/<episode_id>/picture", responses=binary("image/jpeg"))
def get_episode_picture(path: EpisodePath):  # type: ignore[no-untyped-def]
    """A small picture of an episode: of its first film, else of its first still picture, else its card."""
    vault = context().workshop.home.vault
    with context().workshop.home.database.read() as session:
        episode = find_episode(session, path.episode_id)
        artist = context().workshop.artist((episode.title, episode.show.name), style_of(episode.show))
        shown = sorted((each for each in episode.recordings if each.has_working_copy), key=lambda each: each.kind == "still")
        first = next((each for each in shown if vault.working_copy(each.digest).exists()), None)
    if first is None:
        file = BytesIO()
        artist.card(OPENING, *POSTER).save(file, "JPEG", quality=82)
        return Response(file.getvalue(), mimetype="image/jpeg", headers={"Cache-Control": "max-age=60"})
    poster = vault.poster(first.digest)
    if not poster.exists():
        a_third = None if first.kind == "still" else Fraction(first.length, 3 * RATE)
        with vault.making(poster) as new:
            make_poster(vault.working_copy(first.digest), new, a_third)
    return send_file(poster, mimetype="image/jpeg", max_age=60)


@api.get("/episodes/<episode_id>/card", responses=binary("image/png"))
def get_card(path: EpisodePath):  # type: ignore[no-untyped-def]
    """The episode's card as PNG, in the house style; the page asks for it by another address once that changes."""
    with context().workshop.home.database.read() as session:
        episode = find_episode(session, path.episode_id)
        artist = context().workshop.artist((episode.title, episode.show.name), style_of(episode.show))
    file = BytesIO()
    artist.card(OPENING, 1280, 720).save(file, "PNG")
    return Response(file.getvalue(), mimetype="image/png", headers={"Cache-Control": "max-age=60"})
