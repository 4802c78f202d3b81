"""The library of pictures that ships with Jaskel, drawn from nothing: ``python -m jaskel.demo.pictures``."""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Iterator, Mapping
from fractions import Fraction
from pathlib import Path

import av
from PIL import Image

from jaskel.demo import more_pictures
from jaskel.demo.sheet import HIGH, WIDE, Sheet
from jaskel.media.picture import stamped

OUT = Path(__file__).resolve().parents[1] / "standins" / "pictures"
SIZE, SMALL = (WIDE, HIGH), (960, 540)
FILM, RATE, SECONDS = (640, 360), Fraction(20), 8

Scene = Callable[["Sheet", float], None]


def harbour(sheet: Sheet, phase: float) -> None:
    sheet.disc(930, 330, 60, "#ffe9c2")
    sheet.shape([(0, 360), (220, 300), (420, 345), (640, 290), (900, 350), (1280, 310), (1280, 420), (0, 420)], "#8a8aa0")
    sheet.water(400, "#c98f7a", "#ffd9b0aa", phase)
    for x, y, size, hull in ((250, 430, 60, "#5d3b3b"), (520, 470, 110, "#2f4a5f"), (900, 520, 170, "#7a3b2f")):
        sheet.boat(x, y + 6 * math.sin(phase * 2 + x), size, hull)


def tide(sheet: Sheet, phase: float) -> None:
    sheet.water(260, "#3f7d84", "#d8efe8aa", phase * 2)
    for row in range(3):
        reach = 470 + 70 * row + 40 * math.sin(phase * 1.6 - row)
        edge = [(x, reach + 14 * math.sin(x / 70 + phase * 2 + row)) for x in range(0, WIDE + 20, 20)]
        sheet.shape([*edge, (WIDE, HIGH), (0, HIGH)], ("#7fb0a8", "#b9d3c2", "#d8c7a0")[row])
        sheet.line(edge, "#ffffffcc", 5)


def fog(sheet: Sheet, phase: float) -> None:
    sheet.water(430, "#93a1a4", "#c9d1d188", phase * 0.4)
    sheet.boat(700, 450, 140, "#5f6d72")
    sheet.soft(3)
    for number in range(9):
        x = (number * 311 + phase * 45) % (WIDE + 600) - 300
        sheet.draw.ellipse((2 * x - 700, 700 + number * 60, 2 * x + 700, 840 + number * 66), fill="#dfe3e155")
    sheet.soft(9)


def storm(sheet: Sheet, phase: float) -> None:
    for row in range(5):
        y = 240 + row * 100
        edge = [(x, y + 46 * math.sin(x / 130 + row * 1.7 + phase * 3)) for x in range(0, WIDE + 20, 20)]
        sheet.shape([*edge, (WIDE, HIGH), (0, HIGH)], ("#51646f", "#435863", "#374c58", "#2b404d", "#203440")[row])
        sheet.line(edge, "#dfe8e8aa", 4)


def gulls(sheet: Sheet, phase: float) -> None:
    sheet.box(0, 560, WIDE, 20, "#4b3d33")
    for x in range(60, WIDE, 170):
        sheet.box(x, 560, 22, 170, "#3c3129")
    for number in range(9):
        x, y = 120 + number * 130, 160 + 70 * math.sin(number * 2.1 + phase)
        flap = 18 * math.sin(phase * 6 + number)
        sheet.line([(x - 44, y + flap), (x - 14, y - 12), (x, y), (x + 14, y - 12), (x + 44, y + flap)], "#f7f5ef", 6)


