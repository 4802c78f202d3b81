"""More of the library of pictures: what talks are about besides boats. See :mod:`jaskel.demo.pictures`, which draws them."""

from __future__ import annotations

import math
from collections.abc import Callable

from jaskel.demo.sheet import HIGH, WIDE, Sheet

Scene = Callable[[Sheet, float], None]


def ground(sheet: Sheet, y: float, colour: str, wave: float = 0.0, shift: float = 0.0) -> None:
    """Land from a height downwards, its edge in waves."""
    edge = [(x, y + wave * math.sin(x / 170 + shift)) for x in range(0, WIDE + 20, 20)]
    sheet.shape([*edge, (WIDE, HIGH), (0, HIGH)], colour)


def fir(sheet: Sheet, x: float, y: float, size: float, colour: str) -> None:
    sheet.box(x - size * 0.05, y - size * 0.1, size * 0.1, size * 0.2, "#4a3528")
    for row in range(3):
        top, wide = y - size * (1.1 - row * 0.28), size * (0.2 + row * 0.1)
        sheet.shape([(x, top), (x + wide, top + size * 0.42), (x - wide, top + size * 0.42)], colour)


def tree(sheet: Sheet, x: float, y: float, size: float, crown: str) -> None:
    sheet.box(x - size * 0.06, y - size * 0.7, size * 0.12, size * 0.7, "#5a4030")
    for dx, dy, r in ((0, -1.0, 0.4), (-0.3, -0.8, 0.3), (0.3, -0.8, 0.3), (0, -0.7, 0.35)):
        sheet.disc(x + dx * size, y + dy * size, r * size, crown)


def person(sheet: Sheet, x: float, y: float, size: float, coat: str, skin: str = "#d9a988") -> None:
    """Somebody who stands, drawn with a few shapes."""
    sheet.box(x - size * 0.16, y - size * 0.5, size * 0.13, size * 0.5, "#2f3540", 6)
    sheet.box(x + size * 0.03, y - size * 0.5, size * 0.13, size * 0.5, "#2f3540", 6)
    sheet.box(x - size * 0.22, y - size, size * 0.44, size * 0.58, coat, size * 0.12)
    sheet.disc(x, y - size * 1.16, size * 0.15, skin)


def house(sheet: Sheet, x: float, y: float, size: float, wall: str, roof: str) -> None:
    sheet.box(x, y - size * 0.7, size, size * 0.7, wall)
    sheet.shape([(x - size * 0.1, y - size * 0.7), (x + size / 2, y - size * 1.2), (x + size * 1.1, y - size * 0.7)], roof)
    sheet.box(x + size * 0.4, y - size * 0.38, size * 0.2, size * 0.38, "#4a3226")
    for dx in (0.12, 0.7):
        sheet.box(x + size * dx, y - size * 0.56, size * 0.18, size * 0.2, "#fbe7b0")


def mountains(sheet: Sheet, _phase: float) -> None:
    for row, colour in enumerate(("#7f8fa6", "#65778e", "#4b5d74")):
        for number in range(5):
            x, high = number * 320 - 120 + row * 110, 330 - row * 60 + 50 * math.sin(number * 2 + row)
            sheet.shape([(x - 260, 640), (x, 640 - high), (x + 260, 640)], colour)
            if row == 0:
                sheet.shape([(x - 60, 640 - high * 0.77), (x, 640 - high), (x + 60, 640 - high * 0.77)], "#f2f5f7")
    ground(sheet, 620, "#4e6b4a", 12)


def forest(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 560, "#3d5a3a", 10)
    for row, colour in enumerate(("#55785a", "#3f6247", "#2c4a36")):
        for number in range(12 - row * 2):
            fir(sheet, number * (110 + row * 22) + 40 * row, 560 + row * 70, 260 + row * 70, colour)


def autumn(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 540, "#8a6f3e", 14)
    for number, crown in enumerate(("#c9752d", "#b8542a", "#d99a35", "#a8452a", "#cf8a2f")):
        tree(sheet, 150 + number * 250, 600 + 30 * (number % 2), 300, crown)


def blossom(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 560, "#7fa35c", 12)
    for number in range(3):
        tree(sheet, 250 + number * 390, 640, 340, ("#f3c9d6", "#f7dbe3", "#efb9cb")[number])


def road(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 380, "#7f9160", 10)
    sheet.shape([(610, 380), (670, 380), (1120, 720), (160, 720)], "#55585b")
    for number in range(6):
        y = 400 + number**2 * 12
        sheet.box(638 - number, y, 4 + number * 3, 8 + number * 6, "#f4f0e2")


def desert(sheet: Sheet, _phase: float) -> None:
    sheet.disc(980, 170, 70, "#fff1c2")
    for row, colour in enumerate(("#e2b676", "#d3a05e", "#c08a4a")):
        ground(sheet, 400 + row * 90, colour, 40, row * 2.2)


def fields(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 330, "#c9b04f", 16)
    for number in range(-6, 22):
        sheet.line([(640 + number * 14 - 100, 340), (640 + (number - 8) * 190, 720)], "#a98f34", 4)
    house(sheet, 900, 350, 130, "#e6ded0", "#9a4434")


