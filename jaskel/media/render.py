"""Exports: a plan written as a sound file or a film.

Sound comes from :func:`jaskel.media.sound.mix`, pictures from the originals. Everything is written stretch by stretch, so
memory does not grow with length.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import closing
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, Literal

import av
import numpy as np
import soundfile

from jaskel.core.chapters import ProgrammeChapter
from jaskel.core.destination import Quality
from jaskel.core.plan import Frame, Plan
from jaskel.core.plan.picture import Shown
from jaskel.core.timebase import RATE, Ticks, frame_count, frame_start
from jaskel.media.ahead import one_ahead
from jaskel.media.captions.drawn import Overlay
from jaskel.media.captions.track import CaptionTrack
from jaskel.media.chapters import put_into
from jaskel.media.conformed import write_samples
from jaskel.media.cover import Cover, as_comment, put_into_flac
from jaskel.media.effort import SOUND, of_picture
from jaskel.media.film_pictures import (
    FilmPictures,
    PictureEncoder,
    PictureTrack,
    ProgrammePictures,
    beside,
    packets_of,
)
from jaskel.media.graphics import Artist
from jaskel.media.picture import KEY_PICTURES, stamped
from jaskel.media.scene import Studio
from jaskel.media.sound import Read, mix
from jaskel.media.untouched import NOTHING_COPIED, copies_in

STRETCH: Ticks = 5 * RATE
SOUND_BITS = 192_000
"""Bits a second of compressed sound, where nothing else is wished."""

SHORT_LOOK = {"rc-lookahead": "5"}
"""How far the encoder looks ahead in pictures larger than full HD, each of which it holds in memory."""

WAV_LIMIT = 4_000_000_000
"""A WAV file cannot say that it holds more; beyond that RF64 is written, which is WAV with a wider length."""

Report = Callable[[Ticks], None]


@dataclass(frozen=True)
class Tags:
    """What a player shows of a file; ``lines`` says what in it was said again, and how, ``cover`` is a picture as JPEG."""

    title: str
    show: str
    episode: str
    lines: tuple[str, ...] = ()
    chapters: tuple[ProgrammeChapter, ...] = ()
    cover: bytes = b""

    def metadata(self) -> dict[str, str]:
        comment = ". ".join([f"{self.show}: {self.episode}", *self.lines])
        return {"title": self.title, "album": self.show, "artist": self.show, "comment": comment}


def stretches(plan: Plan, read: Read, progress: Report) -> Iterator[tuple[Ticks, np.ndarray]]:
    """The sound of a plan, five seconds at a time, with the place of each stretch."""
    for begin in range(0, plan.length, STRETCH):
        end = min(begin + STRETCH, plan.length)
        yield begin, mix(plan, begin, end, read)
        progress(end)


def write_wav(path: Path, plan: Plan, read: Read, progress: Report) -> None:
    """24-bit WAV, exactly as many samples as the plan has ticks."""
    form = "WAV" if plan.length * 6 < WAV_LIMIT else "RF64"
    channels = channels_of(plan)
    with soundfile.SoundFile(path, "w", RATE, channels, "PCM_24", format=form) as out:
        for _, sound in stretches(plan, read, progress):
            write_samples(out, sound[:, :channels])


def channels_of(plan: Plan) -> int:
    """How many channels a file of sound has: one where the programme is the same on both sides."""
    return 1 if plan.bus and plan.bus.mono else 2


ENCODERS = {".mp3": ("mp3", "libmp3lame"), ".m4a": ("mp4", "aac"), ".ogg": ("ogg", "libopus"), ".opus": ("ogg", "libopus")}
"""Container and encoder of compressed sound, by the ending of the file."""

BRANDS = {".m4a": {"brand": "M4A "}}
"""By what players tell sound in MP4 from film."""


def write_compressed(
    path: Path, ending: str, plan: Plan, read: Read, progress: Report, tags: Tags, bits: int = SOUND_BITS
) -> None:
    """The programme in the form that an ``ending`` of :data:`ENCODERS` stands for, with tags and chapters as it has them."""
    container, encoder = ENCODERS[ending]
    with av.open(str(path), "w", format=container, options=BRANDS.get(ending, {})) as out:
        out.metadata.update(tags.metadata())
        put_into(out, tags.chapters)
        channels = channels_of(plan)
        layout = "mono" if channels == 1 else "stereo"
        stream: Any = out.add_stream(encoder, rate=RATE, layout=layout)
        stream.bit_rate = bits
        if container == "ogg":
            # Comments of Ogg are those of its stream.
            stream.metadata.update(tags.metadata())
            if tags.cover:
                stream.metadata["METADATA_BLOCK_PICTURE"] = as_comment(tags.cover)
        Cover(out, b"" if container == "ogg" else tags.cover).write()
        for begin, sound in stretches(plan, read, progress):
            out.mux(stream.encode(_audio_frame(sound[:, :channels], begin, layout)))
        out.mux(stream.encode())


def write_mp3(path: Path, plan: Plan, read: Read, progress: Report, tags: Tags, bits: int = SOUND_BITS) -> None:
    """MP3 of so many ``bits`` a second, with ID3 tags."""
    write_compressed(path, ".mp3", plan, read, progress, tags, bits)


def write_flac(path: Path, plan: Plan, read: Read, progress: Report, tags: Tags) -> None:
    """FLAC of 24 bit, without loss, with tags."""
    channels = channels_of(plan)
    with soundfile.SoundFile(path, "w", RATE, channels, "PCM_24", format="FLAC") as out:
        told = tags.metadata()
        out.title, out.album, out.artist, out.comment = (told[name] for name in ("title", "album", "artist", "comment"))
        for _, sound in stretches(plan, read, progress):
            write_samples(out, sound[:, :channels])
    if tags.cover:
        put_into_flac(path, tags.cover)


def write_broadcast_wav(path: Path, plan: Plan, read: Read, progress: Report, tags: Tags, begins: Ticks = 0) -> None:
    """24-bit Broadcast WAV (EBU Tech 3285), whose time reference says that it begins ``begins`` after midnight."""
    channels = channels_of(plan)
    layout = "mono" if channels == 1 else "stereo"
    said = {"description": f"{tags.show}: {tags.episode}", "originator": "Jaskel", "time_reference": str(begins)}
    with av.open(str(path), "w", format="wav", options={"write_bext": "1", "rf64": "auto"}) as out:
        out.metadata.update(said | {"coding_history": f"A=PCM,F={RATE},W=24,M={layout}"})
        stream: Any = out.add_stream("pcm_s24le", rate=RATE, layout=layout)
        for begin, sound in stretches(plan, read, progress):
            out.mux(stream.encode(_audio_frame(sound[:, :channels], begin, layout)))
        out.mux(stream.encode())


def write_sound(path: Path, ending: str, sound: Iterator[np.ndarray], channels: int, bits: int = SOUND_BITS) -> None:
    """Sound given in blocks (float32, samples by channels) as a file of the form that an ``ending`` stands for."""
    if ending in (".wav", ".flac"):
        with soundfile.SoundFile(path, "w", RATE, channels, "PCM_24", format=ending[1:].upper()) as out:
            for block in sound:
                write_samples(out, block)
        return
    container, encoder = ENCODERS[ending]
    layout = "mono" if channels == 1 else "stereo"
    with av.open(str(path), "w", format=container) as file:
        stream: Any = file.add_stream(encoder, rate=RATE, layout=layout)
        stream.bit_rate = bits * channels // 2
        at = 0
        for block in sound:
            file.mux(stream.encode(_audio_frame(block, at, layout)))
            at += len(block)
        file.mux(stream.encode())


def _audio_frame(sound: np.ndarray, at: Ticks, layout: str = "stereo") -> av.AudioFrame:
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(np.clip(sound, -1, 1).T), "fltp", layout)
    frame.sample_rate, frame.pts, frame.time_base = RATE, at, Fraction(1, RATE)
    return frame


Container = Literal["mp4", "matroska", "mov", "webm"]
FAST_START = {"movflags": "+faststart"}
H264: Mapping[Quality, dict[str, str]] = {
    "small": {"crf": "26", "preset": "veryfast"},
    "good": {"crf": "20", "preset": "veryfast"},
    "best": {"crf": "15", "preset": "medium"},
}
_QUICK = {"b": "0", "deadline": "realtime", "cpu-used": "7", "row-mt": "1"}
VP9: Mapping[Quality, dict[str, str]] = {
    "small": {"crf": "40"} | _QUICK,
    "good": {"crf": "32"} | _QUICK,
    "best": {"crf": "22"} | _QUICK,
}
AV1: Mapping[Quality, dict[str, str]] = {
    "small": {"crf": "45", "preset": "10"},
    "good": {"crf": "35", "preset": "10"},
    "best": {"crf": "24", "preset": "8"},
}


@dataclass(frozen=True)
class Coding:
    """How a film is written: its container with what it is opened with, and the encoders of pictures and sound.

    ``pictures`` are the options of the encoder for each quality. ``tracks`` says whether it holds captions as a track.
    """

    container: Container
    opened: Mapping[str, str]
    video: str
    pictures: Mapping[Quality, dict[str, str]]
    audio: str
    tracks: bool = True


CODINGS: dict[str, Coding] = {
    "mp4": Coding("mp4", FAST_START, "libx264", H264, "aac"),
    "mkv": Coding("matroska", {}, "libx264", H264, "aac"),
    "mov": Coding("mov", FAST_START, "libx264", H264, "pcm_s24le"),
    "webm": Coding("webm", {}, "libvpx-vp9", VP9, "libopus", tracks=False),
    "av1": Coding("mp4", FAST_START, "libsvtav1", AV1, "libopus", tracks=False),
}
"""The films that are written, by their keys among :mod:`jaskel.media.forms`."""


Elsewhere = Callable[[int], Path | None]
"""The file of a part of the pictures that somebody else made (:meth:`FilmPictures.write_part`), None where it is made here."""


def nobody_else(_part: int) -> None:
    """All parts are made here."""


def film_pictures(
    plan: Plan,
    originals: Callable[[str], Path],
    artist: Artist,
    coding: Coding = CODINGS["mp4"],
    quality: Quality = "good",
    overlay: Overlay | None = None,
) -> FilmPictures:
    """What the pictures of a film are made of. H.264 that nothing touches is copied (:mod:`jaskel.media.untouched`)."""
    frame, options = plan.frame, coding.pictures[quality]
    if coding.video == "libx264" and frame.width * frame.height > 1920 * 1080:
        options = options | SHORT_LOOK
    copies = NOTHING_COPIED
    if coding.video == "libx264":
        copies = copies_in(plan, originals, quality, overlay.ranges if overlay else ())
    encoder = beside(copies, options, frame) if copies else PictureEncoder(coding.video, frame, options)
    return FilmPictures(plan, originals, artist, encoder, overlay, copies, of_picture(coding.video, frame, quality))


def effort_of_film(film: FilmPictures, coding: Coding) -> float:
    """The work of writing a film (:mod:`jaskel.media.effort`)."""
    encoded = film.count - len(film.copies.numbers)
    return SOUND[coding.audio] + encoded * film.effort * RATE / max(1, film.plan.length)


def write_film(
    path: Path,
    film: FilmPictures,
    read: Read,
    progress: Report,
    tags: Tags,
    bits: int = SOUND_BITS,
    coding: Coding = CODINGS["mp4"],
    track: CaptionTrack | None = None,
    elsewhere: Elsewhere = nobody_else,
) -> None:
    """A film, its sound of so many ``bits`` a second where that is compressed.

    ``track`` is a track of captions that players show or hide.
    """
    plan, copied = film.plan, film.copies.numbers
    with av.open(str(path), "w", format=coding.container, options=dict(coding.opened)) as out:
        out.metadata.update(tags.metadata())
        put_into(out, tags.chapters)
        video = PictureTrack(out, film)
        audio: Any = out.add_stream(coding.audio, rate=RATE, layout="stereo")
        if not coding.audio.startswith("pcm"):
            audio.bit_rate = bits
        if track:
            track.begin(out, coding.container)
        Cover(out, tags.cover if coding.container == "mp4" else b"").write()
        out.start_encoding()
        sounding = SOUND[coding.audio] / float(plan.frame.rate)
        share = RATE / effort_of_film(film, coding)
        with closing(one_ahead(_encoded_sound(plan, read, audio))) as heard:
            heard_to, done = -1, 0.0
            for number, encoded in enumerate(_encoded_pictures(film, elsewhere)):
                at = frame_start(number, plan.frame.rate)
                while heard_to <= at and (part := next(heard, None)):
                    heard_to, packets = part
                    out.mux(packets)
                if track:
                    out.mux([*track.until(at)])
                out.mux([video.copied(number)] if number in copied else [video.placed(each) for each in encoded])
                progress(round(done))
                done += share * (sounding + (0 if number in copied else film.effort))
            for _, packets in heard:
                out.mux(packets)
        if track:
            out.mux([*track.until(plan.length)])


def _encoded_pictures(film: FilmPictures, elsewhere: Elsewhere) -> Iterator[list[av.Packet]]:
    """For each picture of a film what is then to be written of those that are encoded."""
    for number, part in enumerate(film.parts):
        file = elsewhere(number)
        if file is None:
            yield from film.encoded(part)
            continue
        made = packets_of(file, part, film.plan.frame.rate)
        yield from ([] if each in film.copies.numbers else [next(made)] for each in part)


def _encoded_sound(plan: Plan, read: Read, audio: Any) -> Iterator[tuple[Ticks, list[av.Packet]]]:
    """What is to be written of the sound of a plan, and up to where it reaches."""
    for begin, sound in stretches(plan, read, lambda _: None):
        yield begin + len(sound), audio.encode(_audio_frame(sound, begin))
    yield plan.length, audio.encode()


def pictures(plan: Plan, originals: Callable[[str], Path], artist: Artist) -> Iterator[av.VideoFrame]:
    """One picture for each frame of the programme."""
    with closing(ProgrammePictures(plan, originals, artist)) as seen:
        yield from map(seen.picture, range(seen.count))


def write_stretch(
    path: Path, shown: Shown, length: Ticks, frame: Frame, originals: Callable[[str], Path], artist: Artist
) -> None:
    """A silent MP4 of what is seen for so long, for the monitor: every picture can be jumped to."""
    studio = Studio(frame, originals, artist)
    try:
        with av.open(str(path), "w", format="mp4", options=FAST_START) as out:
            video = out.add_stream("libx264", rate=frame.rate, options=KEY_PICTURES)
            video.width, video.height, video.pix_fmt = frame.width, frame.height, "yuv420p"
            for number in range(max(1, frame_count(length, frame.rate))):
                picture = studio.picture(shown, frame_start(number, frame.rate))
                out.mux(video.encode(stamped(picture, number, frame.rate)))
            out.mux(video.encode())
    finally:
        studio.close()