def rope(sheet: Sheet, _phase: float) -> None:
    sheet.planks("#8a6f52", "#5d4936")
    for turn in range(9, 0, -1):
        radius = 40 + turn * 30
        sheet.disc(640, 370, radius + 14, "#5d4b2f")
        sheet.disc(640, 370, radius + 10, "#c9a86a")
        for step in range(0, 360, 9):
            angle = math.radians(step)
            x, y = 640 + radius * math.cos(angle), 370 + radius * math.sin(angle)
            sheet.line(
                [
                    (x - 8 * math.cos(angle + 0.8), y - 8 * math.sin(angle + 0.8)),
                    (x + 8 * math.cos(angle), y + 8 * math.sin(angle)),
                ],
                "#8c6f3c",
                2,
            )
    sheet.disc(640, 370, 34, "#6b5433")


def hull(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 560, WIDE, 160, "#6f6a5f")
    for row in range(8):
        y = 230 + row * 38
        sheet.shape(
            [(140 + row * 34, y), (1190 - row * 46, y), (1150 - row * 50, y + 40), (170 + row * 36, y + 40)],
            ("#a5673f", "#96592f")[row % 2],
        )
        sheet.line([(140 + row * 34, y), (1190 - row * 46, y)], "#4a2c1aaa", 3)
    sheet.box(520, 530, 190, 34, "#4b3527")
    for x in (330, 900):
        sheet.line([(x, 660), (x + 60, 420)], "#4a3a2c", 16)


def sail(sheet: Sheet, phase: float) -> None:
    sheet.water(560, "#2f6b86", "#bfe0e8aa", phase * 2)
    belly = 60 + 14 * math.sin(phase * 3)
    edge = [(620 + belly * math.sin(math.pi * t / 20) + t * 17, 90 + t * 22) for t in range(21)]
    sheet.shape([(600, 80), *edge, (600, 540)], "#f4efe2")
    for seam in range(1, 6):
        sheet.line([(602, 80 + seam * 78), (620 + seam * 58, 100 + seam * 76)], "#cfc6b2", 2)
    sheet.line([(598, 50), (598, 570)], "#3a2f28", 9)
    sheet.boat(640, 560, 240, "#8c3b2e", mast=False)


def needle(sheet: Sheet, _phase: float) -> None:
    for seam in range(0, WIDE, 8):
        sheet.line([(seam, 0), (seam, HIGH)], "#d9d0bc66", 1)
    sheet.box(560, 0, 160, HIGH, "#e2d8c2")
    for y in range(10, HIGH, 56):
        sheet.line([(600, y), (680, y + 28)], "#8c3b2e", 6)
    sheet.line([(700, 430), (980, 250)], "#7d8489", 11)
    sheet.line([(720, 420), (960, 262)], "#cfd5d8", 4)
    sheet.line([(980, 250), (1010, 300), (960, 380), (1050, 470), (1000, 600)], "#8c3b2e", 5)


def kettle(sheet: Sheet, phase: float) -> None:
    sheet.box(0, 520, WIDE, 200, "#4b3a2f")
    sheet.shape([(480, 300), (760, 300), (830, 520), (410, 520)], "#3d5a66")
    sheet.shape([(800, 420), (940, 330), (960, 350), (830, 480)], "#3d5a66")
    sheet.line([(490, 300), (520, 200), (720, 200), (750, 300)], "#20262b", 16)
    for x in (180, 1020):
        sheet.box(x, 420, 110, 110, "#e9e1cf", 12)
        sheet.line([(x + 110, 445), (x + 150, 455), (x + 145, 495), (x + 110, 500)], "#e9e1cf", 12)
    for number in range(5):
        y = 300 - (number * 60 + phase * 50) % 300
        sheet.disc(955 + 18 * math.sin(y / 30), y, 14 + (300 - y) / 12, "#ffffff22")


