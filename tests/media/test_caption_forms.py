"""Forms of captions with timecode or few letters: read back by other libraries, to the frame; what is lost is told."""

from __future__ import annotations

import io
import re
from fractions import Fraction
from zipfile import ZipFile

import pytest
from defusedxml import ElementTree
from pycaption import SCCReader
from ttconv import model
from ttconv.stl import reader as stl_reader

from jaskel.core.captions.cues import Cue, cues
from jaskel.core.captions.look import Look
from jaskel.core.captions.rules import Rules
from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word
from jaskel.media.captions import scc
from jaskel.media.captions.about import About
from jaskel.media.captions.files import CAPTION_FORMS, lost_in
from jaskel.media.captions.rates import FRAME_RATES

TEXT = (
    "We put the plank in the steamer, and go home for the night. In the morning it bends like a blade of grass. Nobody "
    "believes it until they have seen it, and then they want to try. Well, you can; but mind your fingers, they are the "
    "only ones you have. It took me thirty years to learn how long a plank of oak wants to stay in there."
)


def spoken(text: str = TEXT, pace: float = 0.32) -> tuple[Cue, ...]:
    words = []
    for number, part in enumerate(text.split()):
        start = round((2 + number * pace) * RATE)
        words.append(ProgrammeWord(Word(part, start, start + round(0.28 * RATE)), start, start + round(0.28 * RATE)))
    return cues(words, words[-1].end + 2 * RATE, Rules(characters=32))


def read_back(document) -> list[tuple[Fraction, Fraction, tuple[str, ...]]]:
    """Captions of a document of ttconv: from, to, lines."""
    found = []
    for element in document.get_body().dfs_iterator():
        if not isinstance(element, model.P):
            continue
        lines = [""]
        for each in element.dfs_iterator():
            if isinstance(each, model.Br):
                lines.append("")
            elif isinstance(each, model.Text):
                lines[-1] += each.get_text()
        start = element.get_begin() or Fraction(0)
        end, parent = element.get_end(), element.parent()
        offset = (parent.get_begin() or Fraction(0)) if parent else Fraction(0)
        found.append((start + offset, (end or parent.get_end() - offset) + offset, tuple(line.strip() for line in lines)))
    return found


class TestStl:
    @pytest.mark.parametrize("rate", ["25", "29.97"])
    def test_every_caption_is_read_back_to_the_frame(self, rate, tmp_path):
        made, known = spoken(), FRAME_RATES[rate]
        CAPTION_FORMS["stl"].write(tmp_path / "a.stl", made, About(rate=known, title="The dry hull"))
        read = read_back(stl_reader.to_model(io.BytesIO((tmp_path / "a.stl").read_bytes())))
        assert [lines for *_, lines in read] == [cue.lines for cue in made]
        for (start, end, _), cue in zip(read, made, strict=True):
            assert abs(start * known.rate - known.frame_at(cue.start)) < 0.01
            assert abs(end * known.rate - known.frame_at(cue.end)) < 0.01

    @pytest.mark.parametrize(
        "text", ["Žluťoučký kůň, Straße, Ærø, “so”, l’été", "Щука и рак", "Ωμέγα και άλφα", "שלום חברים", "مرحبا بكم"]
    )
    def test_letters_of_each_table_come_back(self, text, tmp_path):
        made = spoken(text)
        CAPTION_FORMS["stl"].write(tmp_path / "a.stl", made, About())
        read = read_back(stl_reader.to_model(io.BytesIO((tmp_path / "a.stl").read_bytes())))
        assert " ".join(line for *_, lines in read for line in lines) == text
        assert lost_in("stl", made, About()) == []

    def test_letters_it_has_not_are_told_before(self, tmp_path):
        made = spoken("Say 日本 twice.")
        assert lost_in("stl", made, About()) == ["It has no “日” “本”: they become “?”."]
        CAPTION_FORMS["stl"].write(tmp_path / "a.stl", made, About())
        assert b"??" in (tmp_path / "a.stl").read_bytes()[1024:]

    def test_a_long_caption_goes_on_in_the_next_block(self, tmp_path):
        cue = Cue(0, 4 * RATE, ("a" * 90, "b" * 90))
        CAPTION_FORMS["stl"].write(tmp_path / "a.stl", [cue], About())
        ((_, _, lines),) = read_back(stl_reader.to_model(io.BytesIO((tmp_path / "a.stl").read_bytes())))
        assert lines == cue.lines


class TestScc:
    def test_every_caption_is_read_back(self, tmp_path):
        made = spoken()
        CAPTION_FORMS["scc"].write(tmp_path / "a.scc", made, About(rate=FRAME_RATES["29.97 drop"]))
        read = SCCReader().read((tmp_path / "a.scc").read_text()).get_captions("en-US")
        assert [" ".join(each.get_text().split()) for each in read] == [cue.text for cue in made]
        for each, cue in zip(read, made, strict=True):
            assert abs(each.start / 1e6 - cue.start / RATE) < 0.12  # the last code, sent twice

    def test_what_is_said_too_quickly_to_be_sent_comes_later_and_is_told(self):
        made = spoken(TEXT, pace=0.08)
        told = lost_in("scc", made, About(rate=FRAME_RATES["29.97 drop"]))
        assert any("seen later than said" in each for each in told)
        rate = FRAME_RATES["29.97 drop"]
        frames = [(rate.frame_at(cue.start), rate.frame_at(cue.end), cue.lines) for cue in made]
        text = scc.written(scc.sent(frames), rate, "CC1")
        read = SCCReader().read(text).get_captions("en-US")
        assert len(read) == len(made)  # later, but none is lost

    def test_wide_lines_are_broken_anew_and_letters_replaced(self):
        cue = Cue(2 * RATE, 6 * RATE, ("A line of rather more than thirty-two columns", "Łódź – naïve…"))
        told = lost_in("scc", [cue], About(rate=FRAME_RATES["29.97 drop"]))
        assert any("32 columns" in each for each in told) and any("“Ł”" in each for each in told)
        (sent,) = scc.sent([(60, 180, cue.lines)])
        assert all(len(line) <= 32 for line in sent.lines)
        assert " ".join(sent.lines) == "A line of rather more than thirty-two columns Lódz - naive..."

    @pytest.mark.parametrize(("channel", "load"), [("CC1", "9420"), ("CC2", "1c20"), ("CC3", "1520"), ("CC4", "9d20")])
    def test_each_channel_has_its_own_codes(self, channel, load, tmp_path):
        CAPTION_FORMS["scc"].write(tmp_path / "a.scc", spoken(), About(rate=FRAME_RATES["29.97"], channel=channel))
        codes = re.findall(r"\b[0-9a-f]{4}\b", (tmp_path / "a.scc").read_text())
        assert load in codes and all(bin(int(code[at : at + 2], 16)).count("1") % 2 for code in codes for at in (0, 2))


