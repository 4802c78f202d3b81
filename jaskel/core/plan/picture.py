"""What is seen in the programme: layers of picture, one after the other."""

from __future__ import annotations

import hashlib
from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from typing import NamedTuple

from jaskel.core.marks.camera import Aim, CoverHere, faces_of, gazes, grades
from jaskel.core.marks.mark import NO_MARKS, Marks
from jaskel.core.picture.card import AS_IN_STYLE, CardLook, WhichCard
from jaskel.core.picture.closer import AS_IT_IS, Closer, closer_from, factor_at
from jaskel.core.picture.cover import Cover
from jaskel.core.picture.crop import crop_of, fitted_in, on_pixels
from jaskel.core.picture.faces import Faces, Point, along, closer_to
from jaskel.core.picture.framing import BLURRED, DARK, SINGLE, WHOLE, Box, FramingName, OwnFraming, own_framing, slots_of
from jaskel.core.picture.gaze import AS_IT_LOOKS, Gaze
from jaskel.core.picture.grade import AS_FILMED, Grade
from jaskel.core.picture.joins import Join
from jaskel.core.picture.shots import Shot
from jaskel.core.picture.style import PulseForm
from jaskel.core.plan.cameras import Aimed, aim_at, covers_of
from jaskel.core.plan.cutaways import PlacedCutaway, cutaway_at, part_of
from jaskel.core.plan.material import Material
from jaskel.core.plan.span import Span
from jaskel.core.session import Track
from jaskel.core.shape import RATIOS, PictureShape, size_in
from jaskel.core.source import CLOSING, OPENING, Card, Drawn, Recorded, RoomTone, SaidAgain, Silence, home_of
from jaskel.core.timebase import Ticks


@dataclass(frozen=True, slots=True)
class Frame:
    """Size in pixels and rate of the pictures of a film; whether pictures of another shape fill it (cropped) or fit into it."""

    width: int
    height: int
    rate: Fraction
    fill: bool = False


@dataclass(frozen=True, slots=True)
class Outlet:
    """What a destination asks of pictures: pixels of the shorter side, and pictures a second; 0 for as they are."""

    short: int = 0
    rate: Fraction = Fraction(0)

    def of(self, frame: Frame, shape: PictureShape) -> Frame:
        """The frame that pictures of a ``frame`` have there, in the ``shape`` that it has; its sides stay even.

        >>> Outlet(1080, Fraction(25)).of(Frame(1280, 720, Fraction(30)), "as recorded").width
        1920
        """
        if not self.short:
            return replace(frame, rate=self.rate or frame.rate)
        ratio = RATIOS.get(shape, Fraction(frame.width, frame.height))
        long = max(2, round(self.short * max(ratio, 1 / ratio) / 2) * 2)
        width, height = (long, self.short) if ratio >= 1 else (self.short, long)
        return replace(frame, width=width, height=height, rate=self.rate or frame.rate)


AS_IT_COMES = Outlet()

CARD_FRAME = Frame(1280, 720, Fraction(25))
"""The frame of a programme without any picture but the card's."""


@dataclass(frozen=True, slots=True)
class Camera:
    """The pictures of a recording, from tick ``place`` of it on, on its own clock.

    ``speed`` is how many of its ticks pass with one of the programme: nearly 1, for its clock drifts; 0 where it stands still.
    A ``still`` is a single picture.
    """

    recording: str
    place: Ticks
    speed: float = 1.0
    still: bool = False

    def after(self, ticks: Ticks) -> Ticks:
        """The place that is seen so many ticks later; before a camera began, its first picture is."""
        return max(0, self.place + round(ticks * self.speed))


WHOLE_CROP: tuple[tuple[Ticks, Box], ...] = ((0, WHOLE),)


class Edge(NamedTuple):
    """How round the corners of a slot are, and how wide a line around it, in per cent of its shorter side."""

    corner: float = 0.0
    border: float = 0.0
    colour: str = ""