def river(sheet: Sheet, phase: float) -> None:
    ground(sheet, 300, "#6f8f58", 18)
    sheet.shape([(560, 300), (640, 300), (760, 430), (560, 560), (900, 720), (300, 720), (360, 560), (620, 430)], "#5f97b3")
    for number in range(4):
        tree(sheet, 130 + number * 330, 420 + 60 * (number % 2), 170, "#4c7a45")


def snow(sheet: Sheet, phase: float) -> None:
    ground(sheet, 480, "#eef3f6", 20)
    for number in range(5):
        fir(sheet, 120 + number * 270, 560 + 40 * (number % 2), 280, "#7f9a98")
    for number in range(160):
        sheet.disc(number * 97.3 % WIDE, (number * 61.7 + phase * 120) % HIGH, 2 + number % 3, "#ffffffdd")


def stars(sheet: Sheet, _phase: float) -> None:
    for _ in range(260):
        sheet.disc(sheet.chance.uniform(0, WIDE), sheet.chance.uniform(0, 600), sheet.chance.uniform(0.6, 2.6), "#ffffffdd")
    sheet.disc(980, 160, 64, "#f6efd6")
    sheet.disc(1006, 148, 58, "#16213a")
    ground(sheet, 610, "#0d1420", 24)


def sunrise(sheet: Sheet, _phase: float) -> None:
    for radius, colour in ((260, "#ffd98a44"), (170, "#ffe3a066"), (90, "#fff0c4")):
        sheet.disc(640, 430, radius, colour)
    ground(sheet, 430, "#5c4a5e", 12)
    ground(sheet, 540, "#3d3346", 18, 2)


