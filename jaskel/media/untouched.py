"""Pictures that a film takes from an original as they were compressed, because nothing touches them.

They are copied from a key picture up to another one: only there can a decoder begin, and only what is stored between two of
them needs nothing else. What lies before the first and after the last key picture of a stretch is encoded, as all else is
(:mod:`jaskel.media.film_pictures`). Pictures are H.264 (ISO/IEC 14496-10) as MP4, MOV and Matroska store it: its parameter sets
beside the stream, its units each after their length (ISO/IEC 14496-15).
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from itertools import groupby, pairwise
from pathlib import Path
from typing import NamedTuple

import av
import av.error
from av.bitstream import BitStreamFilterContext

from jaskel.core.destination import Quality
from jaskel.core.plan import Frame, Plan
from jaskel.core.timebase import RATE, Ticks, frame_count, frame_start
from jaskel.media.container import open_media
from jaskel.media.light import PQ
from jaskel.media.picture import first_picture_stream
from jaskel.media.probe import pixel_shape, rotation

PROFILES = {66: "baseline", 77: "main", 100: "high"}
"""The profiles of H.264 with pictures of 8 bit in yuv420p, by their numbers, as the encoder names them."""

IDR, SEQUENCE_SET, PICTURE_SET = 5, 7, 8
"""Types of units: a picture that a decoder begins with, and the two parameter sets."""

MOST_BITS: Mapping[Quality, float | None] = {"small": 0.0, "good": 0.3, "best": None}
"""Bits for a pixel up to which an original is copied: as many as there are at *best*; none where a small film is wanted.

At *good* twice to four times what encoding it would take, so that a film from a camera does not become many times as large.
"""

FEWEST = 6
"""So few pictures are encoded: going over from the encoder to the original and back costs as much."""

START = b"\0\0\0\1"
"""Stands before a unit where it has no length (Annex B of the standard)."""


@dataclass(frozen=True, slots=True)
class Group:
    """A key picture and those up to the next: the number of the first in time and in storage, and how many there are."""

    first: int
    packet: int
    count: int


@dataclass(frozen=True)
class Footage:
    """A file whose pictures can be copied.

    Attributes
    ----------
    path
        The file.
    sets
        Its parameter sets.
    times
        When its pictures are shown, in order, in units of ``base`` seconds; programmes count from ``zero`` of these.
    groups
        Its pictures by their key pictures, as far as a decoder can begin there.
    late
        By how many pictures at most one is stored later than it is shown.
    bits
        For each pixel.
    """

    path: Path
    sets: tuple[bytes, ...]
    times: tuple[int, ...]
    base: Fraction
    zero: Fraction
    groups: tuple[Group, ...]
    late: int
    bits: float

    def shown_at(self, place: Ticks) -> int:
        """The number of the picture on screen at a place of the recording; negative before its first."""
        return bisect_right(self.times, (self.zero + Fraction(place, RATE) / self.base) // 1) - 1


def footage_of(path: Path, frame: Frame) -> Footage | None:
    """A file whose pictures are as a film of such a ``frame`` stores them; None where they are not, or cannot be copied."""
    try:
        with open_media(path) as container:
            if rotation(container, first_picture_stream(container)):
                return None
        with open_media(path) as container:
            stream = first_picture_stream(container)
            sets = _sets(stream.codec_context.extradata or b"") if _fits(stream, frame) else ()
            return _indexed(path, container, stream, sets, frame) if sets else None
    except (av.error.FFmpegError, StopIteration, OSError):
        return None


def _fits(stream: av.VideoStream, frame: Frame) -> bool:
    context = stream.codec_context
    return (
        (context.name, context.width, context.height, context.pix_fmt) == ("h264", frame.width, frame.height, "yuv420p")
        and pixel_shape(stream) == 1
        and str(context.field_order) in ("0", "1")
        and int(context.color_trc or 0) != PQ
    )


def _sets(told: bytes) -> tuple[bytes, ...]:
    """The parameter sets of a decoder's configuration record, ISO/IEC 14496-15 5.3.3.1; none where it is another."""
    if len(told) < 7 or told[0] != 1 or told[1] not in PROFILES:
        return ()
    found, at = [], 5
    for mask in (31, 255):
        many, at = told[at] & mask, at + 1
        for _ in range(many):
            size = int.from_bytes(told[at : at + 2])
            found.append(told[at + 2 : at + 2 + size])
            at += 2 + size
    return tuple(found) if all(found) and at <= len(told) else ()


