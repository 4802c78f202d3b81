"""Which camera shows whom, and how it lies in the frame."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import NamedTuple

from jaskel.core.marks.camera import Aim, CoverHere, faces_of, gazes, grades
from jaskel.core.marks.mark import Marks
from jaskel.core.picture.closer import AS_IT_IS, Closer, closer_from, factor_at
from jaskel.core.picture.cover import Cover
from jaskel.core.picture.crop import crop_of, fitted_in, on_pixels
from jaskel.core.picture.faces import Faces, Point, along, closer_to
from jaskel.core.picture.framing import BLURRED, SINGLE, WHOLE, Box, FramingName, OwnFraming, own_framing, slots_of
from jaskel.core.picture.gaze import AS_IT_LOOKS
from jaskel.core.picture.grade import AS_FILMED
from jaskel.core.picture.shots import Shot
from jaskel.core.picture.style import PulseForm
from jaskel.core.plan.cameras import Aimed, aim_at, covers_of
from jaskel.core.plan.cutaways import PlacedCutaway, cutaway_at, part_of
from jaskel.core.plan.material import Material
from jaskel.core.plan.picture import PLAIN, WHOLE_CROP, Camera, Edge, Frame, Scene, SoundPicture, View
from jaskel.core.plan.span import Span
from jaskel.core.session import Track
from jaskel.core.source import Recorded, SaidAgain, home_of
from jaskel.core.timebase import Ticks


class Over(NamedTuple):
    """What somebody set of a programme's pictures, in its time: where they are closer, cutaways, and where cameras look."""

    closer: Sequence[Closer] = ()
    cutaways: Sequence[PlacedCutaway] = ()
    aims: Sequence[Aimed] = ()

    @property
    def edges(self) -> Iterator[Ticks]:
        """Where one of them begins or ends: no shot goes on over that."""
        yield from (edge for each in self.closer for edge in (each.begin, each.until))
        yield from (edge for each in self.cutaways for edge in (each.at, each.until))
        yield from (edge for each in self.aims for edge in (each.begin, each.until))


NOTHING_OVER = Over()


class _Lies(NamedTuple):
    """A track in a slot: the shapes of both, and the part of its picture that is seen as long as nothing moves.

    Where nobody knows the shape of the picture, both are None. ``face`` is the voice that is looked for in it, where the camera
    sees several.
    """

    track: Track
    slot: Box
    shape: Fraction | None
    ratio: Fraction
    still: View | None
    face: str = ""


