"""Who is seen: shots against who really speaks, faces that stay in, and what pictures of several cameras cost."""

from __future__ import annotations

import json
import random
import statistics
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import av
import cv2
import numpy as np
from PIL import Image
from skimage.data import astronaut, chelsea, coffee

import jaskel.demo
from bench.figure import Figure, timed
from jaskel.core.captions.cues import Cue
from jaskel.core.captions.screens import screens
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.edition import Edition, Piece
from jaskel.core.marks.mark import Marks
from jaskel.core.marks.shot import set_shot, set_shot_rules
from jaskel.core.picture.crop import crop_of
from jaskel.core.picture.faces import EVERY, Faces, along
from jaskel.core.picture.framing import WHOLE, Box
from jaskel.core.picture.gaze import Gaze, Pair, look_of
from jaskel.core.picture.grade import Grade
from jaskel.core.picture.graphic import Bar, Logo, Overlay, Strap, Title
from jaskel.core.picture.rules import ShotRules
from jaskel.core.picture.shots import Shot, follow
from jaskel.core.picture.style import Style
from jaskel.core.plan import Camera, Frame, Material, Scene, View, compile_plan
from jaskel.core.session import Picture, Session, Track
from jaskel.core.shape import RATIOS
from jaskel.core.source import Recorded
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Transcript, Word
from jaskel.media.bridge import GOOD, Bridge
from jaskel.media.captions.drawn import Overlay as Captions
from jaskel.media.captions.drawn import Renderer
from jaskel.media.faces import faces_in, follow_faces, small_of
from jaskel.media.gaze import Gazes, eyes_in
from jaskel.media.graphics import Artist, Graphics
from jaskel.media.picture import make_working_copy, stamped
from jaskel.media.probe import PictureInfo
from jaskel.media.render import H264
from jaskel.media.scene import Studio

RULES = ShotRules(follow=True, reactions=False)
WIDE = Fraction(16, 9)
DEMO = Path(jaskel.demo.__file__).parent / "media"

Turn = tuple[str, float, float]


def figures(folder: Path) -> Iterator[Figure]:
    yield from _shots()
    yield from _faces(folder)
    yield from _framing()
    yield from _composed(folder)
    yield from _bridges()
    yield from _gaze()
    yield from _dressed(folder)


def _shots() -> Iterator[Figure]:
    talks = {f"a made talk of {name}": _talk(seed, voices) for seed, (name, voices) in enumerate(TALKS.items())}
    talks["the demo's interview"] = _demo()
    for name, turns in talks.items():
        words = [each for turn in turns for each in _words(*turn)]
        shots = follow(sorted(words, key=lambda each: each.start), words[-1].end + RATE, RULES)
        share = _seen(shots, turns)
        shortest = min(shot.until - shot.begin for shot in shots)
        yield Figure(f"{name}: who speaks is seen", f"{share:.1%} of the time", "≥ 95 %", share >= 0.95)
        yield Figure(f"{name}: shortest of {len(shots)} shots", f"{shortest / RATE:.2f} s", "≥ 2 s", shortest >= RULES.shortest)


TALKS = {"long answers": "ab", "two who take turns": "ab", "three": "abc"}


def _talk(seed: int, voices: str) -> list[Turn]:
    """Ten minutes of turns with truth."""
    chance, at, turns, voice = random.Random(f"bench {seed}"), 1.0, [], voices[0]
    while at < 600:
        lasts = chance.choice([chance.uniform(0.3, 0.9), chance.uniform(2.2, 6), chance.uniform(5, 12 + 25 * (seed == 0))])
        turns.append((voice, at, at + lasts))
        at += lasts + chance.expovariate(2.0)
        voice = chance.choice([each for each in voices if each != voice])
    return turns


def _demo() -> list[Turn]:
    """Who speaks when in the demo's interview, by the truth it was made from."""
    told = json.loads((DEMO / "interview.truth.json").read_text())["words"]
    turns: list[Turn] = []
    for word in sorted(told, key=lambda each: each["start"]):
        if turns and turns[-1][0] == word["voice"] and word["start"] - turns[-1][2] < 1.5:
            turns[-1] = (*turns[-1][:2], max(turns[-1][2], word["end"]))
        else:
            turns.append((word["voice"], word["start"], word["end"]))
    return turns


