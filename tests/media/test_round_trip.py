"""Texts out and in again: every form holds the words as they are written."""

from __future__ import annotations

import io
import json

import pysubs2
import pytest
from conftest import RATE
from ttconv import model
from ttconv.srt import reader as srt
from ttconv.vtt import reader as vtt

from jaskel.cli import main
from jaskel.core.captions.cues import cues
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.transcript import Word
from jaskel.media.captions.about import About
from jaskel.media.captions.files import CAPTION_FORMS
from jaskel.media.text_files import read_text
from jaskel.media.texts import write_markdown, write_text

SAID = [
    "So", "the", "tele-marketers", "called", "T.O.", "about", "the", "open-source", "tool", "at", "www.harbour.example.", "It",
    "costs", "3.5", "per-cent,", "they", "said…", "The", "“well-known”", "host's", "name?", "A*", "is", "B_C,", "and", "#1",
    "is", "1.", "or", "-", "no.",
]  # fmt: skip


@pytest.fixture
def words() -> list[ProgrammeWord]:
    spoken = [Word(text, i * RATE // 2, i * RATE // 2 + RATE // 3, 0.9, "a") for i, text in enumerate(SAID)]
    return [ProgrammeWord(word, word.start, word.end) for word in spoken if any(c.isalnum() for c in word.text)]


@pytest.mark.parametrize("form", ["srt", "vtt", "ttml", "txt", "md"])
def test_a_round_trip_changes_no_word(form, words, tmp_path):
    path = tmp_path / f"talk.{form}"
    match form:
        case "txt":
            write_text(path, words, {"a": "Orla Venn"})
        case "md":
            write_markdown(path, words, "The dry hull", "Ropewalk", {"a": "Orla Venn"})
        case _:
            CAPTION_FORMS[form].write(path, cues(words, len(SAID) * RATE), About())
    read = [word.text for word in read_text(path.read_bytes(), path.name).words]
    if form == "md":
        assert read[0] == "Ropewalk"  # the show stands above the words
        read = read[1:]
    expected = [item.word.text for item in words]
    read = [word for word in read if word not in ("Orla", "Venn:")]
    assert read == expected


@pytest.mark.parametrize("form", ["srt", "vtt", "ttml"])
def test_cues_are_read_back_by_another_library_as_they_were_written(form, words, tmp_path):
    """What pysubs2 wrote is read by ttconv, and the other way round: to the millisecond, with every line."""
    path = tmp_path / f"talk.{form}"
    made = cues(words, len(SAID) * RATE)
    CAPTION_FORMS[form].write(path, made, About("en-GB"))
    if form == "ttml":
        read = [(each.start, each.end, each.plaintext.split("\n")) for each in pysubs2.load(str(path), format_="ttml")]
    else:
        reader = {"srt": srt, "vtt": vtt}[form]
        document = reader.to_model(io.StringIO(path.read_text(encoding="utf-8")))
        read = [
            (round(1000 * shown.get_begin()), round(1000 * shown.get_end()), _lines(shown))
            for part in document.get_body()
            for shown in part
        ]
    assert len(read) == len(made)
    for (start, end, lines), cue in zip(read, made, strict=True):
        assert abs(start - cue.start * 1000 / RATE) <= 1 and abs(end - cue.end * 1000 / RATE) <= 1
        assert lines == [*cue.lines]


def _lines(shown) -> list[str]:
    text = "".join(
        "\n" if isinstance(each, model.Br) else each.get_text()
        for each in shown.dfs_iterator()
        if isinstance(each, model.Br | model.Text)
    )
    return [line for line in text.split("\n") if line]


def test_json_has_every_word_with_its_times(words, tmp_path):
    CAPTION_FORMS["json"].write(
        tmp_path / "a.json", cues(words, len(SAID) * RATE), About("en-GB", {"a": "Orla Venn"}, "The dry hull")
    )
    body = json.loads((tmp_path / "a.json").read_text())
    assert body["language"] == "en-GB" and body["cues"][0]["voice"] == "Orla Venn"
    assert [word["text"] for cue in body["cues"] for word in cue["words"]] == [item.word.text for item in words]


class TestCommand:
    @pytest.fixture
    def transcript(self, words, tmp_path):
        body = {
            "duration": 30.0,
            "language": "en",
            "words": [
                {"text": w.word.text, "start": w.start / RATE, "end": w.end / RATE, "confidence": 0.9, "speaker": "Voice 1"}
                for w in words
            ],
        }
        (tmp_path / "t.json").write_text(json.dumps(body))
        return tmp_path / "t.json"

    @pytest.mark.parametrize("form", ["srt", "vtt", "ttml", "txt", "json"])
    def test_captions_of_a_transcript_need_no_recognition(self, transcript, tmp_path, form):
        (tmp_path / "talk.wav").touch()
        out = tmp_path / f"a.{form}"
        wanted = ["captions", str(tmp_path / "talk.wav"), "--out", str(out), "--transcript", str(transcript), "--chars", "20"]
        assert main([*wanted, "--lines", "1", "--voices"]) == 0
        assert "VOICE 1: So" in out.read_text()
        if form == "json":
            lines = [line for cue in json.loads(out.read_text())["cues"] for line in cue["lines"]]
            assert len(lines) > 8 and all(len(line) <= 20 for line in lines)

    @pytest.mark.parametrize(("form", "begins"), [("stl", b"850STL30.01"), ("scc", b"Scenarist_SCC V1.0"), ("xml", b"<?xml")])
    def test_forms_with_timecode_are_written_at_a_frame_rate(self, transcript, tmp_path, form, begins):
        (tmp_path / "talk.wav").touch()
        out = tmp_path / f"a.{form}"
        wanted = ["captions", str(tmp_path / "talk.wav"), "--out", str(out), "--transcript", str(transcript)]
        assert main([*wanted, "--fps", "29.97"]) == 0
        assert out.read_bytes().startswith(begins) and len(out.read_bytes()) > 400

    @pytest.mark.parametrize(
        ("more", "told"),
        [
            (["--chars", "2"], "10 to 100 characters"),
            (["--lines", "7"], "1 to 3 lines"),
            (["--rate", "0"], "5 to 60"),
        ],
    )
    def test_rules_that_cannot_be_kept_are_told_on_one_line(self, transcript, tmp_path, capsys, more, told):
        (tmp_path / "talk.wav").touch()
        wanted = ["captions", str(tmp_path / "talk.wav"), "--out", str(tmp_path / "a.srt"), "--transcript", str(transcript)]
        assert main([*wanted, *more]) == 2
        said = capsys.readouterr().err
        assert told in said and said.count("\n") == 1 and not (tmp_path / "a.srt").exists()

    def test_what_is_no_transcript_and_no_form_is_told(self, transcript, tmp_path, capsys):
        (tmp_path / "talk.wav").touch()
        transcript.write_text("[1, 2]")
        wanted = ["captions", str(tmp_path / "talk.wav"), "--transcript", str(transcript), "--out"]
        assert main([*wanted, str(tmp_path / "a.srt")]) == 2 and "is no transcript" in capsys.readouterr().err
        assert main([*wanted, str(tmp_path / "a.docx")]) == 2 and ".srt" in capsys.readouterr().err
