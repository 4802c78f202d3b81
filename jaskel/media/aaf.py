"""A timeline as AAF (Advanced Authoring Format) with linked media, by OpenTimelineIO's adapter, which writes with pyaaf2."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import opentimelineio as otio


def write_aaf(path: Path, timeline: otio.schema.Timeline) -> None:
    """The file; it looks for its media where the timeline says they lie."""
    import opentimelineio as otio

    wanted = timeline.deepcopy()
    for clip in wanted.find_clips():
        # Of stills nobody knows how long they are: as long as they are seen.
        if clip.media_reference.available_range is None:
            clip.media_reference.available_range = clip.source_range
    # Its media have no numbers of their own yet (MOB ids): new ones are given.
    otio.adapters.write_to_file(wanted, str(path), adapter_name="AAF", use_empty_mob_ids=True)