class TestTimecode:
    @pytest.mark.parametrize(
        ("rate", "seconds", "told"),
        [
            ("25", 60, "00:01:00:00"), ("24", 3599.5, "00:59:59:12"), ("23.976", 60.06, "00:01:00:00"),
            ("29.97", 60.06, "00:01:00:00"), ("29.97 drop", 60.06, "00:01:00;02"), ("29.97 drop", 600, "00:10:00;00"),
            ("29.97 drop", 3600, "01:00:00;00"), ("30", 1.5, "00:00:01:15"), ("50", 1.5, "00:00:01:25"),
            ("59.94", 60.06, "00:01:00:00"),
        ],
    )  # fmt: skip
    def test_frames_are_counted_and_dropped(self, rate, seconds, told):
        known = FRAME_RATES[rate]
        assert known.timecode(known.frame_at(round(seconds * RATE))) == told

    @pytest.mark.parametrize("rate", [*FRAME_RATES])
    def test_smpte_tt_says_its_rate_and_the_frame_of_each_caption(self, rate, tmp_path):
        made, known = spoken(), FRAME_RATES[rate]
        CAPTION_FORMS["smpte"].write(tmp_path / "a.xml", made, About("en-GB", rate=known))
        root = ElementTree.parse(tmp_path / "a.xml").getroot()
        parameter = "{http://www.w3.org/ns/ttml#parameter}"
        over, under = map(int, root.get(parameter + "frameRateMultiplier").split())
        assert Fraction(int(root.get(parameter + "frameRate")) * over, under) == known.rate
        assert root.get(parameter + "dropMode") == ("dropNTSC" if known.drops else "nonDrop")
        shown = [*root.iter("{http://www.w3.org/ns/ttml}p")]
        assert len(shown) == len(made)
        for each, cue in zip(shown, made, strict=True):
            assert each.get("begin") == known.timecode(known.frame_at(cue.start)).replace(";", ":")


@pytest.mark.parametrize("form", ["ttml", "smpte"])
def test_ttml_says_what_it_belongs_to(form, tmp_path):
    CAPTION_FORMS[form].write(tmp_path / "a.xml", spoken(), About(title="The dry hull", show="Ropewalk", revision=7))
    root = ElementTree.parse(tmp_path / "a.xml").getroot()
    (title,) = root.iter("{http://www.w3.org/ns/ttml#metadata}title")
    assert title.text == "Ropewalk, The dry hull, step 7"


class TestWebVtt:
    def test_voices_places_and_times_of_words(self, tmp_path):
        look = Look(across="left", down="top")
        words = [
            ProgrammeWord(Word(text, RATE * at, RATE * at + RATE // 2, voice="v"), RATE * at, RATE * at + RATE // 2)
            for at, text in enumerate(["Salt", "&", "rope"], start=1)
        ]
        made = cues(words, 6 * RATE, Rules(longest=8 * RATE), {"v": "Orla <Venn>"}, look)
        about = About(voices={"v": "Orla <Venn>"}, title="The dry hull", revision=7, named=True, placed=True, word_times=True)
        CAPTION_FORMS["vtt"].write(tmp_path / "a.vtt", made, about)
        text = (tmp_path / "a.vtt").read_text()
        assert "NOTE\nThe dry hull, step 7" in text
        assert "<v Orla &lt;Venn&gt;>Salt <00:00:02.000>&amp; <00:00:03.000>rope" in text
        assert "line:10%,start position:5% align:start" in text

    def test_places_that_are_not_written_are_told(self):
        (cue,) = cues([ProgrammeWord(Word("Up", 0, RATE), 0, RATE)], 3 * RATE, usual=Look(down="top"))
        assert lost_in("vtt", [cue], About()) and not lost_in("vtt", [cue], About(placed=True))
        assert "places" in lost_in("srt", [cue], About())[0]
        assert not lost_in("ttml", [cue], About())


def test_all_forms_together_in_a_zip(tmp_path):
    from jaskel.media.forms import FORMS

    class Making:
        cues, about = spoken(), About(rate=FRAME_RATES["25"])
        name_of = staticmethod("Ropewalk.en_GB.{}".format)

    FORMS["captions"].write(tmp_path / "a.zip", Making())
    with ZipFile(tmp_path / "a.zip") as found:
        names = found.namelist()
        assert len(names) == len(set(names)) == len(CAPTION_FORMS) and "Ropewalk.en_GB.srt" in names
        assert all(found.read(name) for name in names)