def city(sheet: Sheet, _phase: float) -> None:
    for number in range(16):
        high = 190 + 230 * abs(math.sin(number * 1.9))
        sheet.box(number * 84 - 20, 640 - high, 76, high + 80, ("#3d4655", "#4a5468", "#333c4a")[number % 3])
        for row in range(int(high // 42)):
            for column in range(3):
                lit = (number * 7 + row * 5 + column * 3) % 4 != 0
                sheet.box(number * 84 - 10 + column * 22, 656 - high + row * 42, 12, 20, "#ffe2a0" if lit else "#2a323f")


def street(sheet: Sheet, _phase: float) -> None:
    for number, wall in enumerate(("#c9876a", "#d9b07c", "#a9b59a", "#c2a0a8", "#8fa6b5")):
        sheet.box(number * 256, 120 + 40 * (number % 2), 250, 500, wall)
        for row in range(3):
            for column in range(2):
                sheet.box(number * 256 + 40 + column * 110, 190 + row * 120, 60, 80, "#efe8d8")
    sheet.box(0, 600, WIDE, 120, "#6b6a68")
    sheet.box(0, 590, WIDE, 16, "#a5a29b")


def bridge(sheet: Sheet, phase: float) -> None:
    sheet.water(520, "#4f7f95", "#c9e0e8aa", phase)
    sheet.box(0, 420, WIDE, 26, "#7a4034")
    for x in (300, 980):
        sheet.box(x - 16, 150, 32, 420, "#8c4a3c")
        for step in range(9):
            for side in (-1, 1):
                sheet.line([(x, 160), (x + side * step * 38, 424)], "#8c4a3c88", 2)


def train(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 560, "#7d8a5e", 8)
    sheet.line([(0, 590), (WIDE, 590)], "#55504a", 10)
    for number in range(4):
        x = 60 + number * 300
        sheet.box(x, 400, 286, 160, ("#a33b34", "#3b5f7a")[number > 0], 24)
        for window in range(4):
            sheet.box(x + 24 + window * 64, 430, 46, 56, "#dcecf2", 6)
        for wheel in (60, 220):
            sheet.disc(x + wheel, 572, 24, "#33363a")


def car(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 560, WIDE, 160, "#5c5f63")
    sheet.shape([(420, 430), (520, 320), (800, 320), (900, 430)], "#2f6f8f")
    sheet.box(330, 420, 660, 120, "#3b83a8", 40)
    for x in (540, 680):
        sheet.shape(
            [(x - 90 if x < 600 else x, 420), (x - 30 if x < 600 else x, 345), (x + 110, 345), (x + 110, 420)], "#d5e8ef"
        )
    for x in (470, 850):
        sheet.disc(x, 545, 60, "#22252a")
        sheet.disc(x, 545, 28, "#b9bec2")


def bicycle(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 600, WIDE, 120, "#a59c8a")
    for x in (430, 850):
        sheet.disc(x, 480, 130, "#2b2e33")
        sheet.disc(x, 480, 116, "#dfe4e2")
        for step in range(12):
            angle = step * math.pi / 6
            sheet.line([(x, 480), (x + 116 * math.cos(angle), 480 + 116 * math.sin(angle))], "#8a8f94", 2)
    for path in (
        [(430, 480), (570, 300), (770, 300), (640, 480), (430, 480)],
        [(640, 480), (560, 270)],
        [(850, 480), (750, 250)],
    ):
        sheet.line(path, "#b23a31", 14)
    sheet.line([(520, 262), (610, 262)], "#2b2e33", 18)
    sheet.line([(750, 250), (830, 240)], "#2b2e33", 12)


def plane(sheet: Sheet, _phase: float) -> None:
    for x, y in ((200, 200), (900, 520), (480, 600)):
        for dx in (-60, 0, 60):
            sheet.disc(x + dx, y, 54, "#ffffffcc")
    sheet.shape([(260, 400), (980, 300), (1060, 320), (1000, 360), (300, 460)], "#eef1f4")
    sheet.shape([(560, 380), (700, 360), (560, 600), (500, 600)], "#c4ccd3")
    sheet.shape([(280, 400), (220, 290), (270, 290), (350, 395)], "#b23a31")


def balloon(sheet: Sheet, _phase: float) -> None:
    for x, y, size, colours in ((420, 260, 150, ("#c4453a", "#efc04f")), (900, 360, 90, ("#2f6f8f", "#e9e1cf"))):
        sheet.disc(x, y, size, colours[0])
        sheet.shape(
            [
                (x - size * 0.3, y - size * 0.95),
                (x + size * 0.3, y - size * 0.95),
                (x + size * 0.2, y + size),
                (x - size * 0.2, y + size),
            ],
            colours[1],
        )
        sheet.shape(
            [
                (x - size * 0.8, y + size * 0.6),
                (x + size * 0.8, y + size * 0.6),
                (x + size * 0.2, y + size * 1.3),
                (x - size * 0.2, y + size * 1.3),
            ],
            colours[0],
        )
        sheet.box(x - size * 0.16, y + size * 1.5, size * 0.32, size * 0.26, "#7a5a3c", 6)
    ground(sheet, 640, "#6f8f58", 20)


def freighter(sheet: Sheet, phase: float) -> None:
    sheet.water(500, "#33647d", "#a9cfddaa", phase)
    sheet.shape([(120, 430), (1180, 430), (1110, 560), (180, 560)], "#7a2f2a")
    for row in range(3):
        for number in range(11):
            colour = ("#c98a3a", "#3b6f8f", "#8a3b34", "#5f7f55")[(number + row * 3) % 4]
            sheet.box(200 + number * 72, 372 - row * 56, 68, 52, colour)
    sheet.box(1010, 230, 110, 200, "#ece7dc")


def village(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 470, "#7fa05e", 20)
    for number, (wall, roof) in enumerate((("#e9e1d2", "#a34a3a"), ("#dfe4d8", "#7a4a3a"), ("#efe3c8", "#93503c"))):
        house(sheet, 180 + number * 340, 560 + 30 * (number % 2), 210, wall, roof)


def tent(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 540, "#3f5a3e", 10)
    for number in range(4):
        fir(sheet, 100 + number * 360, 560, 380, "#2c4736")
    sheet.shape([(460, 620), (640, 380), (820, 620)], "#d9903a")
    sheet.shape([(600, 620), (640, 420), (690, 620)], "#5a3a20")


def fire(sheet: Sheet, phase: float) -> None:
    for radius, colour in ((330, "#ff9a3a22"), (220, "#ffae4a33")):
        sheet.disc(640, 460, radius, colour)
    for number, colour in enumerate(("#d9541e", "#f08a2a", "#ffc04a", "#fff0b0")):
        wide, high = 150 - number * 34, 330 - number * 70
        sway = 24 * math.sin(phase * 5 + number)
        sheet.shape(
            [
                (640 - wide, 590),
                (640 - wide * 0.6, 590 - high * 0.5),
                (640 + sway, 590 - high),
                (640 + wide * 0.7, 590 - high * 0.45),
                (640 + wide, 590),
            ],
            colour,
        )
    for angle in (-0.3, 0.3):
        sheet.line([(640 - 190, 610 + 190 * angle), (640 + 190, 610 - 190 * angle)], "#4a3020", 34)


def candle(sheet: Sheet, phase: float) -> None:
    for radius, colour in ((260, "#ffd98a22"), (150, "#ffe3a044")):
        sheet.disc(640, 230, radius, colour)
    sheet.box(590, 330, 100, 290, "#efe6d2", 14)
    sheet.line([(640, 330), (640, 300)], "#3a2f28", 6)
    sheet.shape([(612, 290), (640 + 8 * math.sin(phase * 4), 180), (668, 290), (640, 310)], "#ffc65a")
    sheet.box(480, 610, 320, 30, "#8a6a3c", 12)


def books(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 560, WIDE, 160, "#6b4a34")
    sheet.box(0, 240, WIDE, 20, "#7d5840")
    x = 60.0
    for number in range(22):
        wide, high = 38 + number * 13 % 30, 230 + number * 37 % 80
        sheet.box(x, 560 - high, wide, high, ("#8c3b2e", "#2f5a6f", "#b08a3c", "#4a6a4a", "#5d4a6f")[number % 5], 4)
        sheet.box(x + 6, 590 - high, wide - 12, 10, "#efe3c0")
        x += wide + 5


def letter(sheet: Sheet, _phase: float) -> None:
    sheet.planks("#a8845c", "#7a5c39")
    sheet.box(330, 190, 620, 380, "#f4ecd8", 6)
    sheet.line([(330, 190), (640, 420), (950, 190)], "#c9bb98", 5)
    sheet.disc(640, 420, 46, "#a3322c")
    sheet.line([(960, 620), (1120, 400)], "#2b2e33", 12)


def clock_face(sheet: Sheet, _phase: float) -> None:
    sheet.disc(640, 360, 270, "#4a3626")
    sheet.disc(640, 360, 244, "#f6f0e0")
    for step in range(12):
        angle = step * math.pi / 6
        sheet.line(
            [
                (640 + 200 * math.sin(angle), 360 - 200 * math.cos(angle)),
                (640 + 228 * math.sin(angle), 360 - 228 * math.cos(angle)),
            ],
            "#33302c",
            8,
        )
    sheet.line([(640, 360), (540, 260)], "#33302c", 14)
    sheet.line([(640, 360), (760, 200)], "#33302c", 9)
    sheet.disc(640, 360, 16, "#a3322c")


def camera(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 560, WIDE, 160, "#7a6a58")
    sheet.box(360, 240, 560, 330, "#2b2e33", 30)
    sheet.box(520, 190, 220, 70, "#2b2e33", 16)
    for radius, colour in ((140, "#4a4f55"), (110, "#1a1d22"), (80, "#2f4a66"), (40, "#0f1620")):
        sheet.disc(640, 410, radius, colour)
    sheet.disc(600, 370, 18, "#ffffff88")


def microphone(sheet: Sheet, _phase: float) -> None:
    sheet.box(545, 120, 190, 300, "#8f969c", 95)
    for row in range(7):
        sheet.line([(550, 160 + row * 34), (730, 160 + row * 34)], "#5f666c", 4)
    sheet.draw.arc((2 * 480, 2 * 200, 2 * 800, 2 * 520), 0, 180, fill="#3a3f45", width=36)
    sheet.box(626, 510, 28, 120, "#3a3f45")
    sheet.box(500, 620, 280, 26, "#3a3f45", 12)


def headphones(sheet: Sheet, _phase: float) -> None:
    sheet.planks("#c9b08a", "#9a7f58")
    sheet.draw.arc((2 * 400, 2 * 130, 2 * 880, 2 * 640), 180, 360, fill="#2b2e33", width=60)
    for x in (380, 800):
        sheet.box(x, 370, 100, 200, "#2b2e33", 46)
        sheet.box(x + 14, 390, 72, 160, "#6b4a3a", 36)


def guitar(sheet: Sheet, _phase: float) -> None:
    sheet.disc(430, 460, 190, "#b06a30")
    sheet.disc(620, 400, 140, "#b06a30")
    sheet.disc(520, 430, 66, "#33221a")
    sheet.line([(520, 430), (1120, 200)], "#5a3a24", 40)
    for number in range(6):
        sheet.line([(380, 470 + number * 7), (1120, 190 + number * 5)], "#e9e1cf", 2)
    sheet.box(1090, 150, 130, 90, "#3f2a1c", 12)


def piano(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 0, WIDE, 260, "#1e1b1a")
    for number in range(14):
        sheet.box(number * 92, 260, 88, 440, "#f6f3ea", 6)
    for number in range(13):
        if number % 7 not in (2, 6):
            sheet.box(number * 92 + 62, 260, 56, 260, "#1e1b1a", 6)


def violin(sheet: Sheet, _phase: float) -> None:
    for x, y, r in ((480, 470, 150), (640, 380, 120), (560, 430, 110)):
        sheet.disc(x, y, r, "#8a4424")
    sheet.line([(560, 430), (1050, 150)], "#2b1c14", 26)
    for number in range(4):
        sheet.line([(450, 500 + number * 6), (1050, 142 + number * 5)], "#e9e1cf", 2)
    sheet.line([(260, 240), (1100, 620)], "#5a3a24", 9)


def bread(sheet: Sheet, _phase: float) -> None:
    sheet.planks("#b58f63", "#876640")
    sheet.box(330, 300, 640, 240, "#b8722f", 120)
    sheet.box(350, 305, 600, 170, "#cc8a42", 100)
    for number in range(5):
        sheet.line([(440 + number * 100, 440), (500 + number * 100, 330)], "#f0d29a", 14)
    sheet.line([(1020, 220), (1180, 560)], "#b9c2c7", 18)


def apples(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 520, WIDE, 200, "#7a5a3c")
    for x, y, colour in ((430, 450, "#b9332b"), (640, 430, "#c9a12f"), (850, 455, "#8fa33a")):
        sheet.disc(x - 30, y, 84, colour)
        sheet.disc(x + 30, y, 84, colour)
        sheet.line([(x, y - 60), (x + 12, y - 120)], "#4a3226", 10)
        sheet.disc(x - 50, y - 30, 16, "#ffffff55")


def coffee(sheet: Sheet, _phase: float) -> None:
    sheet.planks("#a3835f", "#77583a")
    sheet.disc(640, 400, 230, "#efe9dd")
    sheet.disc(640, 400, 160, "#ffffff")
    sheet.disc(640, 400, 138, "#5a3620")
    sheet.disc(610, 380, 60, "#a8753f88")
    sheet.draw.arc((2 * 780, 2 * 330, 2 * 900, 2 * 470), 270, 90, fill="#ffffff", width=40)


def laid_table(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 380, WIDE, 340, "#efe8da")
    for x in (300, 640, 980):
        sheet.draw.ellipse((2 * (x - 130), 2 * 470, 2 * (x + 130), 2 * 590), fill="#ffffff")
        sheet.draw.ellipse((2 * (x - 90), 2 * 490, 2 * (x + 90), 2 * 572), fill="#d9e3e0")
        sheet.shape([(x - 26, 300), (x + 26, 300), (x + 14, 370), (x - 14, 370)], "#7a1f2b")
        sheet.line([(x, 370), (x, 440)], "#b9c2c7", 6)


def flower(sheet: Sheet, _phase: float) -> None:
    for x, y, size, petal in ((360, 320, 90, "#d9534a"), (660, 260, 110, "#e0a63a"), (950, 340, 84, "#8a5fa3")):
        sheet.line([(x, y), (x + 10, 720)], "#4c7a45", 14)
        for step in range(8):
            angle = step * math.pi / 4
            sheet.disc(x + size * 0.8 * math.cos(angle), y + size * 0.8 * math.sin(angle), size * 0.42, petal)
        sheet.disc(x, y, size * 0.46, "#5a3a24")


def garden(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 380, "#6b4d35")
    for row in range(5):
        for number in range(12):
            x, y = 60 + number * 108 + row * 20, 430 + row * 64
            for side in (-1, 1):
                sheet.shape([(x, y), (x + side * 34, y - 30), (x + side * 10, y - 44)], "#5f9a4a")
    sheet.line([(1080, 660), (1180, 300)], "#8a6a44", 14)


def cat(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 560, WIDE, 160, "#b5876a")
    sheet.draw.ellipse((2 * 440, 2 * 330, 2 * 860, 2 * 620), fill="#4a4642")
    sheet.disc(480, 330, 100, "#4a4642")
    for x in (420, 540):
        sheet.shape([(x - 36, 270), (x, 180), (x + 36, 270)], "#4a4642")
    for x in (450, 510):
        sheet.disc(x, 325, 14, "#d9c34a")
    sheet.line([(850, 560), (980, 520), (990, 400)], "#4a4642", 40)


def dog(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 560, "#8aa35c", 6)
    sheet.box(480, 380, 360, 130, "#9a6a3c", 60)
    for x in (510, 570, 750, 800):
        sheet.box(x, 470, 34, 130, "#9a6a3c", 14)
    sheet.disc(440, 350, 84, "#9a6a3c")
    sheet.box(350, 350, 90, 56, "#b5854f", 24)
    sheet.shape([(460, 280), (520, 290), (510, 400)], "#6f4a28")
    sheet.line([(835, 400), (920, 320)], "#9a6a3c", 24)


def fish(sheet: Sheet, phase: float) -> None:
    for number in range(9):
        x, y = 140 + number * 130, 180 + 360 * abs(math.sin(number * 1.3))
        colour = ("#e08a3a", "#d9c34a", "#c45a4a")[number % 3]
        sheet.draw.ellipse((2 * (x - 60), 2 * (y - 30), 2 * (x + 60), 2 * (y + 30)), fill=colour)
        sheet.shape([(x + 50, y), (x + 96, y - 30), (x + 96, y + 30)], colour)
        sheet.disc(x - 36, y - 6, 6, "#1a1d22")
    for number in range(24):
        sheet.disc(number * 173 % WIDE, 700 - number * 37 % 700, 5 + number % 6, "#ffffff55")


def songbird(sheet: Sheet, _phase: float) -> None:
    sheet.line([(0, 520), (500, 470), (1280, 500)], "#5a4030", 26)
    sheet.draw.ellipse((2 * 540, 2 * 300, 2 * 800, 2 * 480), fill="#a3552f")
    sheet.disc(560, 300, 70, "#7a5a44")
    sheet.shape([(480, 300), (520, 288), (520, 312)], "#d9a03a")
    sheet.disc(540, 288, 9, "#1a1d22")
    sheet.shape([(770, 400), (940, 340), (900, 420)], "#5a3f30")


def bees(sheet: Sheet, _phase: float) -> None:
    for row in range(6):
        for number in range(9):
            x, y = 80 + number * 150 + 75 * (row % 2), 70 + row * 128
            points = [
                (x + 76 * math.cos(a * math.pi / 3 + math.pi / 6), y + 76 * math.sin(a * math.pi / 3 + math.pi / 6))
                for a in range(6)
            ]
            sheet.shape(points, "#e0a63a")
            sheet.line([*points, points[0]], "#a36f1f", 8)
    for x, y in ((380, 300), (760, 430), (980, 220)):
        sheet.draw.ellipse((2 * (x - 46), 2 * (y - 26), 2 * (x + 46), 2 * (y + 26)), fill="#33291c")
        for dx in (-20, 10):
            sheet.box(x + dx, y - 24, 12, 48, "#f0c04a")
        sheet.draw.ellipse((2 * (x - 30), 2 * (y - 60), 2 * (x + 10), 2 * (y - 18)), fill="#ffffffaa")


def cows(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 430, "#7fa05e", 14)
    for x, y in ((320, 540), (820, 590)):
        sheet.box(x, y - 110, 260, 120, "#f0ece2", 40)
        for dx, dy in ((40, -90), (150, -60)):
            sheet.disc(x + dx, y + dy, 34, "#2f2a28")
        for dx in (20, 60, 190, 226):
            sheet.box(x + dx, y - 10, 22, 80, "#e3ddd0")
        sheet.box(x - 60, y - 130, 90, 70, "#f0ece2", 24)


def talking(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 540, WIDE, 180, "#8a6a4c")
    person(sheet, 430, 700, 330, "#2f6f6a")
    person(sheet, 850, 700, 330, "#a3553a", "#a87a5c")
    for x, y, side in ((560, 180, -1), (720, 240, 1)):
        sheet.box(x - 90, y - 60, 180, 110, "#fbf7ec", 34)
        sheet.shape([(x + side * 30, y + 44), (x + side * 90, y + 100), (x + side * 60, y + 40)], "#fbf7ec")


def crowd(sheet: Sheet, _phase: float) -> None:
    for row in range(4):
        for number in range(14 - row):
            coat = ("#8c3b2e", "#2f5a6f", "#6f5a8a", "#4a6a4a", "#b08a3c")[(number * 3 + row) % 5]
            person(
                sheet,
                40 + number * (100 + row * 8),
                420 + row * 110,
                170 + row * 30,
                coat,
                ("#d9a988", "#8f6248", "#c08a68")[number % 3],
            )


def classroom(sheet: Sheet, _phase: float) -> None:
    sheet.box(220, 90, 840, 380, "#7a5a3c", 10)
    sheet.box(240, 110, 800, 340, "#2f4a3c")
    sheet.line([(320, 200), (560, 200)], "#f2efe6", 8)
    sheet.line([(320, 260), (700, 260)], "#f2efe6", 8)
    sheet.line([(760, 380), (840, 220), (920, 380), (760, 380)], "#f2efe6", 6)
    for x in (120, 480, 840):
        sheet.box(x, 560, 300, 30, "#a8845c")
        sheet.box(x + 20, 590, 20, 130, "#7a5c39")
        sheet.box(x + 260, 590, 20, 130, "#7a5c39")


def globe(sheet: Sheet, _phase: float) -> None:
    sheet.disc(640, 340, 240, "#4f8fb0")
    for points in (
        [(520, 180), (640, 160), (660, 260), (600, 360), (500, 300)],
        [(700, 300), (820, 330), (800, 450), (710, 480)],
        [(520, 420), (600, 440), (580, 540), (520, 500)],
    ):
        sheet.shape(points, "#6f9a5a")
    sheet.draw.arc((2 * 370, 2 * 70, 2 * 910, 2 * 610), 60, 300, fill="#7a5a3c", width=28)
    sheet.box(600, 590, 80, 60, "#7a5a3c")
    sheet.box(500, 640, 280, 26, "#7a5a3c", 10)


def microscope(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 600, WIDE, 120, "#b9c2c4")
    sheet.box(470, 570, 360, 40, "#33383d", 14)
    sheet.line([(780, 580), (800, 330), (640, 220)], "#4a5157", 40)
    sheet.line([(560, 130), (680, 330)], "#33383d", 64)
    sheet.line([(672, 320), (704, 420)], "#8f969c", 40)
    sheet.box(560, 450, 220, 24, "#4a5157")


def telephone(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 540, WIDE, 180, "#8f775c")
    sheet.shape([(440, 560), (500, 380), (780, 380), (840, 560)], "#2b2e33")
    sheet.disc(640, 470, 74, "#e9e1cf")
    for step in range(10):
        angle = step * math.pi / 5
        sheet.disc(640 + 52 * math.cos(angle), 470 + 52 * math.sin(angle), 12, "#2b2e33")
    sheet.box(430, 320, 420, 56, "#1e2125", 28)


def computer(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 560, WIDE, 160, "#b59a78")
    sheet.box(360, 130, 560, 350, "#2b2e33", 18)
    sheet.box(380, 150, 520, 310, "#dcecf2")
    for row in range(7):
        sheet.box(420, 190 + row * 36, 120 + row * 83 % 300, 14, "#6f8fa3", 4)
    sheet.shape([(320, 500), (960, 500), (1030, 570), (250, 570)], "#8f969c")


def factory(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 600, WIDE, 120, "#6f6a60")
    sheet.box(200, 380, 760, 230, "#8a5a48")
    for number in range(4):
        x = 200 + number * 190
        sheet.shape([(x, 380), (x, 290), (x + 190, 380)], "#6f4638")
    for x in (1000, 1080):
        sheet.box(x, 200, 46, 410, "#a36a55")
        for puff in range(4):
            sheet.disc(x + 20 - puff * 34, 170 - puff * 36, 34 + puff * 12, "#e9e9e588")


def turbines(sheet: Sheet, phase: float) -> None:
    ground(sheet, 540, "#7fa05e", 22)
    for x, size in ((300, 300), (660, 360), (1020, 280)):
        sheet.line([(x, 600), (x, 600 - size)], "#f4f4f0", 14)
        for blade in range(3):
            angle = blade * 2 * math.pi / 3 + phase
            sheet.line(
                [(x, 600 - size), (x + size * 0.5 * math.sin(angle), 600 - size - size * 0.5 * math.cos(angle))], "#f4f4f0", 11
            )


def umbrella(sheet: Sheet, phase: float) -> None:
    person(sheet, 640, 680, 280, "#b08a3c")
    sheet.draw.pieslice((2 * 440, 2 * 170, 2 * 840, 2 * 490), 180, 360, fill="#a3322c")
    sheet.line([(640, 330), (640, 520)], "#2b2e33", 8)
    for number in range(200):
        x, y = number * 71.3 % WIDE, (number * 53.9 + phase * 400) % HIGH
        sheet.line([(x, y), (x - 6, y + 28)], "#dfe8eeaa", 2)


def kite(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 600, "#8aa35c", 18)
    person(sheet, 300, 650, 180, "#2f6f8f")
    sheet.shape([(860, 120), (980, 240), (880, 400), (780, 240)], "#d9534a")
    sheet.shape([(860, 120), (880, 400), (780, 240)], "#efc04f")
    sheet.line([(330, 520), (880, 400)], "#5a5348", 3)
    sheet.line([(880, 400), (920, 470), (870, 530), (910, 600)], "#5a5348", 4)


def football(sheet: Sheet, _phase: float) -> None:
    for number in range(8):
        sheet.box(number * 160, 380, 160, 340, ("#5f9a4a", "#558c42")[number % 2])
    sheet.line([(0, 390), (WIDE, 390)], "#f4f4f0", 8)
    sheet.box(380, 170, 520, 14, "#f4f4f0")
    for x in (380, 886):
        sheet.box(x, 170, 14, 220, "#f4f4f0")
    sheet.disc(640, 560, 74, "#f6f6f2")
    for step in range(5):
        angle = step * 2 * math.pi / 5
        sheet.disc(640 + 46 * math.cos(angle), 560 + 46 * math.sin(angle), 16, "#22252a")
    sheet.disc(640, 560, 20, "#22252a")


def chess(sheet: Sheet, _phase: float) -> None:
    for row in range(6):
        for column in range(12):
            sheet.box(column * 108, 200 + row * 90, 108, 90, ("#e6d3ab", "#7a5236")[(row + column) % 2])
    for x, y, colour in ((300, 500, "#f4eede"), (640, 430, "#2b2622"), (900, 560, "#f4eede")):
        sheet.shape([(x - 60, y), (x - 26, y - 150), (x + 26, y - 150), (x + 60, y)], colour)
        sheet.disc(x, y - 170, 44, colour)


def ruins(sheet: Sheet, _phase: float) -> None:
    ground(sheet, 560, "#b5a06f", 12)
    for number, high in enumerate((330, 360, 200, 350, 260)):
        x = 180 + number * 220
        sheet.box(x, 580 - high, 70, high, "#ddd0b3")
        for line in range(3):
            sheet.line([(x + 16 + line * 18, 590 - high), (x + 16 + line * 18, 580)], "#b9a985", 3)
        if high > 300:
            sheet.box(x - 14, 560 - high, 98, 26, "#cfc09c")
    sheet.box(160, 200, 330, 40, "#cfc09c")


def hospital(sheet: Sheet, _phase: float) -> None:
    sheet.box(0, 600, WIDE, 120, "#8f9a8a")
    sheet.box(260, 190, 760, 420, "#f0efe9")
    for row in range(3):
        for column in range(7):
            sheet.box(300 + column * 102, 300 + row * 90, 60, 56, "#9fc0cf")
    for x in (604, 660):
        sheet.box(x, 110, 16, 72, "#2f6f8f")
    sheet.box(604, 138, 72, 16, "#2f6f8f")


def waterfall(sheet: Sheet, phase: float) -> None:
    sheet.shape([(0, 0), (480, 120), (470, 720), (0, 720)], "#5f6a58")
    sheet.shape([(1280, 0), (800, 130), (820, 720), (1280, 720)], "#55604f")
    sheet.box(470, 120, 340, 480, "#cfe6ee")
    for number in range(26):
        x = 480 + number * 13
        y = (number * 71 + phase * 260) % 420
        sheet.line([(x, 130 + y), (x + 2, 220 + y)], "#ffffffcc", 5)
    for number in range(12):
        sheet.disc(450 + number * 34, 610, 46, "#ffffffaa")


STILLS: dict[str, tuple[Scene, str, str, str]] = {
    "mountains": (mountains, "#9fc3dd", "#dfe9ee", "Mountains with snow on their peaks"),
    "forest": (forest, "#c9dccb", "#8fae90", "A dense forest of fir trees"),
    "autumn-trees": (autumn, "#cfd9dc", "#efe3c8", "Trees in autumn with red and golden leaves"),
    "cherry-blossom": (blossom, "#cfe6f2", "#eef3ea", "Fruit trees in blossom in spring"),
    "open-road": (road, "#9fc8e2", "#e6eef0", "An empty country road leads to the horizon"),
    "desert": (desert, "#e9c98f", "#f6e6c0", "Sand dunes in the desert under a hot sun"),
    "wheat-field": (fields, "#9fc8e2", "#e9efe2", "A field of ripe wheat and a farmhouse"),
    "river": (river, "#a9cfe0", "#e3ecdf", "A river winds through meadows with trees"),
    "snowfall": (snow, "#c3d0d9", "#e6edf1", "Snow falls in winter on fir trees"),
    "night-sky": (stars, "#0f1830", "#2a3a5c", "Stars and a crescent moon in the night sky"),
    "sunrise": (sunrise, "#f0a86a", "#f7d9a8", "The sun rises over the hills in the morning"),
    "city-at-night": (city, "#141b2c", "#3a3f5c", "Lit windows of tall buildings in a big city at night"),
    "old-street": (street, "#bcd3de", "#e3e6de", "Coloured houses along a street in an old town"),
    "bridge": (bridge, "#b9d3e0", "#e6e9e2", "A long suspension bridge over a wide river"),
    "train": (train, "#b3d0e0", "#e9ece0", "A passenger train on its railway track"),
    "car": (car, "#bcd3de", "#d9d9d2", "A blue car parked on the road"),
    "bicycle": (bicycle, "#dfe3d8", "#cfd3c6", "A red bicycle leaning against a wall"),
    "plane": (plane, "#6fa8cf", "#cfe6f2", "An aeroplane flies above the clouds"),
    "balloons": (balloon, "#8fc3e0", "#f0e3c8", "Hot-air balloons float over the land"),
    "freighter": (freighter, "#b3cbd6", "#dfe6e6", "A freighter loaded with containers carries goods across the ocean"),
    "village": (village, "#a9cfe6", "#e9efe0", "Small houses of a village in the green"),
    "tent": (tent, "#3a4a5c", "#7a6a5c", "A tent in the woods at a camp site"),
    "campfire": (fire, "#14121a", "#2c2220", "A fire burns, flames in the dark"),
    "candle": (candle, "#1c1612", "#332820", "The flame of a single candle in a dark room"),
    "bookshelf": (books, "#5a4030", "#4a3428", "A shelf full of old books in a library"),
    "letter": (letter, "#a8845c", "#a8845c", "A sealed letter and a pen on the table"),
    "clock": (clock_face, "#8f9a86", "#6f7a68", "The face of a clock shows the time"),
    "camera": (camera, "#c9b89a", "#a8947a", "A photographer's camera with its lens"),
    "microphone": (microphone, "#3d3430", "#6b4a3a", "A microphone in a studio, ready to record"),
    "headphones": (headphones, "#c9b08a", "#c9b08a", "A pair of headphones for listening"),
    "guitar": (guitar, "#d9c9a8", "#b59f7a", "An acoustic guitar, an instrument to play songs"),
    "piano-keys": (piano, "#1e1b1a", "#1e1b1a", "The black and white keys of a piano"),
    "violin": (violin, "#e3d3b5", "#c9b28a", "A violin and its bow, music of an orchestra"),
    "bread": (bread, "#b58f63", "#b58f63", "A fresh loaf of bread from the bakery"),
    "apples": (apples, "#dfe6d8", "#c9d3be", "Three ripe apples, fruit on a table"),
    "coffee": (coffee, "#a3835f", "#a3835f", "A cup of coffee seen from above"),
    "laid-table": (laid_table, "#c9b8a0", "#b5a288", "A table laid for dinner with plates and wine"),
    "flowers": (flower, "#cfe3d8", "#eef2e0", "Flowers in bloom in the summer"),
    "vegetable-garden": (garden, "#bcd9e3", "#e6ecdc", "Young plants grow in rows in the soil of a garden"),
    "cat": (cat, "#d9c9b5", "#c9b59c", "A grey cat sits on the floor"),
    "dog": (dog, "#bcd9e6", "#e6ecdc", "A brown dog stands in the grass"),
    "fish": (fish, "#1f6f8f", "#123f5c", "Colourful fish swim under water"),
    "songbird": (songbird, "#cfe0d3", "#e9eee0", "A small bird sings on a branch"),
    "honeycomb": (bees, "#c98a2a", "#a86f1f", "Bees at work on a honeycomb"),
    "cows": (cows, "#b3d3e3", "#e6eee0", "Cows graze on a farm's pasture"),
    "conversation": (talking, "#d9cbb5", "#bfae94", "Two people talk to each other, a conversation"),
    "crowd": (crowd, "#c9d0d3", "#a8b0b3", "A crowd of many people in the square"),
    "classroom": (classroom, "#dfd6c0", "#c9bda3", "A blackboard and desks in a school's classroom"),
    "globe": (globe, "#d9d3c3", "#b5ad9a", "A globe of the Earth with its continents"),
    "microscope": (microscope, "#dfe6e6", "#c3cccc", "A microscope in a laboratory of science"),
    "telephone": (telephone, "#c9bda8", "#a89a82", "An old telephone, a call is awaited"),
    "computer": (computer, "#d9cfbf", "#bfb39f", "A computer's screen with lines of text"),
    "factory": (factory, "#b5bdbf", "#d3d0c6", "Smoke rises from the chimneys of a factory"),
    "football": (football, "#9fc8e2", "#cfe3e9", "A football in front of the goal"),
    "chess": (chess, "#5a4636", "#4a382b", "Pieces on a chess board, a game of strategy"),
    "ruins": (ruins, "#c3d9e3", "#efe6cf", "Columns of an ancient temple in ruins, history"),
    "hospital": (hospital, "#bcd3de", "#dfe6e3", "A hospital, where doctors care for the sick"),
    "kite": (kite, "#9fcbe6", "#e6eee6", "A child flies a kite in the wind"),
}
"""What draws them, the colours of their sky or ground, and what is seen."""

FILMS: dict[str, tuple[Scene, str, str, str]] = {
    "wind-turbines": (turbines, "#a9d0e6", "#e6efe6", "Wind turbines turn on the hills and make electricity"),
    "in-the-rain": (umbrella, "#7d8990", "#a3adb0", "Somebody stands with an umbrella in heavy rain"),
    "waterfall": (waterfall, "#a9c9d3", "#cfe0dc", "A waterfall rushes down between rocks"),
}