class Cameras:
    """Which camera shows whom, and how it lies in the frame."""

    def __init__(self, material: Material, frame: Frame, marks: Marks, over: Over) -> None:
        self._material, self._frame, self._marks, self._set = material, frame, marks, over
        self._faces, self._alone = faces_of(marks), dict[tuple[str, str], Faces | None]()
        self._grades, self._gazes, self._covered = grades(marks), gazes(marks), bool(marks.all(CoverHere))
        self._ratio, self._own = Fraction(frame.width, frame.height), material.style.framings
        self._known: dict[tuple[str, FramingName, tuple[str, ...], bool], tuple[_Lies, ...]] = {}

    def scene(self, span: Span, begin: Ticks, until: Ticks, shot: Shot, stands: Ticks | None = None) -> Scene | None:
        """What is seen of a span from a place of the programme on, or as it ``stands`` at another; a cutaway never stands.

        None where no camera sees it.
        """
        over = cutaway_at(self._set.cutaways, begin)
        who = self._people(span, begin if stands is None else stands, until, shot, over)
        if stands is not None:
            who = tuple(replace(view, camera=replace(view.camera, speed=0.0), crops=view.crops[:1]) for view in who)
        views = (self._over(over, begin, until, len(who)), *who) if over else who
        made = own_framing(over.cutaway.framing if over else shot.framing, self._own, self._ratio)
        return (_framed(views, made, self._material.style.pulse) if made else Scene(views)) if views else None

    def _people(self, span: Span, begin: Ticks, until: Ticks, shot: Shot, over: PlacedCutaway | None) -> tuple[View, ...]:
        """The cameras that are seen, beside a cutaway or by themselves."""
        if not isinstance(span.source, Recorded) or (over and over.cutaway.framing == SINGLE):
            return ()
        key = home_of(span.source) or "", over.cutaway.framing if over else shot.framing, shot.voices, over is not None
        if key not in self._known:
            self._known[key] = tuple(self._found(*key))
        return tuple(
            self._graded(key[0], self._view(span, begin, until, lies), lies, until - begin) for lies in self._known[key]
        )

    def _graded(self, home: str, view: View, lies: _Lies, length: Ticks) -> View:
        """A view with what is set for its camera: levels, gaze, and what must not be seen of it."""
        camera = view.camera
        grade = self._grades.get(camera.recording, AS_FILMED)
        covers: tuple[Cover, ...] = ()
        if self._covered:
            around = camera.place, camera.after(length)
            covers = tuple(covers_of(self._marks, home, lies.track, *around, camera.speed))
        gaze = self._gazes.get(camera.recording, AS_IT_LOOKS)
        if not covers and grade == AS_FILMED and gaze == AS_IT_LOOKS:
            return view
        return replace(view, grade=grade, covers=covers, gaze=gaze)

    def _over(self, over: PlacedCutaway, begin: Ticks, until: Ticks, others: int) -> View:
        """The picture of a cutaway, in the first slot of its framing."""
        cut, footage = over.cutaway, over.footage
        slot = self._on_frame(slots_of(cut.framing, 1 + others, self._ratio, self._own)[0])
        ratio = self._ratio * Fraction(slot.width / slot.height).limit_denominator(1000)
        crop = crop_of(Fraction(footage.picture.width, footage.picture.height), ratio)
        camera = Camera(cut.shown, cut.place + begin - over.at, 1.0 if footage.length else 0.0, still=not footage.length)
        moves = cut.first != cut.last
        ends = ((0, begin), (until - begin, until)) if moves else ((0, begin),)
        return View(camera, slot, tuple((after, part_of(over, crop, at)) for after, at in ends))

    def _found(self, name: str, framing: FramingName, voices: tuple[str, ...], beside: bool) -> Iterator[_Lies]:
        """The cameras of a session that show voices, each once; the first one for those that have none of their own.

        ``beside`` a cutaway, which has the first slot, one of them is seen.
        """
        cameras = [*dict.fromkeys(found for voice in voices or ("",) if (found := self._camera_of(name, voice)))]
        slots = slots_of(framing, len(cameras), self._ratio, self._own)
        if beside:
            cameras, slots = cameras[:1], slots_of(framing, 2, self._ratio, self._own)[1:]
        for (track, face), place in zip(cameras, slots, strict=False):
            slot = self._on_frame(place)
            ratio = self._ratio * Fraction(slot.width / slot.height).limit_denominator(1000)
            shape = Fraction(track.picture.width, track.picture.height) if track.picture else None
            still = None if face else self._still(track, slot, shape, ratio)
            yield _Lies(track, slot, shape, ratio, still, face)

    def _camera_of(self, name: str, voice: str) -> tuple[Track, str] | None:
        """The camera that shows a voice: its own, else one that knows its face, else the first; and whose face is meant."""
        own = self._material.camera(name, voice)
        if own and (not voice or own.voice == voice):
            return own, ""
        for track in self._material.tracks(name):
            if track.picture and voice and self._face(track.recording, voice):
                return track, voice
        first = self._material.camera(name)
        return (first, "") if first else None

    def _face(self, recording: str, voice: str) -> Faces | None:
        """The face of a voice by itself in a recording that shows several."""
        key = recording, voice
        if key not in self._alone:
            mark, known = self._faces.get(recording, {}).get(voice), self._material.faces.get(recording)
            face = known.nearest(mark.at, mark.x, mark.y) if mark and known else None
            self._alone[key] = known.only(face) if face and known else None
        return self._alone[key]

    def _on_frame(self, slot: Box) -> Box:
        return slot if slot == WHOLE else on_pixels(slot, self._frame.width, self._frame.height)

    def _still(self, track: Track, slot: Box, shape: Fraction | None, ratio: Fraction) -> View | None:
        """A view of a track that nothing moves in: the whole picture, or the middle where no face is known."""
        camera = Camera(track.recording, 0)
        if shape is None:
            return View(camera, slot)
        if slot == WHOLE and not self._frame.fill:
            return View(camera, self._on_frame(fitted_in(shape, self._ratio)))
        if track.recording in self._material.faces:
            return None
        return View(camera, slot, ((0, _on_picture(crop_of(shape, ratio), track)),))

    def _view(self, span: Span, begin: Ticks, until: Ticks, lies: _Lies) -> View:
        camera = _camera(span, begin, lies.track, self._material)
        closer = closer_from(self._set.closer, begin, until)
        aim = aim_at(self._set.aims, camera.recording, begin) if self._set.aims else None
        if lies.still and ((closer is AS_IT_IS and aim is None) or lies.shape is None):
            return View(camera, lies.still.box, lies.still.crops)
        crops = self._crops(camera, until - begin, lies, closer, aim)
        return View(camera, lies.slot, tuple((at, _on_picture(crop, lies.track)) for at, crop in crops))

    def _crops(
        self, camera: Camera, length: Ticks, lies: _Lies, closer: Sequence[tuple[Ticks, float]], aim: Aim | None
    ) -> Iterator[tuple[Ticks, Box]]:
        """Which part of a camera's picture is seen: the face in it, as somebody at the camera would follow it.

        Where somebody set it, it is that point, or the face as far from it as that was.
        """
        shape, ratio = lies.shape or Fraction(1), lies.ratio
        faces = self._material.faces.get(camera.recording)
        if lies.face and (alone := self._face(camera.recording, lies.face)):
            faces, near = alone, closer_to(alone.faces[0])
            closer = [(at, by * near) for at, by in closer]
        closer = [(at, by * aim.closer) for at, by in closer] if aim else closer
        nearest = crop_of(shape, ratio, max(by for _, by in closer))
        if faces is None or nearest == WHOLE or (aim and not aim.follows):
            point = (aim.x, aim.y) if aim else (0.5, 0.5)
            yield from ((at, crop_of(shape, ratio, by, point)) for at, by in closer)
            return
        way = faces.way(camera.after(0), camera.after(length), nearest.width, nearest.height)
        if aim:
            off = aim.x - way[0][1].x, aim.y - way[0][1].y
            way = [(at, Point(point.x + off[0], point.y + off[1])) for at, point in way]
        keys = [(round(at / camera.speed) if camera.speed else 0, point) for at, point in way]
        for at in sorted({at for at, _ in (*keys, *closer)}):
            yield at, crop_of(shape, ratio, factor_at(closer, at), along(keys, at))