PLAIN = Edge()


@dataclass(frozen=True, slots=True)
class View:
    """A camera's picture in a place of the frame.

    Attributes
    ----------
    box
        Where it lies in the frame.
    crops
        Which part of the camera's picture fills it, as places of time, counted from where the layer begins, with what is seen
        there; between two of them it moves evenly.
    grade
        The levels of the camera's picture.
    covers
        What of it must not be seen.
    edge
        The corners and the line of the slot it lies in.
    blurred
        Whether it is only the ground for others, out of focus.
    gaze
        How the eyes in it are turned to the camera.
    """

    camera: Camera
    box: Box = WHOLE
    crops: tuple[tuple[Ticks, Box], ...] = WHOLE_CROP
    grade: Grade = AS_FILMED
    covers: tuple[Cover, ...] = ()
    edge: Edge = PLAIN
    blurred: bool = False
    gaze: Gaze = AS_IT_LOOKS

    def crop(self, after: Ticks) -> Box:
        """The part that is seen so many ticks after the layer begins."""
        number = bisect_right(self.crops, after, key=lambda each: each[0])
        if number in (0, len(self.crops)):
            return self.crops[min(number, len(self.crops) - 1)][1]
        (begin, before), (end, following) = self.crops[number - 1 : number + 1]
        share = (after - begin) / (end - begin)
        return Box(*(a + (b - a) * share for a, b in zip(before, following, strict=True)))

    def later(self, ticks: Ticks) -> View:
        """The same from so many ticks later on."""
        camera = replace(self.camera, place=self.camera.place + round(ticks * self.camera.speed))
        crops = self.crops if len(self.crops) == 1 else tuple((at - ticks, box) for at, box in self.crops)
        covers = tuple(cover.later(ticks) for cover in self.covers) if self.covers else ()
        return replace(self, camera=camera, crops=crops, covers=covers)


@dataclass(frozen=True, slots=True)
class Scene:
    """Cameras that are seen together, later ones over earlier ones, on a ``ground``: a colour, or a picture of the house style.

    ``voice`` is the moving drawing of the voice that lies over them, in a place of the frame.
    """

    views: tuple[View, ...]
    ground: str = DARK
    voice: tuple[Box, SoundPicture] | None = None

    def later(self, ticks: Ticks) -> Scene:
        """The same from so many ticks later on, or earlier where they are negative."""
        voice = (self.voice[0], self.voice[1].later(ticks)) if self.voice else None
        return Scene(tuple(view.later(ticks) for view in self.views), self.ground, voice)


@dataclass(frozen=True, slots=True)
class Blend:
    """One picture goes over into another; ``since`` is how long it has done so where the layer begins.

    Both are what is seen from where the blend begins on, and go on through all of its ``length``.
    """

    before: Scene | Card | Drawn | Carded | SoundPicture
    after: Scene | Card | Drawn | Carded | SoundPicture
    join: Join
    length: Ticks
    since: Ticks = 0

    def later(self, ticks: Ticks) -> Blend:
        """The same from so many ticks later on."""
        return replace(self, since=self.since + ticks)


@dataclass(frozen=True, slots=True)
class Carded:
    """A card that looks otherwise than the house style has it."""

    card: Card | Drawn
    look: CardLook


class Said(NamedTuple):
    """From a place on a voice speaks: by the number of its colour, and its name."""

    at: Ticks
    number: int
    name: str


@dataclass(frozen=True, slots=True)
class SoundPicture:
    """The card with a moving drawing of the voice; ``since`` is how long it has been seen where the layer begins.

    ``levels`` are how loud it is, 25 times a second; ``said`` tells who speaks, from ticks after it began; ``look`` is the
    card's.
    """

    form: PulseForm
    levels: bytes
    said: tuple[Said, ...]
    since: Ticks = 0
    look: CardLook = AS_IN_STYLE

    def speaks(self, after: Ticks) -> Said | None:
        """Who speaks so many ticks after the layer begins."""
        return next((each for each in reversed(self.said) if each.at <= self.since + after), None)

    def later(self, ticks: Ticks) -> SoundPicture:
        """The same from so many ticks later on."""
        return replace(self, since=self.since + ticks)


