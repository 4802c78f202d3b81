"""Looks, wordings and breaks of captions through the API; what the show keeps; captions drawn, burned in and as a track."""

from __future__ import annotations

import io
import json

import av
import pytest
from conftest import RATE
from PIL import Image
from test_caption_rules import SAID, rules, spoken  # noqa: F401
from test_exports import episode, exported  # noqa: F401
from test_retyping import operate, turn

from jaskel.core.captions.look import LOOKS
from jaskel.media.typefaces import FOLDER

PENCIL = {"name": "Pencil", "font": "bitter", "characters": 24, "lines": 2, "move": "mark"}


@pytest.fixture
def edition(spoken):  # noqa: F811
    return spoken["editions"][0]["id"]


def cues(jaskel, edition):
    return jaskel.get(f"/api/editions/{edition}/cues")["cues"]


def texts(jaskel, edition):
    return [" ".join(cue["lines"]) for cue in cues(jaskel, edition)]


def looks(jaskel, edition):
    return jaskel.get(f"/api/editions/{edition}")["looks"]


class TestLooks:
    def test_all_captions_get_a_look_and_keep_its_lines(self, jaskel, edition):
        assert looks(jaskel, edition)["own"] is False
        after = operate(jaskel, edition, kind="caption look", look=PENCIL)
        assert after["looks"]["all"]["name"] == "Pencil" and after["looks"]["own"]
        assert all(len(line) <= 24 for cue in cues(jaskel, edition) for line in cue["lines"])
        turn(jaskel, edition, "undo")
        assert looks(jaskel, edition)["own"] is False
        assert operate(jaskel, edition, 422, kind="caption look", look=None)["code"] == "nothing-changed"

    def test_single_words_have_their_own_and_stand_alone(self, jaskel, edition):
        operate(jaskel, edition, kind="caption look", look=PENCIL, begin=2 * RATE, end=2 * RATE + RATE // 2)
        assert "we go" in texts(jaskel, edition) and looks(jaskel, edition)["single"] == 2
        operate(jaskel, edition, kind="caption look", look=None, begin=2 * RATE, end=2 * RATE + RATE // 2)
        assert looks(jaskel, edition)["single"] == 0

    @pytest.mark.parametrize(
        "wrong",
        [
            {"size": 0},
            {"size": 99},
            {"colour": "red"},
            {"box_colour": "#12"},
            {"characters": 4},
            {"move": "jump"},
            {"weight": 50},
        ],
    )
    def test_impossible_looks_are_refused_and_nothing_changes(self, jaskel, edition, wrong):
        before = jaskel.get(f"/api/editions/{edition}")["revision"]
        assert operate(jaskel, edition, 422, kind="caption look", look={**PENCIL, **wrong})["code"] == "not-understood"
        assert jaskel.get(f"/api/editions/{edition}")["revision"] == before


class TestWording:
    def test_captions_read_otherwise_and_the_transcript_stays(self, jaskel, edition):
        first = cues(jaskel, edition)[0]
        operate(jaskel, edition, kind="caption wording", begin=first["begin"], end=first["until"], text="The plank steams,")
        assert texts(jaskel, edition)[0].startswith("The plank steams,")
        changed = cues(jaskel, edition)[0]
        assert changed["said"] and SAID.startswith(changed["said"])
        page = jaskel.get(f"/api/editions/{edition}/page")["passages"]
        assert " ".join(t["text"] for passage in page for t in passage["tokens"] if t["k"] == "w") == SAID
        operate(jaskel, edition, kind="caption wording", begin=first["begin"], end=first["until"], text="")
        assert " ".join(texts(jaskel, edition)) == SAID

    def test_once_a_word_of_it_is_struck_captions_say_what_is_said(self, jaskel, edition):
        operate(jaskel, edition, kind="caption wording", begin=0, end=2 * RATE - 1, text="Steam it,")
        operate(jaskel, edition, kind="strike", ranges=[{"begin": 0, "end": RATE // 4}], why="by hand")
        assert "put the plank" in " ".join(texts(jaskel, edition))
        turn(jaskel, edition, "undo")
        assert texts(jaskel, edition)[0].startswith("Steam it,")

    def test_what_changes_nothing_is_said_so(self, jaskel, edition):
        first = cues(jaskel, edition)[0]
        where = {"begin": first["begin"], "end": first["until"]}
        same = operate(jaskel, edition, 422, kind="caption wording", **where, text=" ".join(first["lines"]))
        assert same["code"] == "nothing-changed"


def test_a_break_is_moved_in_one_step(jaskel, edition):
    rules(jaskel, edition, characters=20, lines=1)
    second = cues(jaskel, edition)[1]
    word = second["begin"] + RATE // 4
    operate(jaskel, edition, kind="caption break", at=word, before="cue", instead=second["begin"])
    begins = [cue["begin"] for cue in cues(jaskel, edition)]
    assert second["begin"] not in begins and any(abs(begin - word) < RATE // 10 for begin in begins)
    turn(jaskel, edition, "undo")
    assert second["begin"] in [cue["begin"] for cue in cues(jaskel, edition)]


class TestShow:
    @pytest.fixture
    def show(self, spoken):  # noqa: F811
        return spoken["show_id"]

    def test_its_rules_and_look_hold_where_an_edition_has_none(self, jaskel, show, edition):
        known = jaskel.get(f"/api/shows/{show}/captions")
        jaskel.put(f"/api/shows/{show}/captions", {"rules": {**known["rules"], "characters": 20}, "look": PENCIL})
        assert all(len(line) <= 20 + 4 for cue in cues(jaskel, edition) for line in cue["lines"])
        head = jaskel.get(f"/api/editions/{edition}")
        assert head["captions"]["characters"] == 20 and not head["own_rules"] and head["looks"]["all"]["name"] == "Pencil"
        rules(jaskel, edition, characters=30)
        assert jaskel.get(f"/api/editions/{edition}")["own_rules"]
        operate(jaskel, edition, kind="caption rules", rules=None)
        assert jaskel.get(f"/api/editions/{edition}")["captions"]["characters"] == 20

    def test_looks_are_saved_replaced_and_deleted(self, jaskel, show):
        own = {**PENCIL, "name": "Ours"}
        assert [look["name"] for look in jaskel.post(f"/api/shows/{show}/looks", own, 200)["looks"]] == ["Ours"]
        again = jaskel.post(f"/api/shows/{show}/looks", {**own, "size": 9}, 200)
        assert [(look["name"], look["size"]) for look in again["looks"]] == [("Ours", 9.0)]
        taken = jaskel.post(f"/api/shows/{show}/looks", {**own, "name": LOOKS[0].name}, 422)
        assert taken["code"] == "look-taken"
        jaskel.delete(f"/api/shows/{show}/looks/Ours", 200)
        assert jaskel.get(f"/api/shows/{show}/captions")["looks"] == []
        assert jaskel.delete(f"/api/shows/{show}/looks/Ours", 404)["code"] == "no-look"

    def test_a_font_of_its_own_is_drawn_with(self, jaskel, show, edition):
        file = next((FOLDER / "lora").glob("lora-latin-wght-normal.woff2")).read_bytes()
        answer = jaskel.client.post(f"/api/shows/{show}/fonts?name=harbour.woff2", data=file)
        (own,) = [font for font in answer.json["fonts"] if font["own"]]
        operate(jaskel, edition, kind="caption look", look={**PENCIL, "font": own["key"]})
        assert jaskel.get(f"/api/editions/{edition}/screens")["moments"]
        for junk in (b"", b"no font at all", file[:400]):
            refused = jaskel.client.post(f"/api/shows/{show}/fonts?name=a.ttf", data=junk)
            assert refused.status_code == 422 and refused.json["code"] == "no-font"

    def test_names_of_files_follow_its_pattern(self, jaskel, show, edition, spoken):  # noqa: F811
        jaskel.put(f"/api/shows/{show}/captions", {"names": "{episode}_{language} ({step})", "language": "en_GB"})
        exported(jaskel, spoken, "vtt")
        (made,) = jaskel.get(f"/api/episodes/{spoken['id']}")["exports"]
        assert made["file_name"].endswith(f"_en_GB ({made['revision']}).vtt")
        assert jaskel.put(f"/api/shows/{show}/captions", {"names": "{nonsense}"}, 422)["code"] == "no-pattern"
        assert jaskel.put(f"/api/shows/{show}/captions", {"language": "../x"}, 422)["code"] == "not-understood"


def test_what_forms_cannot_hold_is_told_before(jaskel, edition):
    operate(jaskel, edition, kind="caption look", look={**PENCIL, "down": "top"})
    lost = jaskel.get(f"/api/editions/{edition}/caption-forms?rate=24")["lost"]
    assert "places" in lost["srt"][0] and any("24 frames" in each for each in lost["stl"]) and "ttml" not in lost


class TestDrawn:
    def test_the_monitor_is_told_what_is_drawn_where_and_when(self, jaskel, edition):
        operate(jaskel, edition, kind="caption look", look=PENCIL)
        screens = jaskel.get(f"/api/editions/{edition}/screens")
        shown = [each for each in screens["moments"] if each["key"]]
        assert shown and [each["at"] for each in screens["moments"]] == sorted(each["at"] for each in screens["moments"])
        answer = jaskel.client.get(f"/api/editions/{edition}/screens/{shown[0]['key']}")
        picture = Image.open(io.BytesIO(answer.data))
        assert picture.size == (shown[0]["width"], shown[0]["height"]) and picture.mode == "RGBA"
        assert "immutable" in answer.headers["Cache-Control"]
        assert jaskel.get(f"/api/editions/{edition}/screens/nonsense", 404)["code"] == "no-screen"

    def test_a_sample_of_a_look_is_drawn_and_nonsense_refused(self, jaskel):
        query = {"look": json.dumps(PENCIL), "width": 160, "height": 90}
        assert Image.open(io.BytesIO(jaskel.client.get("/api/looks/sample", query_string=query).data)).size == (160, 90)
        assert jaskel.client.get("/api/looks/sample", query_string={"look": "{"}).json["code"] == "no-look"

    @pytest.mark.parametrize("form", ["mp4", "mkv"])
    def test_films_have_them_burned_in_and_as_a_track(self, jaskel, edition, spoken, form, tmp_path):  # noqa: F811
        operate(jaskel, edition, kind="caption look", look={**PENCIL, "move": "still", "colour": "#ff2020", "size": 12})
        plain, both = tmp_path / f"plain.{form}", tmp_path / f"both.{form}"
        plain.write_bytes(exported(jaskel, spoken, form))
        both.write_bytes(exported(jaskel, spoken, form, captions=["burned in", "track"]))
        with av.open(str(both)) as film:
            (track,) = film.streams.subtitles
            shown = [(packet.pts * packet.time_base, bytes(packet)) for packet in film.demux(track) if packet.size > 2]
        expected = cues(jaskel, edition)
        assert len(shown) == len(expected) and expected[0]["lines"][0].encode() in shown[0][1]
        assert all(abs(float(at) - cue["start"] / RATE) < 0.002 for (at, _), cue in zip(shown, expected, strict=True))
        at = (expected[0]["start"] + expected[0]["end"]) // 2
        red = [reds(path, at / RATE) for path in (plain, both)]
        assert red[0] < 20 and red[1] > 500


def reds(path, seconds: float) -> int:
    """Pixels of a film that are clearly red at a time."""
    with av.open(str(path)) as film:
        for frame in film.decode(video=0):
            if frame.time >= seconds:
                picture = frame.to_ndarray(format="rgb24").astype(int)
                return int(((picture[:, :, 0] > 150) & (picture[:, :, 1] < 90) & (picture[:, :, 2] < 90)).sum())
    raise AssertionError("the film is too short")
