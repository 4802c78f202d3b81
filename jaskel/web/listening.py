"""Listening to an edition: its plan, and its sound in blocks."""

from __future__ import annotations

from bisect import bisect_right

from flask import Response

from jaskel.core.problem import Missing
from jaskel.core.timebase import RATE
from jaskel.media.card import draw_card
from jaskel.media.sound import mix, wav_bytes
from jaskel.web.context import context
from jaskel.web.present import reply
from jaskel.web.resource import binary, resource
from jaskel.web.schemas.common import EditionPath, EpisodePath
from jaskel.web.schemas.editions import BlockOut, BlockPath, BlocksOut, BlocksQuery, ModeQuery, PlanOut, SpanOut
from jaskel.web.shows import find_episode

api = resource("listening", __name__)

AHEAD = 90 * RATE
"""So much of the programme is described at a time."""


@api.get("/editions/<edition_id>/plan", responses={200: PlanOut})
def get_plan(path: EditionPath, query: ModeQuery):  # type: ignore[no-untyped-def]
    """Which stretches of which recordings play when."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        plan = context().programme(session, opened, query.mode, _ranges(query.without)).plan
    spans = [SpanOut(**{name: getattr(span, name) for name in SpanOut.model_fields}) for span in plan.spans]
    return reply(PlanOut(revision=opened.revision, length=plan.length, spans=spans))


def _ranges(text: str) -> list[tuple[int, int]]:
    return [(int(begin), int(end)) for begin, end in (each.split("-") for each in text.split(",") if each)]


@api.get("/editions/<edition_id>/blocks", responses={200: BlocksOut})
def get_blocks(path: EditionPath, query: BlocksQuery):  # type: ignore[no-untyped-def]
    """The next blocks of sound from a place in the programme on. Their keys name their content: keep what you have."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        programme = context().programme(session, opened, query.mode, _ranges(query.without))
    first = max(0, bisect_right(programme.blocks, query.at, key=lambda block: block.at) - 1)
    ahead = [block for block in programme.blocks[first : first + 90] if block.at < query.at + AHEAD]
    return reply(
        BlocksOut(
            revision=opened.revision,
            length=programme.plan.length,
            blocks=[BlockOut(at=block.at, until=block.until, key=block.key) for block in ahead],
        )
    )


@api.get("/editions/<edition_id>/sound/<key>", responses=binary("audio/wav"))
def get_sound(path: BlockPath):  # type: ignore[no-untyped-def]
    """One block as 16-bit WAV."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        programmes = [context().programme(session, opened, mode) for mode in ("edited", "recorded")]
    programmes += [tried for edition, tried in context().tried if edition == opened.id]
    for programme in programmes:
        if block := programme.by_key.get(path.key):
            sound = mix(programme.plan, block.at, block.until, context().workshop.sound.read)
            response = Response(wav_bytes(sound), mimetype="audio/wav")
            response.cache_control.max_age, response.cache_control.immutable = 86_400, True
            return response
    raise Missing("no-block", "This stretch has changed since. Ask for the blocks again.")


@api.get("/episodes/<episode_id>/card", responses=binary("image/png"))
def get_card(path: EpisodePath):  # type: ignore[no-untyped-def]
    """The episode's card as PNG, as exports show it while there is only sound."""
    from io import BytesIO

    with context().workshop.home.database.read() as session:
        episode = find_episode(session, path.episode_id)
        title, show = episode.title, episode.show.name
    file = BytesIO()
    draw_card(title, show, (1280, 720)).save(file, "PNG")
    return Response(file.getvalue(), mimetype="image/png", headers={"Cache-Control": "max-age=60"})