def tools(sheet: Sheet, _phase: float) -> None:
    sheet.planks("#b08a5c", "#7a5c39")
    for x, long in ((230, 330), (330, 390), (430, 300)):
        sheet.box(x, 140, 34, long * 0.45, "#6b3f26", 14)
        sheet.box(x + 5, 140 + long * 0.45, 24, long * 0.55, "#b9c2c7", 4)
    sheet.box(620, 260, 470, 120, "#5a3d28", 20)
    sheet.box(660, 380, 400, 26, "#8f979b", 6)
    sheet.box(720, 190, 60, 90, "#3c2a1d", 20)
    for _ in range(14):
        x, y = sheet.chance.uniform(600, 1200), sheet.chance.uniform(450, 680)
        sheet.draw.arc((2 * x, 2 * y, 2 * x + 90, 2 * y + 60), 20, 320, fill="#e8cfa0", width=10)


def lighthouse(sheet: Sheet, phase: float) -> None:
    for _ in range(90):
        sheet.disc(sheet.chance.uniform(0, WIDE), sheet.chance.uniform(0, 420), sheet.chance.uniform(0.6, 1.9), "#ffffffcc")
    angle = 0.25 * math.sin(phase)
    sheet.shape([(880, 190), (-100, 60 + 500 * angle), (-100, 240 + 500 * angle), (880, 215)], "#fff2b055")
    sheet.shape([(760, 620), (1030, 620), (960, 720), (700, 720)], "#20262b")
    sheet.shape([(850, 230), (910, 230), (940, 640), (820, 640)], "#e9e1d2")
    for y in (310, 450, 580):
        sheet.box(840, y, 82, 46, "#b93a27")
    sheet.box(848, 170, 64, 64, "#ffe9a0", 8)
    sheet.water(660, "#16242f", "#9fb6c466", phase)


def chart(sheet: Sheet, _phase: float) -> None:
    for x in range(0, WIDE, 80):
        sheet.line([(x, 0), (x, HIGH)], "#a99f8577", 1)
    for y in range(0, HIGH, 80):
        sheet.line([(0, y), (WIDE, y)], "#a99f8577", 1)
    coast = [(0, 120), (180, 160), (260, 300), (420, 330), (470, 470), (330, 560), (300, 720), (0, 720)]
    sheet.shape(coast, "#cdbf8f")
    sheet.line(coast[:-1], "#6f6444", 4)
    sheet.line([(520, 610), (760, 420), (930, 400), (1130, 180)], "#23559e", 5)
    for x, y in ((520, 610), (760, 420), (930, 400), (1130, 180)):
        sheet.disc(x, y, 10, "#23559e")
    for angle in range(0, 360, 45):
        far = 90 if angle % 90 == 0 else 52
        sheet.line(
            [(1080, 560), (1080 + far * math.cos(math.radians(angle)), 560 + far * math.sin(math.radians(angle)))], "#8c3b2e", 4
        )