def _words(voice: str, begin: float, end: float) -> Iterator[ProgrammeWord]:
    """A turn in words of a third of a second."""
    count = max(1, round((end - begin) * 3))
    edges = [round((begin + (end - begin) * number / count) * RATE) for number in range(count + 1)]
    for start, until in pairwise(edges):
        yield ProgrammeWord(Word("word", start, until - RATE // 30, 0.9, voice), start, until - RATE // 30)


def _seen(shots: Sequence[Shot], turns: Sequence[Turn]) -> float:
    """Of the time of turns longer than the shortest shot, but for their first 0.3 s, in which share who speaks is seen."""
    total = right = number = 0
    for voice, begin, end in turns:
        if (end - begin) * RATE <= RULES.shortest:
            continue
        for at in np.arange(begin + 0.3, end, 0.05) * RATE:
            while shots[number].until <= at:
                number += 1
            total += 1
            right += voice in shots[number].voices
    return right / max(1, total)


def _faces(folder: Path) -> Iterator[Figure]:
    """A photographed face put into a photographed scene, in three movements."""
    head = Image.fromarray(astronaut()[0:290, 110:340])
    moves: dict[str, Callable[[float], float]] = {
        "still": lambda _: 0.62,
        "swaying": lambda at: 0.5 + 0.12 * np.sin(at),
        "walking": lambda at: 0.2 + 0.6 * abs(at / 10 % 2 - 1),
    }
    for name, place in moves.items():
        path, length = folder / f"{name}.mp4", 20
        places = _filmed(path, head, place, length)
        light = folder / f"{name}-light.mp4"
        make_working_copy(path, PictureInfo("h264", 1280, 720, "25"), length * RATE, light)
        begun = time.perf_counter()
        faces = follow_faces(light, length * RATE)
        cost = (time.perf_counter() - begun) / length
        for shape, ratio in RATIOS.items():
            share = _kept_in(faces, places, ratio)
            yield Figure(f"a {name} face within a {shape} picture", f"{share:.1%} of pictures", "≥ 99 %", share >= 0.99)
        if name == "still":
            crops = [crop.x for crop in _crops(faces, RATIOS["upright"], length)]
            trembles = max(crops) - min(crops)
            yield Figure("how far the crop of a still head moves", f"{trembles:.2%}", "< 0.3 %", trembles < 0.003)
            yield Figure("finding faces in a film of 720p, times real time", f"{cost:.3f}", "≤ 0.1", cost <= 0.1)


def _filmed(path: Path, head: Image.Image, place: Callable[[float], float], seconds: int) -> list[float]:
    """Film a head in front of a scene at 720p; gives the middle of the face at each picture, as shares of the width."""
    scene = Image.fromarray(coffee()).resize((1280, 720))
    size = round(head.width * 1.1), round(head.height * 1.1)
    large = head.resize(size)
    middles = []
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25, options=H264["good"])
        video.width, video.height, video.pix_fmt = 1280, 720, "yuv420p"
        for number in range(25 * seconds):
            middles.append(place(number / 25))
            picture = scene.copy()
            picture.paste(large, (round(middles[-1] * 1280) - size[0] // 2, 150))
            frame = av.VideoFrame.from_image(picture).reformat(format="yuv420p")
            out.mux(video.encode(stamped(frame, number, Fraction(25))))
        out.mux(video.encode())
    return middles


HALF = 0.06
"""Half as wide as the face itself, as a share of the picture."""


def _crops(faces: Faces, ratio: Fraction, seconds: int) -> Iterator[Box]:
    plain = crop_of(WIDE, ratio)
    path = faces.path(plain.width, plain.height)
    for number in range(25 * seconds):
        yield crop_of(WIDE, ratio, at=along(path, number * RATE // 25)) if path else plain


def _kept_in(faces: Faces, places: Sequence[float], ratio: Fraction) -> float:
    crops = _crops(faces, ratio, len(places) // 25)
    kept = [crop.x <= place - HALF and place + HALF <= crop.x + crop.width for crop, place in zip(crops, places, strict=True)]
    return sum(kept) / len(kept)


def _framing() -> Iterator[Figure]:
    """An hour of two cameras: what a change of a framing costs until the page can be told what is seen."""
    length = 3600 * RATE
    words = tuple(each.word for turn in _hour() for each in _words(*turn))
    tracks = (
        Track("mic a", length, voice="a"), Track("mic b", length, voice="b"),
        *(Track(f"cam {voice}", length, voice=voice, sounds=False, picture=Picture(1280, 720, Fraction(25))) for voice in "ab"),
    )  # fmt: skip
    face = Faces((), length // EVERY)
    material = Material({"s": Session(tracks)}, {"s": Transcript(length, words)}, faces={"cam a": face, "cam b": face})
    marks = Marks().changed(set_shot_rules(Marks(), RULES))
    edition = replace(Edition.of([Piece(Recorded("s"), 0, length)]), marks=marks, shape="upright")
    _ = compile_plan(edition, material).layers
    taken = []
    for number in range(7):
        at = (number * 400 + 20) * RATE
        changed = edition.marks.changed(set_shot(edition.marks, [("s", at, at + 5 * RATE)], "side by side", ("a", "b")))
        edition = replace(edition, marks=changed)
        taken.append(timed(lambda edition=edition: compile_plan(edition, material).layers))  # type: ignore[misc]
    usual = statistics.median(taken)
    yield Figure("a framing changed in an hour of two cameras", f"{usual * 1e3:.0f} ms", "≤ 200 ms", usual <= 0.2)


def _hour() -> Iterator[Turn]:
    for part in range(6):
        yield from ((voice, a + part * 600, min(b, 599.0) + part * 600) for voice, a, b in _talk(1, "ab") if a < 598)


def _composed(folder: Path) -> Iterator[Figure]:
    """Two films decoded and encoded side by side, against both decoded and one encoded."""
    paths = [folder / f"{name}.mp4" for name in ("swaying", "walking")]
    frame = Frame(1280, 720, Fraction(25))
    slots = ((0.0, 0.0, 0.496, 1.0), (0.504, 0.0, 0.496, 1.0))
    side = Scene(
        tuple(
            View(Camera(str(path), 0), Box(*slot), ((0, crop_of(WIDE, Fraction(8, 9))),))
            for path, slot in zip(paths, slots, strict=True)
        )
    )
    one = Scene((View(Camera(str(paths[0]), 0), WHOLE),))
    both = timed(lambda: _written(folder, frame, lambda studio, at: studio.picture(side, at)))
    alone = timed(lambda: _written(folder, frame, lambda studio, at: studio.picture(one, at)))
    bare = timed(lambda: _bare(folder, paths))
    single = timed(lambda: _bare(folder, paths[:1]))
    yield Figure("two cameras side by side, to bare", f"{both / bare:.2f}", "≤ 1.8", both / bare <= 1.8)
    yield Figure("one camera, to bare", f"{alone / single:.2f}", "≤ 1.5", alone / single <= 1.5)


SECONDS = 20


def _written(folder: Path, frame: Frame, shown: Callable[[Studio, Ticks], av.VideoFrame]) -> None:
    studio = Studio(frame, Path)
    with av.open(str(folder / "composed.mp4"), "w") as out:
        video = out.add_stream("libx264", rate=25, options=H264["good"])
        video.width, video.height, video.pix_fmt, video.thread_type = 1280, 720, "yuv420p", "AUTO"
        for number in range(25 * SECONDS):
            at: Ticks = number * RATE // 25
            out.mux(video.encode(stamped(shown(studio, at), number, Fraction(25))))
        out.mux(video.encode())
    studio.close()


def _bare(folder: Path, paths: Sequence[Path]) -> None:
    """All decoded, and the first encoded."""
    files = [av.open(str(path)) for path in paths]
    for file in files:
        file.streams.video[0].thread_type = "AUTO"
    with av.open(str(folder / "bare.mp4"), "w") as out:
        video = out.add_stream("libx264", rate=25, options=H264["good"])
        video.width, video.height, video.pix_fmt, video.thread_type = 1280, 720, "yuv420p", "AUTO"
        for number, frames in enumerate(zip(*(file.decode(video=0) for file in files), strict=False)):
            out.mux(video.encode(stamped(frames[0], number, Fraction(25))))
        out.mux(video.encode())
    for file in files:
        file.close()


@dataclass(frozen=True)
class Motion:
    """How far a picture has moved at the end of its way: growing, to the right, downwards, and turned in degrees."""

    grows: float
    right: float
    down: float
    turns: float

    def of(self, picture: np.ndarray, share: float) -> np.ndarray:
        height, width = picture.shape[:2]
        matrix = cv2.getRotationMatrix2D((width / 2, height / 2), self.turns * share, 1 + (self.grows - 1) * share)
        matrix[:, 2] += self.right * share, self.down * share
        moved: np.ndarray = cv2.warpAffine(picture, matrix, (width, height), borderMode=cv2.BORDER_REFLECT)
        return moved


MOTIONS = {"small": Motion(1.01, 6, 3, 0.5), "medium": Motion(1.03, 16, 8, 1.5), "large": Motion(1.06, 32, 16, 3)}


def _bridges() -> Iterator[Figure]:
    """Bridges between photographs in known motion, against a dissolve; what they say of themselves; what they cost."""
    worst, good = 0.0, 0
    for name, motion in MOTIONS.items():
        better = []
        for photograph in (astronaut(), chelsea(), coffee()):
            first = cv2.resize(photograph[: photograph.shape[1] * 9 // 16, :, :3], (640, 360), interpolation=cv2.INTER_AREA)
            truth, last = motion.of(first, 0.5), motion.of(first, 1)
            bridge = Bridge(first, last)
            middle = bridge.at(0.5)
            better.append(_decibels(middle, truth) - _decibels(first.astype(float) / 2 + last / 2, truth))
            if bridge.judged.quality == "good":
                off = (middle.astype(float) - truth) ** 2
                blocks = off[:352].mean(axis=2).reshape(11, 32, 20, 32).mean(axis=(1, 3))
                worst, good = max(worst, float(np.sqrt(blocks.max()))), good + 1
        yield Figure(
            f"a bridge over {name} motion, to a dissolve", f"+{min(better):.1f} dB at least", "≥ 8 dB", min(better) >= 8
        )
    told = f"{worst:.1f} levels off in the worst block of {good} called good"
    yield Figure("what bridges that are called good are off by", told, f"< {GOOD:g}", worst < GOOD)
    first = cv2.resize(astronaut()[:288], (1280, 720))
    last = MOTIONS["medium"].of(first, 1)

    def render() -> None:
        for _ in range(20):
            bridge = Bridge(first, last)
            for number in range(8):
                bridge.at((number + 0.5) / 8)

    taken = timed(render)
    yield Figure("20 bridges of 8 pictures at 720p", f"{taken:.1f} s", "< 10 s", taken < 10)


def _gaze() -> Iterator[Figure]:
    """A photographed face whose irises are moved aside by so many of their radii, and turned back to the camera."""
    portrait = cv2.resize(astronaut()[:288], (1280, 720), interpolation=cv2.INTER_CUBIC)
    as_taken = _eyes(portrait)
    past = []
    for right, down in ((0.45, 0.0), (-0.45, 0.0), (0.0, 0.4), (0.3, 0.25)):
        aside = _glancing(portrait, as_taken, right, down)
        turned = Gazes().turned(_frame(aside), 0, Gaze(100, 20)).to_ndarray(format="rgb24")
        past.append([look_of(_eyes(each)).angle for each in (aside, turned)])
    told = ", ".join(f"{before:.1f}° to {after:.1f}°" for before, after in past)
    yield Figure("how far eyes look past the camera, before and after they are turned", told, "less by 40 %",
                 all(after < 0.6 * before for before, after in past))  # fmt: skip
    frame = _frame(_glancing(portrait, as_taken, 0.3, 0.0))
    each = timed(lambda: [Gazes().turned(frame, 0, Gaze(100, 20)) for _ in range(10)]) / 10
    yield Figure("turning the eyes in a picture at 720p", f"{1000 * each:.0f} ms", "", True)


def _frame(picture: np.ndarray) -> av.VideoFrame:
    return av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), "rgb24").reformat(format="yuv420p")


def _eyes(picture: np.ndarray) -> Pair:
    found = eyes_in(picture, faces_in(small_of(_frame(picture)))[0].box)
    assert found is not None
    return found


def _glancing(picture: np.ndarray, eyes: Pair, right: float, down: float) -> np.ndarray:
    rows, columns = np.mgrid[0 : picture.shape[0], 0 : picture.shape[1]].astype(np.float32)
    x, y = columns.copy(), rows.copy()
    for eye in (eyes.left, eyes.right):
        off = right * eye.radius, down * eye.radius
        far = np.hypot(columns - eye.iris[0] - off[0], rows - eye.iris[1] - off[1]) / eye.radius
        weight = np.exp(-((far / 1.7) ** 4)).astype(np.float32)
        x, y = x - weight * off[0], y - weight * off[1]
    moved: np.ndarray = cv2.remap(picture, x, y, cv2.INTER_CUBIC)
    return moved


def _decibels(a: np.ndarray, b: np.ndarray) -> float:
    """The peak signal to noise ratio of two pictures."""
    return float(10 * np.log10(255**2 / np.mean((a.astype(float) - b) ** 2)))


def _dressed(folder: Path) -> Iterator[Figure]:
    """Two cameras in framings with names, title, logo, bar, levels and captions, against both decoded and one encoded."""
    paths = [folder / f"{name}.mp4" for name in ("swaying", "walking")]
    Image.new("RGBA", (300, 300), "#23559e").save(folder / "logo", "PNG")
    style = Style(logo="logo", watermark=True, bar="bottom")
    artist = Artist("Bench", "Bench", style, pictures=folder.joinpath)
    frame = Frame(1280, 720, Fraction(25))
    grade = Grade(exposure=0.3, saturation=110)
    half = ((0, crop_of(WIDE, Fraction(8, 9))),)
    slots = (Box(0, 0, 0.496, 1), Box(0.504, 0, 0.496, 1))
    side = Scene(tuple(View(Camera(str(path), 0), slot, half, grade) for path, slot in zip(paths, slots, strict=True)))
    overlays = [
        Overlay(0, SECONDS * RATE, Logo()), Overlay(0, SECONDS * RATE, Bar()),
        Overlay(RATE, 6 * RATE, Strap("Orla Venn", "Host"), "edge"), Overlay(8 * RATE, 12 * RATE, Title("Part one"), "fade"),
    ]  # fmt: skip
    cues = [Cue(at * RATE, (at + 2) * RATE, ("Words as they are", "said in two lines")) for at in range(0, SECONDS, 2)]
    captions = Captions(tuple(screens(cues)), Renderer(1280, 720))
    graphics = Graphics(overlays, artist, 1280, 720)
    singles = [Scene((View(Camera(str(path), 0), WHOLE, grade=grade),)) for path in paths]

    def shown(studio: Studio, at: Ticks) -> av.VideoFrame:
        scene = side if at // RATE % 10 < 3 else singles[at // RATE // 5 % 2]
        return captions.over(graphics.over(studio.picture(scene, at), at), at)

    dressed = timed(lambda: _written(folder, frame, shown))
    bare = timed(lambda: _bare(folder, paths))
    yield Figure(
        "framings of two cameras with overlays and captions, to bare", f"{dressed / bare:.2f}", "≤ 1.5", dressed / bare <= 1.5
    )
