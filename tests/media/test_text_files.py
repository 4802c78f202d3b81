"""Texts from elsewhere: what they are is seen from themselves."""

from __future__ import annotations

import pytest

from jaskel.core.problem import Problem
from jaskel.core.timebase import RATE
from jaskel.media.text_files import read_text

SRT = """1
00:00:01,000 --> 00:00:03,500
ORLA: Welcome to Ropewalk,

2
00:00:03,500 --> 00:00:05,000
stories from <i>Tarn Hythe</i>.
"""


def words(text: str | bytes, name: str = "script.txt") -> list[tuple[str | None, str]]:
    content = text.encode() if isinstance(text, str) else text
    return [(word.voice, word.text) for word in read_text(content, name).words]


class TestForms:
    def test_plain_text_without_voices(self):
        brought = read_text(b"So we flood her.\n\nSlowly, over two days.", "a.txt")
        assert brought.form == "plain text"
        assert [word.text for word in brought.words] == ["So", "we", "flood", "her.", "Slowly,", "over", "two", "days."]
        assert brought.voices == () and not brought.timed

    def test_voices_before_colons(self):
        text = "ORLA VENN: Is it on?\nTEO: Mine is red.\nand so is hers.\nORLA VENN: Stay there."
        assert read_text(text.encode(), "a.txt").voices == ("Orla Venn", "Teo")
        assert words(text)[:3] == [("Orla Venn", "Is"), ("Orla Venn", "it"), ("Orla Venn", "on?")]
        assert ("Teo", "hers.") in words(text)

    def test_a_colon_in_a_sentence_makes_no_voice(self):
        assert words("He said one thing: wait.\nThen we waited.")[0] == (None, "He")

    def test_markdown_headings_and_stars_are_not_spoken(self):
        text = "# The dry hull\n\n**Orla:** So *this* is a [boat](x.html).\n\n**Teo:** It is.\n"
        assert read_text(text.encode(), "a.md").form == "Markdown"
        assert words(text) == [("Orla", w) for w in ["So", "this", "is", "a", "boat."]] + [("Teo", "It"), ("Teo", "is.")]

    def test_time_stamps_and_stage_directions_are_not_spoken(self):
        text = "00:03 We wait.\n[0:05] Then [laughs] (MUSIC) at 3:15 we go."
        assert " ".join(t for _, t in words(text)) == "We wait. Then at 3:15 we go."

    def test_subrip_keeps_times_and_voices(self):
        brought = read_text(SRT.encode(), "a.srt")
        assert (brought.form, brought.timed, brought.voices) == ("SubRip captions", True, ("Orla",))
        assert brought.words[0].text == "Welcome" and brought.words[0].start == RATE
        assert brought.words[-1].text == "Hythe." and brought.words[-1].end == 5 * RATE

    def test_webvtt(self):
        text = "WEBVTT\n\n00:01.000 --> 00:02.000\nIs it on?\n\n00:02.000 --> 00:03.000\nYes.\n"
        brought = read_text(text.encode(), "a.vtt")
        assert brought.form == "WebVTT captions"
        assert [word.text for word in brought.words] == ["Is", "it", "on?", "Yes."]

    def test_ttml(self):
        text = (
            '<?xml version="1.0"?><tt xmlns="http://www.w3.org/ns/ttml"><body><div>'
            '<p begin="00:00:01.000" end="00:00:02.000">Is it on?</p></div></body></tt>'
        )
        brought = read_text(text.encode(), "a.ttml")
        assert brought.form == "TTML captions"
        assert [(word.text, word.start) for word in brought.words] == [("Is", RATE), ("it", RATE), ("on?", RATE)]

    def test_any_script_and_encoding(self):
        assert [t for _, t in words("السلام عليكم\nשלום")] == ["السلام", "عليكم", "שלום"]
        assert [t for _, t in words("Größe — naïve".encode("utf-16"))] == ["Größe", "naïve"]
        assert [t for _, t in words("café".encode("cp1252"))] == ["café"]
        for encoding, said in (
            ("cp1252", "Nach der Flut lagen überall Äste auf dem Weg, und die Häuser rochen nach Öl. "),
            ("cp1250", "Łódź stała na brzegu, a mąż żeglarki mówił, że wcześniej była świetna pogoda. "),
            ("cp1251", "Лодка стояла на берегу, и никто не знал, кому она принадлежит и давно ли там. "),
        ):
            assert [t for _, t in words((said * 4).encode(encoding))] == [t for _, t in words(said * 4)], encoding


class TestBadInput:
    @pytest.mark.parametrize("content", [b"", b"\n \n", b"# \n---\n"])
    def test_without_words(self, content):
        with pytest.raises(Problem, match="no words"):
            read_text(content, "a.txt")

    def test_a_picture_called_txt(self):
        with pytest.raises(Problem, match="no plain text"):
            read_text(b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR" + bytes(range(256)), "a.txt")

    def test_captions_out_of_order(self):
        text = SRT.replace("00:00:03,500 --> 00:00:05,000", "00:00:00,100 --> 00:00:00,900")
        with pytest.raises(Problem, match=r"Caption 2 of “a.srt” begins before"):
            read_text(text.encode(), "a.srt")

    def test_captions_shown_at_the_same_time(self):
        text = SRT.replace("00:00:03,500 --> 00:00:05,000", "00:00:01,500 --> 00:00:02,000")
        with pytest.raises(Problem, match="at the same time"):
            read_text(text.encode(), "a.srt")

    def test_damaged_ttml(self):
        with pytest.raises(Problem, match="damaged"):
            read_text(b'<tt xmlns="http://www.w3.org/ns/ttml"><body><p begin=', "a.ttml")