def window(sheet: Sheet, _phase: float) -> None:
    sheet.box(380, 90, 520, 400, "#fff3cf")
    for x in (380, 548, 716, 884):
        sheet.box(x, 90, 18, 400, "#3a2b20")
    for y in (90, 282, 474):
        sheet.box(380, y, 522, 18, "#3a2b20")
    sheet.shape([(380, 490), (900, 490), (1180, 720), (160, 720)], "#ffe9a833")
    sheet.box(0, 600, WIDE, 30, "#7a5a3c")
    for x in range(120, WIDE, 230):
        sheet.box(x, 520, 60, 84, ("#8c3b2e", "#3d5a66", "#b08a4c")[x // 230 % 3], 8)


def rain(sheet: Sheet, phase: float) -> None:
    sheet.shape([(180, 420), (640, 210), (1100, 420)], "#3b3f43")
    sheet.box(230, 420, 820, 300, "#6b5344")
    sheet.box(520, 500, 240, 220, "#2c2520")
    for number in range(240):
        x, y = number * 53.7 % WIDE, (number * 91.3 + phase * 500) % HIGH
        sheet.line([(x, y), (x - 8, y + 34)], "#dfe8ee66", 1.5)


STILLS: dict[str, tuple[Scene, str, str, str]] = {
    "harbour-at-dawn": (harbour, "#f3c9a5", "#e8a98a", "The harbour at dawn, boats moored in still water"),
    "coil-of-rope": (rope, "#8a6f52", "#8a6f52", "A coil of hemp rope on wooden planks"),
    "hull-on-the-slip": (hull, "#c9d3d6", "#aeb9b6", "A wooden hull stands dry on the slip, waiting for repair"),
    "full-sail": (sail, "#cfe3ee", "#9cc4d8", "A white sail full of wind over the open sea"),
    "needle-and-seam": (needle, "#efe8d8", "#e6dcc6", "A needle and thread mend a seam in the sailcloth by hand"),
    "kettle": (kettle, "#d9b98a", "#b98e63", "A kettle steams on the stove between two mugs of tea"),
    "tools-on-the-bench": (tools, "#b08a5c", "#b08a5c", "Chisels and a plane on the workbench, with shavings of wood"),
    "lighthouse": (lighthouse, "#0f1c2c", "#2b4258", "A lighthouse shines over the dark sea at night"),
    "chart": (chart, "#efe5c8", "#e5d8b2", "A chart of the coast with a course drawn on it in pencil"),
    "workshop-window": (window, "#4b3a2c", "#3a2c22", "Sunlight falls through the window of the workshop"),
    "gulls": (gulls, "#bcd6e0", "#e6ebe4", "Gulls fly over the pier"),
    "storm": (storm, "#6f7f88", "#8d9a9e", "High waves in a storm, bad weather at sea"),
}
"""Still pictures: what draws them, the colours of their sky or ground, and what is seen."""

FILMS: dict[str, tuple[Scene, str, str, str]] = {
    "tide-coming-in": (tide, "#cfe3e6", "#9cc4c4", "The tide comes in, waves run up the beach"),
    "fog": (fog, "#c3cbcb", "#dfe3e1", "Fog drifts over the water and hides a boat"),
    "rain-on-the-yard": (rain, "#6f7d85", "#55636b", "It rains on the roof of the boatyard"),
}


def main() -> None:
    """Draw everything anew."""
    OUT.mkdir(exist_ok=True)
    index = [
        *_stills(STILLS, SIZE, 82),
        *_films(FILMS),
        *_stills(more_pictures.STILLS, SMALL, 78),
        *_films(more_pictures.FILMS),
    ]
    (OUT / "index.json").write_text(json.dumps(index, indent=1) + "\n")


Drawn = Mapping[str, tuple[Scene, str, str, str]]


def _stills(scenes: Drawn, size: tuple[int, int], quality: int) -> Iterator[dict[str, object]]:
    for id, (scene, above, below, seen) in scenes.items():
        sheet = Sheet(above, below)
        scene(sheet, 0.6)
        sheet.finished(size).save(OUT / f"{id}.jpg", quality=quality)
        known = {"kind": "still", "width": size[0], "height": size[1], "seconds": 0}
        yield {"id": id, "file": f"{id}.jpg", "seen": seen, **known}


def _films(scenes: Drawn) -> Iterator[dict[str, object]]:
    for id, (scene, above, below, seen) in scenes.items():
        with av.open(str(OUT / f"{id}.mp4"), "w") as out:
            video = out.add_stream("libx264", rate=RATE, options={"crf": "30", "preset": "slow"})
            video.width, video.height, video.pix_fmt = *FILM, "yuv420p"
            for number in range(int(RATE * SECONDS)):
                sheet = Sheet(above, below)
                scene(sheet, number / float(RATE))
                frame = av.VideoFrame.from_image(sheet.image.resize(FILM, Image.Resampling.LANCZOS)).reformat(format="yuv420p")
                out.mux(video.encode(stamped(frame, number, RATE)))
            out.mux(video.encode())
        known = {"kind": "film", "width": FILM[0], "height": FILM[1], "seconds": SECONDS}
        yield {"id": id, "file": f"{id}.mp4", "seen": seen, **known}


if __name__ == "__main__":
    main()
