"""Marks: everything that is tied to a place of the material or of the programme, in one container.

To add a kind, write a module here with a frozen dataclass derived from :class:`~jaskel.core.marks.mark.Mark`, give it a
``kind``, register it with :func:`~jaskel.core.marks.mark.mark`, and name the module below. Setting, undoing, carrying along
when files are replaced, storing and copying then work for it.
"""

from jaskel.core.marks import (
    ad_break,
    bed,
    bleep,
    camera,
    caption_look,
    caption_second,
    caption_wording,
    captions,
    chain,
    chapter,
    cutaway,
    graphic,
    join,
    level,
    lock,
    loudness,
    note,
    select,
    shot,
    splice,
)

__all__ = [
    "ad_break",
    "bed",
    "bleep",
    "camera",
    "caption_look",
    "caption_second",
    "caption_wording",
    "captions",
    "chain",
    "chapter",
    "cutaway",
    "graphic",
    "join",
    "level",
    "lock",
    "loudness",
    "note",
    "select",
    "shot",
    "splice",
]
