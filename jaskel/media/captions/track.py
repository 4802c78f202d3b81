"""Captions as a track of a film, which players show or hide: timed text in MP4, SubRip in MKV."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from typing import Any

import av
from av.subtitles.subtitle import SubtitleSet

from jaskel.core.captions.cues import Cue
from jaskel.core.timebase import RATE, Ticks

HEADER = b"""[Script Info]
ScriptType: v4.00+

[V4+ Styles]
Format: Name, Fontname, Fontsize, PrimaryColour, SecondaryColour, OutlineColour, BackColour, Bold, Italic, Underline, \
StrikeOut, ScaleX, ScaleY, Spacing, Angle, BorderStyle, Outline, Shadow, Alignment, MarginL, MarginR, MarginV, Encoding
Style: Default,Arial,16,&Hffffff,&Hffffff,&H0,&H0,0,0,0,0,100,100,0,0,1,1,0,2,10,10,10,0

[Events]
Format: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text
"""
"""What the encoders of libavcodec take captions with; the style is their own, so that nothing is written of it."""

MILLISECOND = Fraction(1, 1000)

CODECS = {"mp4": "mov_text", "mov": "mov_text", "matroska": "subrip"}
"""Encoders by container."""


class CaptionTrack:
    """The captions of a film that is written; packets are asked for in order, as its pictures are written."""

    def __init__(self, cues: Sequence[Cue], language: str = "en") -> None:
        self._cues, self._language = cues, language
        self._packets: Iterator[av.Packet] = iter(())
        self._waiting: av.Packet | None = None

    def begin(self, out: Any, container: str) -> None:
        """Add the track to a container that is open for writing."""
        stream = out.add_stream(CODECS[container])
        stream.codec_context.subtitle_header = HEADER
        stream.time_base = MILLISECOND
        stream.metadata["language"] = three_letters(self._language)
        self._packets = self._encoded(stream)
        self._waiting = next(self._packets, None)

    def until(self, at: Ticks) -> Iterator[av.Packet]:
        """What begins up to a place of the programme and was not given yet."""
        while self._waiting is not None and (self._waiting.pts or 0) * RATE <= at * 1000:
            yield self._waiting
            self._waiting = next(self._packets, None)

    def _encoded(self, stream: Any) -> Iterator[av.Packet]:
        for number, cue in enumerate(self._cues):
            # Both ends are rounded down, so that captions that touch still touch and none overlap.
            start, end = cue.start * 1000 // RATE, cue.end * 1000 // RATE
            # Braces and backslashes say something in this form.
            text = "\\N".join(line.replace("\\", "⧵").replace("{", "(").replace("}", ")") for line in cue.lines)
            told = f"{number},0,Default,,0,0,0,,{text}".encode()
            packet = stream.codec_context.encode_subtitle(
                SubtitleSet.create(text=told, start=0, end=end - start, pts=start * 1000)
            )
            packet.stream, packet.time_base = stream, MILLISECOND
            packet.pts = packet.dts = start
            packet.duration = end - start
            yield packet


def three_letters(language: str) -> str:
    """The code of ISO 639-2 that containers want for one of BCP 47; ``und`` where there is none."""
    return ISO_639_2.get(language.split("-")[0].lower(), "und")


ISO_639_2 = {
    "ar": "ara", "bg": "bul", "bn": "ben", "ca": "cat", "cs": "ces", "cy": "cym", "da": "dan", "de": "deu", "el": "ell",
    "en": "eng", "es": "spa", "et": "est", "eu": "eus", "fa": "fas", "fi": "fin", "fr": "fra", "ga": "gle", "gl": "glg",
    "he": "heb", "hi": "hin", "hr": "hrv", "hu": "hun", "hy": "hye", "id": "ind", "is": "isl", "it": "ita", "ja": "jpn",
    "ka": "kat", "ko": "kor", "la": "lat", "lt": "lit", "lv": "lav", "mk": "mkd", "ms": "msa", "nl": "nld", "no": "nor",
    "pl": "pol", "pt": "por", "ro": "ron", "ru": "rus", "sk": "slk", "sl": "slv", "sq": "sqi", "sr": "srp", "sv": "swe",
    "sw": "swa", "ta": "tam", "te": "tel", "th": "tha", "tl": "tgl", "tr": "tur", "uk": "ukr", "ur": "urd", "vi": "vie",
    "yi": "yid", "zh": "zho",
}  # fmt: skip
"""Codes of two letters and of three (ISO 639-1 and 639-2/T)."""
