"""Opening files from outside: only as one of the forms named here, never as a list of other files.

What a file may hold is decided by its content. Playlists and scripts (HLS, DASH, concat and their kin) would have the library
read other files and addresses, so no such reader is ever tried.
"""

from __future__ import annotations

from pathlib import Path

import av

READERS = [
    "aac",
    "ac3",
    "aiff",
    "amr",
    "ape",
    "apng",
    "asf",
    "au",
    "avi",
    "caf",
    "dts",
    "dv",
    "eac3",
    "flac",
    "flv",
    "gif",
    "h264",
    "hevc",
    "ivf",
    "m4v",
    "matroska",
    "mov",
    "mp3",
    "mpeg",
    "mpegts",
    "mpegvideo",
    "mxf",
    "ogg",
    "rm",
    "tta",
    "voc",
    "w64",
    "wav",
    "webm",
    "wv",
]
"""FFmpeg's names of the readers of sound and video that may be used."""

STILLS = ("PNG", "JPEG", "WEBP", "GIF", "TIFF", "BMP")
"""Pillow's names of the forms of still pictures that may be used."""


def open_media(path: Path) -> av.container.InputContainer:
    """Open a sound or video file. Close it after use.

    Raises
    ------
    av.error.FFmpegError
        When it is in none of the forms in :data:`READERS`.
    """
    allowed = {"format_whitelist": ",".join(READERS), "protocol_whitelist": "file"}
    return av.open(f"file:{path.absolute()}", container_options=allowed)