def profile_of(sets: tuple[bytes, ...]) -> str:
    """The profile of pictures with such parameter sets, as the encoder names it."""
    return PROFILES[sets[0][1]]


def unit_type(unit: bytes) -> int:
    """What a unit holds."""
    return unit[0] & 31


def number_of(unit: bytes) -> int:
    """The number of a parameter set: an Exp-Golomb code, in a sequence set behind profile and level."""
    bits = bin(int.from_bytes(b"\1" + unit[4 if unit_type(unit) == SEQUENCE_SET else 1 :][:4]))[3:]
    zeros = len(bits) - len(bits.lstrip("0"))
    return int(bits[zeros : 2 * zeros + 1] or "1", 2) - 1


def _units(packet: bytes, size: int) -> Iterator[bytes]:
    at = 0
    while at + size < len(packet):
        end = at + size + int.from_bytes(packet[at : at + size])
        yield packet[at + size : end]
        at = end


def _indexed(
    path: Path, container: av.container.InputContainer, stream: av.VideoStream, sets: tuple[bytes, ...], frame: Frame
) -> Footage | None:
    """What is where in a file; its pictures are not decoded for that."""
    width = (stream.codec_context.extradata or b"")[4] % 4 + 1
    stored: list[int] = []
    keys: list[int] = []
    size = 0
    for packet in container.demux(stream):
        if not packet.size:
            continue
        if packet.pts is None or packet.is_discard or packet.is_corrupt:
            return None
        if packet.is_keyframe:
            units = [*_units(bytes(packet), width)]
            if any(unit_type(each) in (SEQUENCE_SET, PICTURE_SET) and each not in sets for each in units if each):
                return None  # they change on the way
            if any(unit_type(each) == IDR for each in units if each):
                keys.append(len(stored))
        stored.append(packet.pts)
        size += packet.size
    times = sorted(stored)
    if len({*times}) < len(times) or not times:
        return None
    shown = {pts: number for number, pts in enumerate(times)}
    groups = [
        Group(shown[stored[begin]], begin, end - begin)
        for begin, end in pairwise([*keys, len(stored)])
        if sorted(shown[pts] for pts in stored[begin:end]) == [*range(shown[stored[begin]], shown[stored[begin]] + end - begin)]
    ]
    base = Fraction(stream.time_base or 0)
    zero = Fraction(container.start_time or 0, av.time_base) / base
    late = max(number - shown[pts] for number, pts in enumerate(stored))
    return Footage(
        path, sets, tuple(times), base, zero, tuple(groups), max(0, late), 8 * size / len(times) / (frame.width * frame.height)
    )


@dataclass(frozen=True)
class Copy:
    """So many pictures from ``begin`` of a film on that are those of an original from its picture ``first`` on."""

    begin: int
    footage: Footage
    first: int
    packet: int
    count: int

    @property
    def end(self) -> int:
        return self.begin + self.count

    def packets(self) -> Iterator[av.Packet]:
        """The pictures as they are stored, each unit behind :data:`START`, without parameter sets; ``pts`` is of the film."""
        times = self.footage.times
        with open_media(self.footage.path) as container:
            stream = first_picture_stream(container)
            plain = BitStreamFilterContext("h264_mp4toannexb,filter_units=remove_types=7-9", stream)
            for packet in self._stored(container, stream):
                shown = self.begin + bisect_left(times, packet.pts or 0) - self.first
                for each in plain.filter(packet):
                    each.pts = shown
                    yield each

    def _stored(self, container: av.container.InputContainer, stream: av.VideoStream) -> Iterator[av.Packet]:
        """The same packets as the file has them. Where one cannot jump in it, it is read from its beginning."""
        begins = self.footage.times[self.first]
        container.seek(begins, stream=stream)
        missed = False
        left = self.count
        for packet in container.demux(stream):
            if left < self.count or packet.pts == begins:
                left -= 1
                yield packet
            elif packet.pts is None or packet.pts > begins:
                missed = True
            if not left or missed:
                break
        if missed:
            with open_media(self.footage.path) as again:
                stored = (each for each in again.demux(first_picture_stream(again)) if each.size)
                yield from (each for number, each in enumerate(stored) if self.packet <= number < self.packet + self.count)