Shown = Scene | Card | Drawn | Carded | Blend | SoundPicture


def later(shown: Shown, ticks: Ticks) -> Shown:
    """What is seen from so many ticks later on; cards stand still."""
    return shown.later(ticks) if ticks and isinstance(shown, Scene | Blend | SoundPicture) else shown


@dataclass(frozen=True, slots=True)
class Layer:
    """``shown`` is seen from ``begin`` to ``until``."""

    begin: Ticks
    until: Ticks
    shown: Shown

    @property
    def camera(self) -> Camera | None:
        """The first camera that is seen, if one is."""
        return self.shown.views[0].camera if isinstance(self.shown, Scene) else None

    @property
    def as_filmed(self) -> Camera | None:
        """The camera whose pictures are seen alone, whole, and as they were filmed; None where anything else is seen."""
        if not isinstance(self.shown, Scene) or len(self.shown.views) != 1 or self.shown.voice:
            return None
        camera = self.shown.views[0].camera
        return None if camera.still or self.shown.views != (View(camera),) else camera

    def part(self, begin: Ticks, until: Ticks) -> Layer:
        """What of it lies between two places, counted from the first of them."""
        first, last = max(begin, self.begin), min(until, self.until)
        return Layer(first - begin, last - begin, later(self.shown, first - self.begin))


@dataclass(frozen=True)
class PictureSlice:
    """All that is seen in so many ticks; times are relative to its beginning."""

    length: Ticks
    frame: Frame
    layers: tuple[Layer, ...]

    @cached_property
    def digest(self) -> str:
        """A name that only its picture decides."""
        return hashlib.sha256(repr((self.length, self.frame, self.layers)).encode()).hexdigest()[:24]


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


class _Cameras:
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


def layers_of(
    spans: Sequence[Span],
    material: Material,
    length: Ticks,
    frame: Frame = CARD_FRAME,
    shots: Sequence[Shot] = (),
    marks: Marks = NO_MARKS,
    over: Over = NOTHING_OVER,
) -> tuple[Layer, ...]:
    """The layers of a programme of ``spans``.

    The picture goes over at the splice, or by so much later as the sound leads; none goes over before the one it follows. Rests
    that were put in have no picture: the one before them stands still. ``shots`` say who is seen, from the first tick to the
    last; without them it is the first camera. None goes on over an edge of what was set ``over`` them.
    """
    out: list[Layer] = []
    cameras = _Cameras(material, frame, marks, over)
    shots = shots or (Shot(0, length),)
    begin: Ticks = 0
    last: Span | None = None  # whose picture is seen from `begin` on
    rests: Ticks | None = None  # where it stands still, for rests follow it
    for span in spans:
        if isinstance(span.source, RoomTone | Silence):
            if last is not None and rests is None:
                rests = last.clear_to
            continue
        if last is not None:
            until = min(max(span.handover + span.lead, begin), length)
            out += _seen(last, begin, until, rests, cameras, shots)
            begin = until
        last, rests = span, None
    if last is not None:
        out += _seen(last, begin, length, rests, cameras, shots)
    elif length:
        out.append(Layer(0, length, OPENING))
    return tuple(_with_cards(out, spans[0].at, spans[-1].until, length)) if spans else tuple(out)


