"""``jaskel outline``: proposals of a transcript, by what its sentences mean."""

from __future__ import annotations

import json

import pytest

from jaskel.cli import main

TALK = """
The hull of an old boat dries out when it stands ashore. Caulking made of oakum and tar keeps the sea out of her.
A shipwright taps every plank and listens for the rotten ones. Wooden ships lived in the water and died on land.
We soak the hull for two days before she can float again. Nobody launches a dry hull without pumps on board.
Bread made of sourdough takes two days and some patience. The flour feeds the yeast, and the yeast makes the dough rise.
You knead the dough, fold it, and leave it in a warm place. A hot oven gives the loaf a thick crust.
My grandmother baked eleven loaves every Saturday. The smell of fresh bread filled the whole street.
The orchestra rehearses a symphony in the old theatre. Violins begin alone, and the trumpets answer them.
Our conductor never raises her voice at a musician. After the concert the audience stood and clapped for minutes.
Some of the players are retired teachers and postmen. Music keeps them younger than any doctor could.
"""


@pytest.fixture
def outline(tmp_path):
    """Runs the command on a text that is said at a steady pace; gives what it wrote, or with which code it ended."""

    def run(text, *options, language="en"):
        words = [
            {"text": word, "start": 0.5 * at, "end": 0.5 * at + 0.45, "confidence": 0.9, "speaker": "Voice 1"}
            for at, word in enumerate(text.split())
        ]
        told = {"duration": 0.5 * len(words) + 1, "language": language, "words": words, "sounds": []}
        transcript, media, out = tmp_path / "talk.json", tmp_path / "talk.wav", tmp_path / "out.json"
        transcript.write_text(json.dumps(told))
        media.write_bytes(b"not read")
        code = main(["outline", str(media), "--transcript", str(transcript), "--out", str(out), *options])
        return json.loads(out.read_text()) if code == 0 else code

    return run


def test_chapters_highlights_clips_titles_and_a_summary(outline):
    told = outline(TALK * 3, "--highlights", "20%", "--clips", "3")
    length = 0.5 * len(TALK.split()) * 3
    assert told["chapters"][0]["start"] == 0 and all(each["title"] for each in told["chapters"])
    wanted = 0.2 * (length + 1)
    assert sum(each["end"] - each["start"] for each in told["highlights"]) == pytest.approx(wanted, abs=max(0.03 * wanted, 4))
    assert all(each["text"].endswith(".") and each["why"] for each in told["highlights"])
    assert [15 <= each["end"] - each["start"] <= 60 for each in told["clips"]] == [True] * 3
    assert all(one["end"] <= other["start"] for one, other in zip(told["clips"], told["clips"][1:], strict=False))
    assert len(told["summary"]) == 3 and all(each["text"] in " ".join(TALK.split()) for each in told["summary"])
    assert {each["tone"] for each in told["titles"]} >= {"plain", "formal"}


def test_seconds_are_seconds(outline):
    told = outline(TALK * 2, "--highlights", "30", "--clips", "0")
    assert sum(each["end"] - each["start"] for each in told["highlights"]) == pytest.approx(30, abs=3)
    assert told["clips"] == []


def test_other_languages_are_told_apart_by_their_words(outline):
    boats = "Der Rumpf des Bootes trocknet an Land. Ein trockener Rumpf leckt zwei Tage. Das Boot braucht nasse Planken. "
    bread = "Das Brot braucht Mehl und Wasser. Der Teig geht in der warmen Schüssel auf. Gutes Mehl macht gutes Brot. "
    told = outline(boats * 20 + bread * 20, "--highlights", "10%", language="de")
    begins = [each["start"] for each in told["chapters"]]
    assert len(begins) == 2 and begins[1] == pytest.approx(0.5 * len((boats * 20).split()), abs=0.1)


@pytest.mark.parametrize(
    ("text", "options", "said"),
    [
        ("", (), "Nobody says anything"),
        ("It leaks.", (), "Only 1 sentence is said"),
        (TALK, ("--highlights", "soon"), "“soon” is no length"),
        (TALK, ("--highlights", "140%"), "“140%” is no length"),
        (TALK, ("--clips", "-1"), "-1 clips"),
    ],
)
def test_what_cannot_be_done_is_said_in_a_sentence(outline, capsys, text, options, said):
    assert outline(text, *options) == 2
    assert said in capsys.readouterr().err
