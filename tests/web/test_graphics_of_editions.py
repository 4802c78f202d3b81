"""Lower thirds, titles, logo and the house style, through the API."""

# ruff: noqa: F811

from __future__ import annotations

import io

import av
import numpy as np
import pytest
from PIL import Image
from test_exports import exported
from test_retyping import operate
from test_shots_of_editions import talk  # noqa: F401 (a fixture)

RATE = 48_000


def head(jaskel, talk):
    return jaskel.get(f"/api/editions/{talk['edition']}")


def plan(jaskel, talk):
    return jaskel.get(f"/api/editions/{talk['edition']}/plan")


def pixels(jaskel, talk, key):
    answer = jaskel.client.get(f"/api/editions/{talk['edition']}/graphics/{key}")
    assert answer.status_code == 200, answer.json
    return np.asarray(Image.open(io.BytesIO(answer.data)))


def png(size=(60, 30), colour="#ff0000") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, colour).save(out, "PNG")
    return out.getvalue()


@pytest.fixture
def show(talk):
    return talk["episode"]["show_id"]


def test_everybody_is_named_in_one_click_and_follows_the_voice(jaskel, talk, show):
    jaskel.client.patch(f"/api/voices/{talk['voices']['Ada']}", json={"role": "Host"})
    operate(jaskel, talk["edition"], kind="lower thirds")
    texts = [each["text"] for each in head(jaskel, talk)["graphics"]]
    assert texts == ["Ada Lund, Host", "Ben Orr"]
    first, second = plan(jaskel, talk)["overlays"]
    assert (first["begin"], first["enter"]) == (0, "edge")
    assert second["begin"] == pytest.approx(6 * RATE, abs=RATE // 10)
    before = pixels(jaskel, talk, first["key"])
    jaskel.client.patch(f"/api/voices/{talk['voices']['Ada']}", json={"role": "Sailmaker and host"})
    after = pixels(jaskel, talk, plan(jaskel, talk)["overlays"][0]["key"])
    assert after.shape[1] > before.shape[1]
    again = jaskel.client.post(
        f"/api/editions/{talk['edition']}/operations",
        json={"revision": head(jaskel, talk)["revision"], "operation": {"kind": "lower thirds"}},
    )
    assert again.json["code"] == "nothing-changed"
    operate(jaskel, talk["edition"], kind="graphic off")
    assert head(jaskel, talk)["graphics"] == []


def test_a_title_is_written_moved_and_taken_off(jaskel, talk):
    operate(jaskel, talk["edition"], kind="title", begin=RATE, end=3 * RATE, text="Part one")
    (title,) = head(jaskel, talk)["graphics"]
    operate(jaskel, talk["edition"], kind="title", id=title["id"], begin=2 * RATE, end=4 * RATE, text="Part two", down="bottom")
    (title,) = head(jaskel, talk)["graphics"]
    assert (title["text"], title["begin"], title["down"]) == ("Part two", 2 * RATE, "bottom")
    (overlay,) = plan(jaskel, talk)["overlays"]
    assert overlay["mark"] == title["id"]
    operate(jaskel, talk["edition"], kind="graphic off", id=title["id"])
    assert plan(jaskel, talk)["overlays"] == []


def test_the_house_style_is_changed_once_for_all_episodes(jaskel, talk, show):
    url = f"/api/shows/{show}"
    assert jaskel.client.post(f"{url}/logo?name=logo.png", data=png()).json["logo"].startswith(url)
    (overlay,) = plan(jaskel, talk)["overlays"]
    assert tuple(pixels(jaskel, talk, overlay["key"])[5, 5]) == (255, 0, 0, 255)
    card = plan(jaskel, talk)["card"]
    style = {**jaskel.get(f"{url}/style"), "paper": "#203040", "watermark": False, "bar": "top"}
    assert jaskel.client.put(f"{url}/style", json=style).status_code == 200
    told = plan(jaskel, talk)
    assert told["card"] != card
    assert [each["enter"] for each in told["overlays"]] == ["grow"]
    shown = Image.open(io.BytesIO(jaskel.client.get(f"/api/episodes/{talk['episode']['id']}/card").data))
    assert shown.getpixel((2, 2)) == (0x20, 0x30, 0x40)
    operate(jaskel, talk["edition"], kind="dressing", logo=True, bar=False)
    assert head(jaskel, talk)["dressing"] == {"logo": True, "bar": False, "own_logo": True, "own_bar": False}
    jaskel.client.delete(f"{url}/logo")
    assert plan(jaskel, talk)["overlays"] == []


def test_what_cannot_be_used_is_refused_and_nothing_kept(jaskel, talk, show):
    url = f"/api/shows/{show}"
    for data in (b"", b"no picture", png()[:40]):
        answer = jaskel.client.post(f"{url}/logo?name=broken.png", data=data)
        assert (answer.status_code, answer.json["code"]) == (422, "no-picture")
    assert jaskel.get(f"{url}/style")["logo"] is None
    assert jaskel.client.put(f"{url}/style", json={"paper": "red"}).status_code == 422
    assert jaskel.client.get(f"{url}/logo/{'0' * 64}").status_code == 404
    missing = {"revision": head(jaskel, talk)["revision"], "operation": {"kind": "graphic off", "id": "x"}}
    assert jaskel.client.post(f"/api/editions/{talk['edition']}/operations", json=missing).json["code"] == "no-graphic"


def test_a_framing_of_the_show_is_kept_chosen_and_refused_once_it_is_gone(jaskel, talk, show):
    url, voices = f"/api/shows/{show}/style", [*talk["voices"].values()]
    made = {"name": "Porch", "slots": [[0.05, 0.1, 0.4, 0.8], [0.55, 0.1, 0.4, 0.8]], "corner": 8, "names": True}
    assert jaskel.client.put(url, json={"framings": [made]}).status_code == 200
    assert jaskel.get(url)["framings"][0]["name"] == "Porch"
    chosen = {"kind": "shot", "ranges": [{"begin": 0, "end": 4 * RATE}], "framing": "Porch", "voices": voices}
    operate(jaskel, talk["edition"], **chosen)
    first = plan(jaskel, talk)["layers"][0]
    assert [view["corner"] for view in first["views"]] == [8, 8]
    assert first["ground"] == "#131313"
    assert len(plan(jaskel, talk)["overlays"]) == 2
    assert jaskel.client.put(url, json={"framings": [{**made, "slots": [[0.9, 0, 0.5, 0.5]]}]}).json["code"] == "no-framing"
    wall = io.BytesIO()
    Image.new("RGB", (320, 180), "#00ff00").save(wall, "PNG")
    pictures = url.replace("/style", "/house-pictures?name=wall.png")
    digest = jaskel.client.post(pictures, data=wall.getvalue()).json["digest"]
    assert jaskel.get(f"/api/house-pictures/{digest}").mimetype == "image/png"
    assert jaskel.client.post(pictures, data=b"no picture").json["code"] == "no-picture"
    rich = {**made, "ground": f"picture:{digest}", "fixtures": [{"kind": "voice", "box": [0.1, 0.8, 0.8, 0.15]}]}
    assert jaskel.client.put(url, json={"framings": [rich]}).status_code == 200
    assert jaskel.get(url)["framings"][0]["fixtures"][0]["kind"] == "voice"
    layer = jaskel.get(f"/api/editions/{talk['edition']}/plan")["layers"][0]
    assert layer["ground"] == f"picture:{digest}"
    assert jaskel.get(f"/api/editions/{talk['edition']}/stretches/{layer['stretch']}").mimetype == "video/mp4"
    assert jaskel.client.put(url, json={"framings": []}).status_code == 200
    revision = head(jaskel, talk)["revision"]
    again = jaskel.client.post(f"/api/editions/{talk['edition']}/operations", json={"revision": revision, "operation": chosen})
    assert again.json["code"] == "no-framing"
    assert len(plan(jaskel, talk)["layers"][0]["views"]) == 1


def test_cards_have_words_a_colour_or_a_picture_of_their_own(jaskel, talk, show):
    edition = talk["edition"]
    operate(jaskel, edition, kind="card", closing=False, length=RATE)

    def card():
        layer = plan(jaskel, talk)["layers"][0]
        assert layer["views"] == []
        return Image.open(io.BytesIO(jaskel.get(f"/api/editions/{edition}/cards/{layer['card']}").data)).convert("RGB")

    usual = card()
    operate(jaskel, edition, kind="card look", which="opening", look={"text": "Two boats", "colour": "#203040"})
    assert head(jaskel, talk)["cards"] == [
        {"which": "opening", "text": "Two boats", "colour": "#203040", "picture": "", "logo": True}
    ]
    own = card()
    assert own.size == usual.size
    assert own.getpixel((2, 2)) == (0x20, 0x30, 0x40)
    assert min(own.crop((0, 0, own.width, own.height // 2)).getdata()) == (0x20, 0x30, 0x40)  # light letters on dark
    digest = jaskel.client.post(f"/api/shows/{show}/house-pictures?name=wall.png", data=png()).json["digest"]
    operate(jaskel, edition, kind="card look", which="opening", look={"picture": digest, "logo": False})
    assert card().getpixel((2, 2)) != (0x20, 0x30, 0x40)
    film = exported(jaskel, talk["episode"], "mp4")
    with av.open(io.BytesIO(film)) as opened:
        first = next(opened.decode(video=0)).to_image()
    assert max(abs(a - b) for a, b in zip(first.getpixel((2, 2)), card().getpixel((2, 2)), strict=True)) < 16
    operate(jaskel, edition, kind="card look", which="opening", look={})
    assert head(jaskel, talk)["cards"] == []
    assert card().tobytes() == usual.tobytes()