def _on_picture(crop: Box, track: Track) -> Box:
    """A crop on the pixels of a camera's picture: films and the monitor then show the very same part."""
    shown = track.picture
    return on_pixels(crop, shown.width, shown.height) if shown and crop != WHOLE else crop


def _framed(views: tuple[View, ...], made: OwnFraming, pulse: PulseForm) -> Scene:
    """Views in a framing that a show has made: with corners and lines, what lies behind them, and the drawing of the voice."""
    edge = Edge(made.corner, made.border, made.border_colour) if made.corner or made.border else PLAIN
    seen = tuple(replace(view, edge=edge) for view in views)
    box = next((each.box for each in made.fixtures if each.kind == "voice"), None)
    # How loud it is comes later, when the words are known.
    voice = (box, SoundPicture("bars" if pulse == "none" else pulse, b"", ())) if box else None
    if made.ground != BLURRED:
        return Scene(seen, made.ground, voice)
    return Scene((replace(views[0], box=WHOLE, crops=WHOLE_CROP, blurred=True), *seen), voice=voice)


def _camera(span: Span, at: Ticks, track: Track, material: Material) -> Camera:
    """A track's pictures from a place of the programme on."""
    place, speed, source = span.start + at - span.at, 1.0, span.source
    if isinstance(source, SaidAgain):
        # What is seen is what was seen before, as quickly as it takes to say it again.
        (line,) = material.tracks(source.recording)
        speed = (source.end - source.start) / line.length if line.length else 1.0
        place = source.start + round(place * speed)
    return Camera(track.recording, track.to_recording(place), speed / (1 + track.drift))
