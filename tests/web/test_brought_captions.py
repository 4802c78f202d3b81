"""A caption file that was made elsewhere: held against the edition's first, then taken over in one step."""

from __future__ import annotations

import pytest
from conftest import RATE
from test_caption_rules import SAID, spoken  # noqa: F401
from test_exports import episode, exported  # noqa: F401
from test_retyping import operate, turn


@pytest.fixture
def edition(spoken):  # noqa: F811
    return spoken["editions"][0]["id"]


def compare(jaskel, edition, content, name="a.srt", status=200):
    answer = jaskel.client.post(f"/api/editions/{edition}/caption-file?name={name}", data=content)
    assert answer.status_code == status, answer.text
    return answer.json


def srt(*cues: tuple[float, float, str]) -> bytes:
    def clock(seconds: float) -> str:
        return f"00:00:{int(seconds):02},{round(seconds % 1 * 1000):03}"

    return "\n\n".join(f"{n}\n{clock(a)} --> {clock(b)}\n{text}" for n, (a, b, text) in enumerate(cues, 1)).encode()


OTHER = srt(
    (0, 1.7, "We put the plank\nin the steamer,"),
    (1.75, 3.2, "then we go home"),
    (3.25, 5.2, "for the night because nobody\ncan wait any longer."),
)


@pytest.mark.parametrize("form", ["srt", "vtt", "ttml", "stl"])
def test_what_jaskel_wrote_itself_is_the_same(jaskel, edition, spoken, form):  # noqa: F811
    content = exported(jaskel, spoken, form)
    found = compare(jaskel, edition, content, f"a.{form}")
    assert found["told"] == ["It says the same, broken at the same words."] and found["alike"] == 1


def test_what_differs_is_said_first_and_taken_over_in_one_step(jaskel, edition):
    found = compare(jaskel, edition, OTHER)
    kinds = {each["kind"] for each in found["differences"]}
    assert {"wording", "break"} <= kinds and any("otherwise" in told for told in found["told"])
    assert all(0 <= each["laid"] <= 6 * RATE for each in found["differences"])
    texts = lambda: [each["lines"] for each in jaskel.get(f"/api/editions/{edition}/cues")["cues"]]  # noqa: E731
    before = texts()
    operate(jaskel, edition, kind="caption file", cues=found["cues"])
    assert texts() == [
        ["We put the plank", "in the steamer,"],
        ["then we go home"],
        ["for the night because nobody", "can wait any longer."],
    ]
    page = jaskel.get(f"/api/editions/{edition}/page")["passages"]
    assert " ".join(t["text"] for passage in page for t in passage["tokens"] if t["k"] == "w") == SAID
    assert operate(jaskel, edition, 422, kind="caption file", cues=found["cues"])["code"] == "nothing-changed"
    turn(jaskel, edition, "undo")
    assert texts() == before


def test_captions_beyond_the_end_and_words_in_no_caption_are_told(jaskel, edition):
    half = srt((0, 1.7, "We put the plank in the steamer,"), (1.75, 59, "and we go home"))
    told = " ".join(compare(jaskel, edition, half)["told"])
    assert "in no caption" in told and "end after the programme" in told


@pytest.mark.parametrize(
    ("content", "code"),
    [
        (srt((0, 2, "Quite another talk about bees"), (2, 4, "and the honey they make in June")), "other-episode"),
        (srt((0, 9, "We put the plank in the steamer,"), (1, 3, "and we go home")), "captions-overlap"),
        (srt((5, 6, "and we go home"), (0, 2, "We put the plank in the steamer,")), "captions-out-of-order"),
        (b"", "not-captions"),
        (b"Just a text without times.", "not-captions"),
        (b"\x00\x01\x02" * 400, "not-text"),
        (b"850STL25.01" + b"\xff" * 900, "not-captions"),
        (b"Scenarist_SCC V1.0\n\nnonsense", "empty"),
        (srt((0, 2, "x")) + b"\n" * 2_100_000, "too-long"),
        (b"1\n00:00:00,000 --> 00:00:02,000\n" + "Été à l’île, où l’on dîne".encode("cp1252"), "other-episode"),
    ],
)
def test_what_cannot_be_brought_is_said_plainly(jaskel, edition, content, code):
    before = jaskel.get(f"/api/editions/{edition}")["revision"]
    refused = compare(jaskel, edition, content, status=422)
    assert refused["code"] == code and len(refused["detail"]) > 20
    assert jaskel.get(f"/api/editions/{edition}")["revision"] == before