@dataclass(frozen=True)
class Copies:
    """What of a film is copied, in order."""

    copies: tuple[Copy, ...] = ()
    _begins: Mapping[int, Copy] = field(init=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "_begins", {each.begin: each for each in self.copies})

    def __bool__(self) -> bool:
        return bool(self.copies)

    def begins(self, number: int) -> Copy | None:
        """The copy that begins with a picture of the film."""
        return self._begins.get(number)

    @cached_property
    def numbers(self) -> frozenset[int]:
        """The pictures that are copied."""
        return frozenset(number for each in self.copies for number in range(each.begin, each.end))

    @property
    def sets(self) -> tuple[bytes, ...]:
        """All parameter sets that are needed."""
        return tuple(dict.fromkeys(unit for each in self.copies for unit in each.footage.sets))

    @property
    def late(self) -> int:
        """By how many pictures at most one is stored later than it is shown."""
        return max((each.footage.late for each in self.copies), default=0)


NOTHING_COPIED = Copies()


def copies_in(
    plan: Plan, originals: Callable[[str], Path], quality: Quality, covered: Sequence[tuple[Ticks, Ticks]] = ()
) -> Copies:
    """What of a film of a plan can be copied from the originals.

    ``covered`` are ranges of the programme in which something lies over the pictures, besides what the plan has there.
    """
    most = MOST_BITS[quality]
    if most == 0.0:
        return NOTHING_COPIED
    known: dict[str, Footage | None] = {}

    def footage(recording: str) -> Footage | None:
        if recording not in known:
            found = footage_of(originals(recording), plan.frame)
            known[recording] = found if found and (most is None or found.bits <= most) else None
        return known[recording]

    found = [copy for run in _runs(plan, footage, covered) for copy in _whole_groups(run)]
    return Copies(tuple(_compatible(found)))


class _Seen(NamedTuple):
    """Picture ``number`` of a film is picture ``shown`` of an original."""

    number: int
    footage: Footage
    shown: int


def _runs(
    plan: Plan, footage: Callable[[str], Footage | None], covered: Sequence[tuple[Ticks, Ticks]]
) -> Iterator[tuple[_Seen, int]]:
    """Stretches in which a film shows the pictures of an original one by one: where they begin, and how many there are."""
    rate = plan.frame.rate
    covers = [*covered, *((each.begin, each.until) for each in plan.overlays)]
    touched = {number for begin, until in covers for number in range(int(begin * rate / RATE), int(until * rate / RATE) + 2)}
    seen: list[_Seen] = []
    for number in range(frame_count(plan.length, rate)):
        at = min(frame_start(number, rate), plan.length - 1)
        layer = plan.layer_at(at)
        camera = layer.as_filmed if layer else None
        if layer is None or camera is None or number in touched:
            continue
        if (file := footage(camera.recording)) and (shown := file.shown_at(camera.after(at - layer.begin))) >= 0:
            seen.append(_Seen(number, file, shown))
    for _, run in groupby(
        enumerate(seen), lambda each: (each[1].footage.path, each[1].number - each[0], each[1].shown - each[0])
    ):
        first, *rest = (each for _, each in run)
        yield first, 1 + len(rest)


def _whole_groups(run: tuple[_Seen, int]) -> Iterator[Copy]:
    """What of a run lies between key pictures."""
    (number, footage, shown), count = run
    begin = bisect_left(footage.groups, shown, key=lambda each: each.first)
    end = bisect_right(footage.groups, shown + count, key=lambda each: each.first + each.count)
    copy: Copy | None = None
    for group in footage.groups[begin:end]:
        if copy and group.packet == copy.packet + copy.count:
            copy = Copy(copy.begin, footage, copy.first, copy.packet, copy.count + group.count)
            continue
        if copy and copy.count >= FEWEST:
            yield copy
        copy = Copy(number + group.first - shown, footage, group.first, group.packet, group.count)
    if copy and copy.count >= FEWEST:
        yield copy


def _compatible(copies: Sequence[Copy]) -> Iterator[Copy]:
    """Those whose parameter sets can stand side by side; where two files have other sets of one number, what is used longer."""
    used = Counter({each.footage.sets: 0 for each in copies})
    for each in copies:
        used[each.footage.sets] += each.count
    taken: dict[tuple[int, int], bytes] = {}
    chosen: list[tuple[bytes, ...]] = []
    for sets, _ in used.most_common():
        named = {(unit_type(unit), number_of(unit)): unit for unit in sets}
        same_profile = not chosen or profile_of(chosen[0]) == profile_of(sets)
        if same_profile and all(taken.get(name, unit) == unit for name, unit in named.items()):
            taken |= named
            chosen.append(sets)
    return (each for each in copies if each.footage.sets in chosen)
