"""The programme as a timeline, for those who finish it elsewhere: OpenTimelineIO, alone or with its media.

What a timeline says is where originals are seen and heard: cameras and cutaways on one track of picture, each recording that
sounds on a track of its own, music below. What it does not say is told by :data:`LEFT_OUT`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any
from zipfile import ZIP_STORED, ZipFile

from jaskel.core.markers import Marker
from jaskel.core.plan import Plan
from jaskel.core.source import Recorded, home_of
from jaskel.core.timebase import RATE, Ticks

if TYPE_CHECKING:
    import opentimelineio as otio


@dataclass(frozen=True)
class Filed:
    """The file of a recording: its name, and what its recorder wrote (see :mod:`jaskel.media.source_time`)."""

    name: str
    begins: Ticks | None = None
    tracks: tuple[str, ...] = ()
    cues: tuple[tuple[Ticks, str], ...] = ()


HOUR = 3600 * RATE

LEFT_OUT = ("chains", "levels", "framings", "titles", "captions", "crossfades longer than a frame")
"""What a timeline does not say."""

MEDIA = "media"
"""The folder of the originals, beside a timeline or inside a bundle."""


@dataclass(frozen=True)
class Used:
    """A stretch of a recording in the programme: ``begin`` to ``end`` of it, from tick ``place`` of the recording on."""

    recording: str
    begin: Ticks
    end: Ticks
    place: Ticks
    still: bool = False


def seen(plan: Plan) -> list[Used]:
    """What is seen, one after the other; where a card is, nothing."""
    found: list[Used] = []
    for layer in plan.layers:
        if camera := layer.camera:
            used = Used(camera.recording, layer.begin, layer.until, camera.after(0), camera.still)
            last = found[-1] if found else None
            if last and _goes_on(last, used):
                found[-1] = Used(last.recording, last.begin, used.end, last.place, last.still)
            else:
                found.append(used)
    return found


def heard(plan: Plan) -> list[list[Used]]:
    """What is heard, a row for each recording in the order in which they first sound, and one for each bed after them."""
    found: dict[str, list[Used]] = {}
    for span in plan.spans:
        name = span.source.recording if isinstance(span.source, Recorded) else None
        if name is None:
            continue
        # A line said again is one recording; its place in a session is told by where it stands.
        known = plan.material.sounding(name) if home_of(span.source) in (None, name) else plan.material.tracks(name)
        for track in known:
            begin, end = span.clear_from, span.clear_to + span.fade_out
            place = track.to_recording(span.start + span.fade_in)
            if place < 0:
                begin, place = begin - place, 0
            if track.length:
                end = min(end, begin + track.length - place)
            if begin < end:
                used, row = Used(track.recording, begin, end, place), found.setdefault(track.recording, [])
                if row and _goes_on(row[-1], used):
                    row[-1] = Used(used.recording, row[-1].begin, used.end, row[-1].place)
                else:
                    row.append(used)
    beds: list[list[Used]] = []
    for each in plan.placed:
        if each.at < plan.length:
            until = min(each.until, plan.length)
            beds.append([Used(each.bed.recording, each.at, until, each.bed.start)])
    return [*found.values(), *beds]


def _goes_on(one: Used, other: Used) -> bool:
    same = (one.recording, one.end) == (other.recording, other.begin)
    return same and (one.still or abs(one.place + one.end - one.begin - other.place) < RATE // 1000)


def beside(file: str) -> str:
    """Where a file is looked for: in a folder beside the timeline."""
    return f"{MEDIA}/{file}"


COLOURS = {"amber": "YELLOW", "rose": "PINK", "sky": "CYAN", "moss": "GREEN", "violet": "PURPLE", "slate": "BLACK"}
"""The colours of OpenTimelineIO that come nearest to those of selects."""


def timeline_of(
    plan: Plan,
    title: str,
    files: Mapping[str, Filed],
    markers: Sequence[Marker] = (),
    place: Callable[[str], str] = beside,
    hour: int = 0,
) -> otio.schema.Timeline:
    """The timeline at the frame rate of the plan.

    ``files`` are those of recordings, by their ids; ``place`` says where a file of a name is. What has no timecode of its own
    begins at the ``hour``, and so does the timeline.
    """
    import opentimelineio as otio

    timeline = otio.schema.Timeline(title, global_start_time=_time(hour * HOUR, plan.frame.rate))
    write = _Writing(plan, files, place, hour * HOUR)
    picture = seen(plan)
    if picture:
        timeline.tracks.append(write.track(picture, otio.schema.TrackKind.Video, "Picture"))
    for row in heard(plan):
        file = write.file(row[0].recording)
        timeline.tracks.append(write.track(row, otio.schema.TrackKind.Audio, ", ".join(file.tracks) or file.name))
    for each in markers:
        begin, end = _time(each.begin, plan.frame.rate), _time(each.end, plan.frame.rate)
        marker = otio.schema.Marker(name=each.name, marked_range=otio.opentime.TimeRange(begin, end - begin))
        marker.color = COLOURS.get(each.colour, "BLUE" if each.kind == "chapter" else "RED")
        marker.metadata["jaskel"] = {"kind": each.kind}
        timeline.tracks.markers.append(marker)
    return timeline


@dataclass(frozen=True)
class _Writing:
    """Writes tracks of what a plan uses."""

    plan: Plan
    files: Mapping[str, Filed]
    place: Callable[[str], str]
    begins: Ticks
    """Where the timecode of files begins that have none."""

    def file(self, recording: str) -> Filed:
        return self.files.get(recording, Filed(recording))

    def track(self, stretches: Sequence[Used], kind: str, name: str) -> otio.schema.Track:
        import opentimelineio as otio

        rate = self.plan.frame.rate
        track = otio.schema.Track(name, kind=kind)
        at = 0
        for each in sorted(stretches, key=lambda used: used.begin):
            # Ends are rounded where they fall in the programme, so that rounding never adds up.
            begin, end = max(at, _frames(each.begin, rate)), _frames(each.end, rate)
            if begin >= end:
                continue
            if begin > at:
                track.append(otio.schema.Gap(duration=otio.opentime.RationalTime(begin - at, float(rate))))
            track.append(self._clip(each, end - begin))
            at = end
        return track

    def _clip(self, used: Used, frames: int) -> otio.schema.Clip:
        import opentimelineio as otio

        rate, file = self.plan.frame.rate, self.file(used.recording)
        begins = 0 if used.still else self.begins if file.begins is None else file.begins
        # Neither end of what is used of a file is off by more than a frame.
        place, until = (Fraction(at, RATE) * rate for at in (used.place, used.place + used.end - used.begin))
        start = 0 if used.still else max(0, round((place + until - frames) / 2)) + _frames(begins, rate)
        source = otio.opentime.TimeRange(
            otio.opentime.RationalTime(start, float(rate)), otio.opentime.RationalTime(frames, float(rate))
        )
        reference = otio.schema.ExternalReference(self.place(file.name))
        length = self.plan.material.lengths.get(used.recording) or _length(self.plan, used.recording)
        if length:
            reference.available_range = otio.opentime.TimeRange(_time(begins, rate), _time(length, rate))
        clip = otio.schema.Clip(file.name, reference, source)
        for at, text in file.cues:
            if used.place <= at < used.place + used.end - used.begin:
                point = otio.opentime.TimeRange(_time(begins + at, rate), otio.opentime.RationalTime(0, float(rate)))
                clip.markers.append(otio.schema.Marker(name=text, marked_range=point, color="WHITE"))
        return clip


def _length(plan: Plan, recording: str) -> Ticks:
    known = (track for name in plan.edition.used for track in plan.material.tracks(name) if track.recording == recording)
    return max((track.length for track in known), default=0)


def _frames(ticks: Ticks, rate: Fraction) -> int:
    return round(Fraction(ticks, RATE) * rate)


def _time(ticks: Ticks, rate: Fraction) -> otio.opentime.RationalTime:
    import opentimelineio as otio

    return otio.opentime.RationalTime(_frames(ticks, rate), float(rate))


def write_otio(path: Path, timeline: otio.schema.Timeline) -> None:
    """The timeline alone; its media are looked for in a folder beside it."""
    path.write_text(_json(timeline), encoding="utf-8")


def write_otioz(
    path: Path,
    timeline: otio.schema.Timeline,
    known: Mapping[str, Filed],
    originals: Callable[[str], Path],
    progress: Callable[[], None],
) -> None:
    """The timeline with its media in one file (the bundle of OpenTimelineIO, version 1.0.0)."""
    with ZipFile(path, "w", ZIP_STORED) as out:
        out.writestr("version.txt", "1.0.0")
        out.writestr("content.otio", _json(timeline))
        for file, recording in _files(timeline, known):
            out.write(originals(recording), f"{MEDIA}/{file}")
            progress()


def _files(timeline: otio.schema.Timeline, known: Mapping[str, Filed]) -> Iterator[tuple[str, str]]:
    """The files that a timeline uses, with the recordings they are of, each once."""
    by_file = {file.name: recording for recording, file in known.items()}
    used = dict.fromkeys(str(clip.name) for clip in timeline.find_clips())
    yield from ((file, by_file[file]) for file in used if file in by_file)


def _json(timeline: Any) -> str:
    return str(timeline.to_json_string(indent=1))