def _with_cards(layers: Sequence[Layer], begins: Ticks, ends: Ticks, length: Ticks) -> Iterator[Layer]:
    """The same with cards where only beds sound, before the first span and after the last: there is no picture of that."""
    if begins and not isinstance(layers[0].shown, Card | Drawn):
        yield Layer(0, begins, OPENING)
        layers = [cut for each in layers if (cut := _clipped(each, begins, length))]
    if ends < length and not isinstance(layers[-1].shown, Card | Drawn):
        yield from (cut for each in layers if (cut := _clipped(each, 0, ends)))
        yield Layer(ends, length, CLOSING)
    else:
        yield from layers


def with_looks(layers: Sequence[Layer], looks: Mapping[WhichCard, CardLook]) -> Iterator[Layer]:
    """The layers with cards as an edition has them."""
    for layer in layers:
        shown = layer.shown
        if isinstance(shown, SoundPicture) and "opening" in looks:
            yield replace(layer, shown=replace(shown, look=looks["opening"]))
        elif isinstance(shown, Card | Drawn) and (look := looks.get(_which(shown))):
            yield replace(layer, shown=Carded(shown, look))
        else:
            yield layer


def _which(card: Card | Drawn) -> WhichCard:
    if isinstance(card, Drawn):
        return "between"
    return "closing" if card.closing else "opening"


def _clipped(layer: Layer, begin: Ticks, until: Ticks) -> Layer | None:
    if layer.until <= begin or layer.begin >= until:
        return None
    part = layer.part(begin, until)
    return Layer(part.begin + begin, part.until + begin, part.shown)


def _seen(
    span: Span, begin: Ticks, until: Ticks, rests: Ticks | None, cameras: _Cameras, shots: Sequence[Shot]
) -> Iterator[Layer]:
    """What is seen of a span from ``begin`` to ``until``, shot by shot; from ``rests`` on it stands still."""
    still = until if rests is None else min(max(rests, begin), until)
    for shot in shots if len(shots) == 1 else _between(shots, begin, until):
        a, b = max(begin, shot.begin), min(until, shot.until)
        if a < min(b, still):
            yield Layer(a, min(b, still), _shown(span, a, min(b, still), cameras, shot))
        if max(a, still) < b:
            yield Layer(max(a, still), b, _shown(span, max(a, still), b, cameras, shot, stands=min(still, span.clear_to)))


def _between(shots: Sequence[Shot], begin: Ticks, until: Ticks) -> Sequence[Shot]:
    first = max(0, bisect_right(shots, begin, key=_begin) - 1)
    return shots[first : bisect_left(shots, until, key=_begin)]


def _begin(shot: Shot) -> Ticks:
    return shot.begin


def _shown(span: Span, at: Ticks, until: Ticks, cameras: _Cameras, shot: Shot, stands: Ticks | None = None) -> Shown:
    """What is seen of a span from a place of the programme on, perhaps as it ``stands`` at another."""
    card = span.source if isinstance(span.source, Card | Drawn) else OPENING
    return cameras.scene(span, at, until, shot, stands) or card


def _camera(span: Span, at: Ticks, track: Track, material: Material) -> Camera:
    """A track's pictures from a place of the programme on."""
    place, speed, source = span.start + at - span.at, 1.0, span.source
    if isinstance(source, SaidAgain):
        # What is seen is what was seen before, as quickly as it takes to say it again.
        (line,) = material.tracks(source.recording)
        speed = (source.end - source.start) / line.length if line.length else 1.0
        place = source.start + round(place * speed)
    return Camera(track.recording, track.to_recording(place), speed / (1 + track.drift))


def frame_of(spans: Sequence[Span], shape: PictureShape, material: Material) -> Frame:
    """The frame of a film: that of the first camera of what is heard, cropped to the edition's shape."""
    sources = (span.source for span in spans if isinstance(span.source, Recorded))
    cameras = (material.camera(home_of(source) or "") for source in sources)
    first = next((camera.picture for camera in cameras if camera and camera.picture), None)
    own = Frame(first.width, first.height, first.rate) if first else CARD_FRAME
    return own if shape == "as recorded" else Frame(*size_in(shape, own.width, own.height), own.rate, fill=True)
