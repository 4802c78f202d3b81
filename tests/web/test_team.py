"""A Jaskel of several people: who gets in, what each may do, and what others never see."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import partial
from typing import ClassVar

import pyotp
import pytest
from conftest import RATE, Jaskel, write_media
from test_retyping import operate
from test_sessions import tone

from jaskel import cli
from jaskel.core.problem import Problem
from jaskel.core.roles import EVERYTHING, OF_OPERATIONS, RIGHTS, Right, Role, right_for
from jaskel.core.transcript import Word
from jaskel.jobs.archive import pack
from jaskel.settings import Settings
from jaskel.store import accounts
from jaskel.store.models import Account, Episode, Happening, SignIn, now
from jaskel.web import gate
from jaskel.web.app import create_app
from jaskel.web.asked import ASKED
from jaskel.web.gate import AT_JOBS, KEEPERS, NEEDS, OPEN, SIGNED_IN, STAND_INS, limiter
from jaskel.web.serve import _check_reach

PASSWORD = "ropes tar and nine kettles"


class Person(Jaskel):
    """Somebody's browser, before the same Jaskel."""

    def __init__(self, team, account=None):
        self.workshop, self.settings, self.client = team.workshop, team.settings, team.app.test_client()
        self.id = account
        if account:
            mail = self._account(account).mail
            self.post("/api/sign-in", {"mail": mail, "password": PASSWORD})

    def _account(self, account):
        with self.workshop.home.database.read() as session:
            return session.get_one(Account, account)

    def patch(self, path, body, status=200):
        return self._checked(self.client.patch(path, json=body), status)


class Team(Jaskel):
    """A Jaskel with accounts, whose keeper is signed in."""

    def __init__(self, settings):
        super().__init__(replace(settings, team=True))
        self.app = self.client.application
        self.keeper = Person(self, self.account("Orla Quist", keeper=True))

    def account(self, name, **more):
        with self.workshop.home.database.write() as session:
            mail = f"{name.split()[0].lower()}@example.org"
            return accounts.new_account(session, name, mail, PASSWORD, **more).id

    def member(self, name, show, role):
        account = self.account(name)
        with self.workshop.home.database.write() as session:
            accounts.set_role(session, show, account, role)
        return Person(self, account)

    def log(self):
        with self.workshop.home.database.read() as session:
            return [(row.who, row.told) for row in session.query(Happening).order_by(Happening.id)]


@pytest.fixture
def team(settings):
    made = Team(settings)
    limiter.reset()
    yield made
    made.workshop.close()


@pytest.fixture
def episode(team, tmp_path):
    """An episode with ten seconds in which ten words are said."""
    made = team.keeper.episode()
    recording = team.keeper.upload(made["id"], write_media(tmp_path / "a.flac", tone(10)))["id"]
    team.keeper.work()
    team.keeper.words(recording, [Word(f"word{n}", n * RATE, n * RATE + RATE // 2, 0.9) for n in range(10)])
    return team.keeper.get(f"/api/episodes/{made['id']}")


def edition(episode):
    return episode["editions"][0]["id"]


def second(n, m=None):
    return {"begin": n * RATE, "end": (m or n + 1) * RATE}


class TestTheTables:
    def endpoints(self, team):
        return {rule.endpoint: rule for rule in team.app.url_map.iter_rules()}

    def test_every_endpoint_is_about_a_show_or_named(self, team):
        """What is in no table is found by an id in its address; an endpoint without one is named."""
        named = OPEN | SIGNED_IN | KEEPERS
        homes = {
            "show_id", "episode_id", "edition_id", "recording_id", "session_id", "voice_id", "version_id", "job_id",
            "export_id", "take_id", "text_id", "upload_id", "spelling_id", "invitation_id", "guest_link_id",
        }  # fmt: skip
        for endpoint, rule in self.endpoints(team).items():
            if endpoint.split(".")[0] not in STAND_INS:
                assert (endpoint in named) != bool(rule.arguments & homes), endpoint

    def test_the_tables_name_nothing_that_is_not_there(self, team):
        assert (OPEN | SIGNED_IN | KEEPERS | NEEDS.keys() | AT_JOBS) <= self.endpoints(team).keys()

    def test_operations_need_what_they_change(self):
        kinds = {model.model_fields["kind"].annotation.__args__[0] for model in ASKED}
        assert OF_OPERATIONS.keys() <= kinds
        assert {right_for(kind) for kind in kinds} == {Right.WORDS, Right.CAPTIONS, Right.EDIT}
        assert right_for("strike") == right_for("lock") == right_for("nothing of this kind") == Right.EDIT

    def test_nothing_is_told_to_who_is_not_signed_in(self, team, episode):
        stranger = team.app.test_client()
        for rule in team.app.url_map.iter_rules():
            if rule.endpoint in OPEN or rule.endpoint.split(".")[0] in STAND_INS:
                continue
            values = {name: episode["id"] if name == "episode_id" else edition(episode) for name in rule.arguments}
            with team.app.test_request_context():
                path = rule.build({**values, "number": 1, "filename": "x"}, append_unknown=False)[1]
            for method in rule.methods - {"HEAD", "OPTIONS"}:
                answer = stranger.open(path, method=method, json={} if method != "GET" else None)
                assert answer.status_code == 401, (method, path)
        assert stranger.get("/api/me").json == {
            "team": True, "signed_in": False, "id": "", "name": "", "mail": "", "keeper": False, "second": False,
            "edition": "", "episode": "",
        }  # fmt: skip


class TestSigningIn:
    def test_the_cookie_is_the_browsers_alone(self, team):
        answer = team.app.test_client().post("/api/sign-in", json={"mail": "ORLA@example.org ", "password": PASSWORD})
        assert answer.json["name"] == "Orla Quist"
        cookie = answer.headers["Set-Cookie"]
        assert "HttpOnly" in cookie and "SameSite=Strict" in cookie and "Path=/" in cookie
        assert answer.headers["Cache-Control"] == "no-store"

    def test_over_https_it_goes_nowhere_else(self, settings):
        app = create_app(replace(settings, team=True, public="https://jaskel.example.org"))
        team = Jaskel(settings)
        with team.workshop.home.database.write() as session:
            accounts.new_account(session, "Orla", "orla@example.org", PASSWORD)
        asked = {"mail": "orla@example.org", "password": PASSWORD}
        answer = app.test_client().post("/api/sign-in", json=asked, base_url="https://jaskel.example.org")
        assert answer.status_code == 200, answer.text
        assert answer.headers["Set-Cookie"].startswith("__Host-jaskel=") and "Secure" in answer.headers["Set-Cookie"]
        assert "max-age" in answer.headers["Strict-Transport-Security"]
        team.workshop.close()

    def test_what_is_wrong_is_not_told_apart(self, team):
        stranger = team.app.test_client()
        wrong = [{"mail": "orla@example.org", "password": "no"}, {"mail": "nobody@example.org", "password": PASSWORD}]
        first, other = (stranger.post("/api/sign-in", json=each) for each in wrong)
        assert first.status_code == other.status_code == 403 and first.json["detail"] == other.json["detail"]
        assert ("Orla Quist", "was refused: wrong password") in team.log()

    def test_guessing_is_slow(self, team):
        stranger = team.app.test_client()
        asked = {"mail": "orla@example.org", "password": "guess"}
        assert [stranger.post("/api/sign-in", json=asked).status_code for _ in range(12)].count(429) >= 1

    def test_whoever_asks_far_too_much_waits_and_nobody_else(self, team, episode, monkeypatch):
        monkeypatch.setattr(gate, "MOST_REQUESTS", "20 per minute")
        ann = team.member("Ann Hale", episode["show_id"], "editor")
        limiter.reset()
        answers = [ann.client.get("/api/shows").status_code for _ in range(22)]
        assert answers == [200] * 20 + [429] * 2
        team.keeper.get("/api/shows")

    def test_secrets_are_kept_as_digests(self, team, settings):
        kept = settings.database.read_bytes() + (settings.database.with_name("jaskel.db-wal")).read_bytes()
        assert PASSWORD.encode() not in kept
        with team.workshop.home.database.read() as session:
            (sign_in,) = session.query(SignIn)
            assert len(sign_in.digest) == 64
            assert session.query(Account).one().password.startswith("$argon2id$")

    def test_signing_out_everywhere_ends_every_browser(self, team, episode):
        other = Person(team, team.keeper.id)
        team.keeper.client.post("/api/sign-out-everywhere")
        assert other.get("/api/shows", 401)["code"] == "not-signed-in"
        assert Person(team, team.keeper.id).get("/api/shows")["shows"]

    def test_a_sign_in_ends_by_itself(self, team):
        with team.workshop.home.database.write() as session:
            session.query(SignIn).one().created = now() - accounts.SIGNED_IN_FOR - timedelta(minutes=1)
        team.keeper.get("/api/shows", 401)

    def test_a_new_password_signs_the_others_out(self, team):
        other = Person(team, team.keeper.id)
        assert team.keeper.put("/api/me/password", {"old": "wrong", "new": PASSWORD}, 403)["code"] == "not-known"
        weak = team.keeper.put("/api/me/password", {"old": PASSWORD, "new": "password1234"}, 422)
        assert weak["code"] == "weak-password"
        team.keeper.put("/api/me/password", {"old": PASSWORD, "new": "hemp oakum and seven gulls"})
        other.get("/api/shows", 401)
        team.keeper.get("/api/shows")

    def test_and_its_owner_is_told_by_mail(self, settings):
        team = Team(replace(settings, mail="stand-in"))
        limiter.reset()
        team.keeper.put("/api/me/password", {"old": PASSWORD, "new": "hemp oakum and seven gulls"})
        team.work()
        (mail,) = [path.read_text() for path in team.settings.mailbox.iterdir()]
        assert "To: orla@example.org" in mail and "Your password was changed" in mail and "hemp" not in mail
        team.workshop.close()

    @pytest.mark.parametrize(
        ("name", "mail", "password", "code"),
        [
            ("Teo", "no address", PASSWORD, "bad-mail"),
            ("orla  quist", "x@example.org", PASSWORD, "name-taken"),
            ("Teo", "Orla@example.org", PASSWORD, "mail-taken"),
            ("Teo", "teo@example.org", "short", "weak-password"),
            ("Teo", "teo@example.org", "qwertyuiop123", "weak-password"),
            ("Teo", "teo@example.org", "x" * 200, "weak-password"),
        ],
    )
    def test_accounts_that_are_not_made(self, team, name, mail, password, code):
        with pytest.raises(Problem) as told, team.workshop.home.database.write() as session:
            accounts.new_account(session, name, mail, password)
        assert told.value.code == code

    def test_without_accounts_there_is_nothing_to_sign_in_to(self, jaskel):
        assert jaskel.get("/api/me")["team"] is False
        assert jaskel.post("/api/sign-in", {"mail": "a@b", "password": "x"}, 422)["code"] == "no-team"


class TestASecondFactor:
    ASKED: ClassVar = {"mail": "orla@example.org", "password": PASSWORD}

    def set_up(self, team):
        made = team.keeper.post("/api/me/second-factor", {})
        assert made["secret"] in made["address"] and "orla%40example.org" in made["address"]
        body = {"secret": made["secret"], "code": self.code(made["secret"]), "password": PASSWORD}
        assert team.keeper.put("/api/me/second-factor", body)["second"] is True
        return made["secret"]

    def code(self, secret, steps=0):
        return pyotp.TOTP(secret).at(datetime.now(UTC), counter_offset=steps)

    def test_figures_are_asked_for_after_the_password(self, team):
        secret, person = self.set_up(team), Person(team)
        assert person.post("/api/sign-in", {**self.ASKED, "password": "no"}, 403)["code"] == "not-known"
        assert person.post("/api/sign-in", self.ASKED, 403)["code"] == "code-needed"
        assert person.post("/api/sign-in", {**self.ASKED, "code": self.code(secret, 5)}, 403)["code"] == "wrong-code"
        assert person.get("/api/me")["signed_in"] is False
        assert person.post("/api/sign-in", {**self.ASKED, "code": self.code(secret, 1)})["second"] is True
        assert ("Orla Quist", "was refused: wrong figures of the second factor") in team.log()

    def test_figures_work_once(self, team):
        secret = self.set_up(team)
        used = {**self.ASKED, "code": self.code(secret, 1)}
        Person(team).post("/api/sign-in", used)
        assert Person(team).post("/api/sign-in", used, 403)["code"] == "wrong-code"

    def test_setting_it_up_takes_figures_and_password_and_signs_the_others_out(self, team):
        other, made = Person(team, team.keeper.id), team.keeper.post("/api/me/second-factor", {})
        body = {"secret": made["secret"], "code": self.code(made["secret"], 7), "password": PASSWORD}
        assert team.keeper.put("/api/me/second-factor", body, 403)["code"] == "wrong-code"
        weak = {**body, "secret": "A" * 20, "code": "000000"}
        assert team.keeper.put("/api/me/second-factor", weak, 403)["code"] == "wrong-code"
        stolen = {**body, "code": self.code(made["secret"]), "password": "no"}
        assert team.keeper.put("/api/me/second-factor", stolen, 403)["code"] == "not-known"
        assert team.keeper.get("/api/me")["second"] is False
        self.set_up(team)
        other.get("/api/shows", 401)

    def test_one_that_is_there_is_not_replaced_by_who_knows_the_password(self, team):
        secret = self.set_up(team)
        made = team.keeper.post("/api/me/second-factor", {})
        body = {"secret": made["secret"], "code": self.code(made["secret"]), "password": PASSWORD}
        assert team.keeper.put("/api/me/second-factor", body, 422)["code"] == "has-second-factor"
        assert Person(team).post("/api/sign-in", {**self.ASKED, "code": self.code(secret, 1)})["second"] is True

    def test_what_only_keepers_do_needs_it(self, team):
        assert team.keeper.post("/api/weights", {"name": "large"}, 403)["code"] == "second-factor-needed"
        self.set_up(team)
        assert team.keeper.post("/api/weights", {"name": "large"}, 201)

    def test_it_is_taken_off_with_figures_and_password(self, team):
        secret = self.set_up(team)
        body = {"code": self.code(secret, 1), "password": PASSWORD}
        take_off = partial(team.keeper.client.delete, "/api/me/second-factor")
        assert take_off(json={**body, "code": "1"}).json["code"] == "wrong-code"
        assert take_off(json=body).json["second"] is False
        assert Person(team, team.keeper.id).get("/api/shows")["shows"] == []

    def test_who_lost_their_telephone_is_let_in_from_the_command_line(self, team, settings, capsys):
        self.set_up(team)
        assert cli.main(["account", "--data", str(settings.data), "list"]) == 0
        assert "second factor" in capsys.readouterr().out
        assert cli.main(["account", "--data", str(settings.data), "link", "orla@example.org"]) == 0
        secret = capsys.readouterr().out.split("#")[1].strip()
        person = Person(team)
        person.post("/api/invitations/join", {"secret": secret, "password": PASSWORD})
        assert person.get("/api/me")["second"] is False


class TestInvitations:
    def test_somebody_new_joins_once(self, team, episode):
        link = team.keeper.post(f"/api/shows/{episode['show_id']}/invitations", {"role": "editor", "label": "Teo"}, 201)["link"]
        secret = link.split("#")[1]
        teo = Person(team)
        assert teo.post("/api/invitations/look", {"secret": secret})["show"] == "Ropewalk"
        asked = {"secret": secret, "name": "Teo Marsh", "mail": "teo@example.org", "password": "1234"}
        assert teo.post("/api/invitations/join", asked, 422)["code"] == "weak-password"
        assert teo.post("/api/invitations/join", {**asked, "password": PASSWORD})["name"] == "Teo Marsh"
        assert teo.get(f"/api/episodes/{episode['id']}")["may"] and teo.get("/api/shows")["shows"]
        assert Person(team).post("/api/invitations/join", {**asked, "name": "Eve"}, 422)["code"] == "no-invitation"
        members = team.keeper.get(f"/api/shows/{episode['show_id']}/team")["members"]
        assert [(each["name"], each["role"]) for each in members] == [("Orla Quist", "owner"), ("Teo Marsh", "editor")]

    def test_somebody_signed_in_joins_with_their_account_and_loses_nothing(self, team, episode):
        teo = team.member("Teo Marsh", episode["show_id"], "owner")
        link = team.keeper.post(f"/api/shows/{episode['show_id']}/invitations", {"role": "exporter"}, 201)["link"]
        assert teo.post("/api/invitations/join", {"secret": link.split("#")[1]})["name"] == "Teo Marsh"
        assert Right.OWN in teo.get(f"/api/episodes/{episode['id']}")["may"]

    def test_one_that_was_taken_back_is_no_good(self, team, episode):
        link = team.keeper.post(f"/api/shows/{episode['show_id']}/invitations", {"role": "editor"}, 201)["link"]
        (waiting,) = team.keeper.get(f"/api/shows/{episode['show_id']}/team")["invitations"]
        team.keeper.delete(f"/api/invitations/{waiting['id']}")
        assert Person(team).post("/api/invitations/look", {"secret": link.split("#")[1]}, 422)["code"] == "no-invitation"

    def test_roles_are_changed_and_an_owner_stays(self, team, episode):
        show = episode["show_id"]
        teo = team.member("Teo Marsh", show, "owner")
        path = f"/api/shows/{show}/members/{teo.id}"
        assert team.keeper.post(f"/api/shows/{show}/invitations", {"role": "guest"}, 422)["code"] == "not-understood"
        assert team.keeper.get(f"/api/shows/{show}/log")["happenings"]
        keeper_path = f"/api/shows/{show}/members/{team.keeper.id}"
        team.keeper.delete(keeper_path)
        assert teo.client.put(path, json={"role": "editor"}).json["code"] == "last-owner"
        assert teo.client.delete(path).json["code"] == "last-owner"

    def test_from_the_command_line(self, settings, monkeypatch, capsys):
        monkeypatch.setenv("JASKEL_DATA", str(settings.data))
        assert cli.main(["account", "add", "Orla Quist", "orla@example.org"]) == 0
        secret = capsys.readouterr().out.split("#")[1].strip()
        assert cli.main(["account", "add", "Teo", "orla@example.org"]) == 2
        assert cli.main(["account", "list"]) == 0
        assert "Orla Quist <orla@example.org> (keeper, no password yet)" in capsys.readouterr().out
        client = create_app(replace(settings, team=True)).test_client()
        assert client.post("/api/sign-in", json={"mail": "orla@example.org", "password": " "}).status_code == 403
        assert client.post("/api/invitations/join", json={"secret": secret, "password": PASSWORD}).json["keeper"] is True
        assert cli.main(["account", "link", "orla@example.org"]) == 0
        assert client.get("/api/shows").status_code == 401
        assert cli.main(["account", "remove", "orla@example.org"]) == 2
        assert cli.main(["account", "remove", "nobody@example.org"]) == 2


class TestReach:
    @pytest.mark.parametrize(
        ("more", "code"),
        [
            ({}, "no-team"),
            ({"team": True}, "not-secure"),
            ({"team": True, "public": "http://jaskel.example.org"}, "not-secure"),
            ({"team": True, "certificate": "nothing.pem", "key": "nothing.pem"}, "no-certificate"),
        ],
    )
    def test_beyond_loopback_is_refused_without_accounts_and_https(self, tmp_path, more, code):
        files = {name: tmp_path / more[name] for name in ("certificate", "key") if name in more}
        with pytest.raises(Problem) as told:
            _check_reach(Settings(tmp_path, host="0.0.0.0", **{**more, **files}))
        assert told.value.code == code

    def test_behind_a_proxy_and_on_loopback_it_is_not(self, tmp_path):
        _check_reach(Settings(tmp_path))
        _check_reach(Settings(tmp_path, host="0.0.0.0", team=True, public="https://jaskel.example.org"))


ASKS = [
    # right, method, path, body
    (Right.READ, "GET", "/api/episodes/{episode}", None),
    (Right.READ, "GET", "/api/recordings/{recording}/peaks", None),
    (Right.READ, "GET", "/api/editions/{edition}/history", None),
    (Right.LISTEN, "GET", "/api/editions/{edition}", None),
    (Right.NOTE, "POST", "/api/episodes/{episode}/notes", {"edition": "{edition}", "laid": 0, "text": "louder?"}),
    (Right.WORDS, "POST", "/api/editions/{edition}/operations", {"kind": "retype", "ranges": [second(3)], "text": "other"}),
    (Right.WORDS, "POST", "/api/shows/{show}/spellings", {"term": "Tarn Hythe"}),
    (Right.WORDS, "POST", "/api/recordings/{recording}/transcript", None),
    (Right.WORDS, "POST", "/api/recordings/{recording}/voices", {"count": 2}),
    (Right.WORDS, "POST", "/api/recordings/{recording}/texts?name=words.txt", None),
    (Right.CAPTIONS, "POST", "/api/editions/{edition}/operations", {"kind": "caption second", "language": "de", "cues": []}),
    (Right.EXPORT_TEXT, "POST", "/api/editions/{edition}/exports", {"form": "txt"}),
    (Right.EXPORT, "POST", "/api/editions/{edition}/exports", {"form": "wav"}),
    (Right.EDIT, "POST", "/api/editions/{edition}/operations", {"kind": "strike", "ranges": [second(5)], "reason": "by hand"}),
    (Right.EDIT, "PATCH", "/api/episodes/{episode}", {"title": "Other"}),
    (Right.EDIT, "POST", "/api/editions/{edition}/guests", {"label": "Press"}),
    (Right.OWN, "PATCH", "/api/shows/{show}", {"deleted": False}),
    (Right.OWN, "POST", "/api/shows/{show}/invitations", {"role": "editor"}),
    (Right.OWN, "GET", "/api/shows/{show}/log", None),
]


class TestRoles:
    @pytest.mark.parametrize("role", [Role.OWNER, Role.EDITOR, Role.PROOFREADER, Role.EXPORTER])
    def test_each_does_what_the_table_says_and_nothing_else(self, team, episode, role):
        person = team.member("Teo Marsh", episode["show_id"], role)
        assert {*person.get(f"/api/episodes/{episode['id']}")["may"]} == {*RIGHTS[role]}
        ids = {
            "episode": episode["id"], "edition": edition(episode), "recording": episode["recordings"][0]["id"],
            "show": episode["show_id"],
        }  # fmt: skip
        for right, method, path, body in ASKS:
            asked = json.loads(json.dumps(body).replace("{edition}", ids["edition"]))
            if path.endswith("/operations"):
                revision = team.keeper.get(f"/api/editions/{ids['edition']}")["revision"]
                asked = {"revision": revision, "operation": asked}
            answer = person.client.open(path.format(**ids), method=method, json=asked)
            refused = answer.status_code == 403
            assert refused is (right not in RIGHTS[role]), (right, path, answer.text)
            if refused:
                assert answer.json["detail"].startswith(("A proofreader", "An exporter", "An editor"))
            else:
                assert answer.status_code < 300 or answer.json["code"] not in ("not-there", "not-signed-in"), answer.text

    def test_work_is_stopped_by_whoever_may_begin_it(self, team, episode):
        teo = team.member("Teo Marsh", episode["show_id"], "proofreader")
        recording = episode["recordings"][0]["id"]
        begun = [
            teo.post(f"/api/editions/{edition(episode)}/exports", {"form": "srt"}, 202),
            teo.post(f"/api/recordings/{recording}/voices", {"count": 2}, 202),
        ]
        for job in begun:
            assert teo.post(f"/api/jobs/{job['id']}/cancel")["state"] == "cancelled"
        film = team.keeper.post(f"/api/editions/{edition(episode)}/exports", {"form": "wav"}, 202)
        assert teo.post(f"/api/jobs/{film['id']}/cancel", None, 403)["code"] == "not-allowed-to"

    def test_shows_of_others_are_not_there(self, team, episode, tmp_path):
        teo = Person(team, team.account("Teo Marsh"))
        assert teo.get("/api/shows")["shows"] == []
        for path in (f"/api/episodes/{episode['id']}", f"/api/editions/{edition(episode)}/page"):
            assert teo.get(path, 403)["detail"].startswith("You are not part of this show")
        assert teo.get("/api/search?words=word1")["hits"] == [] != team.keeper.get("/api/search?words=word1")["hits"]

    def test_nothing_is_pasted_out_of_a_show_one_does_not_see(self, team, episode):
        teo = Person(team, team.account("Teo Marsh"))
        own = teo.episode()
        assert Right.OWN in own["may"]
        foreign = episode["recordings"][0]["id"]
        piece = {"source": {"kind": "recorded", "recording": foreign}, "start": 0, "end": RATE}
        for path, body in [
            (f"/api/editions/{edition(own)}/operations",
             {"revision": 0, "operation": {"kind": "insert", "at": 0, "pieces": [piece]}}),
            (f"/api/episodes/{own['id']}/recordings/reuse", {"recording_id": foreign}),
            (f"/api/episodes/{own['id']}/editions", {"name": "Copy", "copy_of": edition(episode)}),
        ]:  # fmt: skip
            assert teo.post(path, body, 404)["code"] == "not-there"
        assert teo.get(f"/api/compare?edition={edition(own)}&other={edition(episode)}", 404)["code"] == "not-there"
        assert teo.get(f"/api/stretches/{foreign}/sound?start=0&end={RATE}", 404)["code"] == "not-there"
        team.keeper.post(f"/api/editions/{edition(own)}/operations",
                         {"revision": 0, "operation": {"kind": "insert", "at": 0, "pieces": [piece]}})  # fmt: skip
        assert teo.get(f"/api/editions/{edition(own)}")["recorded_time"] == RATE

    def test_words_of_another_show_are_corrected_by_its_own_people(self, team, episode):
        teo = Person(team, team.account("Teo Marsh"))
        own = teo.episode()
        recording = episode["recordings"][0]["id"]
        piece = {"source": {"kind": "recorded", "recording": recording}, "start": 0, "end": 5 * RATE}
        operate(team.keeper, edition(own), kind="insert", at=0, pieces=[piece])
        operate(teo, edition(own), kind="strike", ranges=[second(1)], reason="by hand")
        retype = {"kind": "retype", "ranges": [second(3)], "text": "other"}
        assert operate(teo, edition(own), 403, **retype)["detail"].startswith("You are not part of this show")
        operate(team.keeper, edition(own), **retype)

    def test_what_is_about_all_of_jaskel_is_the_keepers(self, team):
        teo = Person(team, team.account("Teo Marsh"))
        assert teo.post("/api/weights", {"name": "large"}, 403)["code"] == "not-allowed-to"

    def test_an_archive_is_brought_by_who_sends_it_and_its_show_is_theirs(self, team, episode):
        """In a show one does not see, nothing is put: a second one is made."""
        home, path = team.workshop.home, team.workshop.settings.data / "a.zip"
        with home.database.read() as session:
            pack(home, session, session.get_one(Episode, episode["id"]), path)
        ann = team.member("Ann Hale", team.keeper.post("/api/shows", {"name": "Gulls", "about": ""}, 201)["id"], "editor")
        headers = {"Upload-Length": str(path.stat().st_size), "Upload-Metadata": "filename YS56aXA="}
        address = ann.client.post("/api/archives", headers=headers).headers["Location"]
        for method in (team.keeper.client.head, team.keeper.client.delete):
            assert method(address).status_code == 404
        ann.client.patch(address, headers={"Upload-Offset": "0"}, data=path.read_bytes())
        ann.post(f"{address}/bring", {}, 202)
        team.work()
        brought = ann.get(f"{address}/job")
        assert brought["job"]["state"] == "done"
        team.keeper.get(f"{address}/job", 404)
        assert ann.get(f"/api/episodes/{brought['episode']}")["may"]
        assert {each["name"] for each in ann.get("/api/shows")["shows"]} == {"Gulls", "Ropewalk"}
        assert brought["episode"] != episode["id"]

    def test_steps_carry_the_name_of_the_account_whatever_a_window_says(self, team, episode):
        teo = team.member("Teo Marsh", episode["show_id"], "editor")
        asked = {"kind": "strike", "ranges": [second(1)], "reason": "by hand"}
        revision = teo.get(f"/api/editions/{edition(episode)}")["revision"]
        teo.post(
            f"/api/editions/{edition(episode)}/operations",
            {"revision": revision, "operation": asked, "who": "Orla Quist", "window": team.keeper.id},
        )
        assert teo.get(f"/api/editions/{edition(episode)}/history")["entries"][0]["who"] == "Teo Marsh"
        assert team.keeper.get(f"/api/editions/{edition(episode)}")["undo"] is None
        assert teo.get(f"/api/editions/{edition(episode)}")["undo"]["summary"].startswith("struck")

    def test_owners_read_what_happened(self, team, episode, tmp_path):
        teo = team.member("Teo Marsh", episode["show_id"], "editor")
        teo.post(f"/api/editions/{edition(episode)}/exports", {"form": "txt"}, 202)
        made = teo.post(f"/api/episodes/{episode['id']}/editions", {"name": "Short"}, 201)
        teo.delete(f"/api/editions/{made['id']}")
        told = [(each["who"], each["told"]) for each in team.keeper.get(f"/api/shows/{episode['show_id']}/log")["happenings"]]
        assert told[:3] == [
            ("Teo Marsh", "deleted the edition “Short”"),
            ("Teo Marsh", "exported the edition “Programme”"),
            ("Teo Marsh", "signed in"),
        ]


class TestNotes:
    def test_answered_given_to_somebody_and_ticked_off(self, team, episode):
        teo = team.member("Teo Marsh", episode["show_id"], "proofreader")
        path = f"/api/episodes/{episode['id']}/notes"
        note = team.keeper.post(path, {"edition": edition(episode), "laid": RATE, "text": "Which year?", "to": teo.id}, 201)
        assert (note["who"], note["to_name"], note["done"]) == ("Orla Quist", "Teo Marsh", False)
        assert teo.patch(f"{path}/{note['id']}", {"text": "changed"}, 403)["detail"].startswith("Orla Quist wrote this note.")
        answered = teo.post(f"{path}/{note['id']}/answers", {"text": "1931"}, 201)["answers"]
        assert [(each["who"], each["text"]) for each in answered] == [("Teo Marsh", "1931")]
        assert teo.patch(f"{path}/{note['id']}", {"done": True})["done"] is True
        assert team.keeper.patch(f"{path}/{note['id']}", {"to": "nobody"}, 422)["code"] == "no-member"

    def test_a_suggested_cut_knows_what_it_would_take_out(self, team, episode):
        teo = team.member("Teo Marsh", episode["show_id"], "proofreader")
        body = {"edition": edition(episode), "text": "Drop this?", "cuts": [second(2, 4), second(7)]}
        note = teo.post(f"/api/episodes/{episode['id']}/notes", body, 201)
        recording = episode["recordings"][0]["id"]
        assert note["cuts"] == [
            {"recording": recording, "start": 2 * RATE, "end": 4 * RATE},
            {"recording": recording, "start": 7 * RATE, "end": 8 * RATE},
        ]
        operate(team.keeper, edition(episode), kind="strike", ranges=[second(0, 10)], reason="by hand")
        assert teo.post(f"/api/episodes/{episode['id']}/notes", body, 422)["code"] == "nothing-there"


class TestLocks:
    def test_a_locked_passage_is_changed_by_one_person(self, team, episode):
        teo = team.member("Teo Marsh", episode["show_id"], "editor")
        head = operate(teo, edition(episode), kind="lock", ranges=[second(2, 5)])
        (lock,) = head["locks"]
        assert (lock["who"], lock["mine"], lock["ranges"]) == ("Teo Marsh", True, [[2 * RATE, 5 * RATE]])
        ann = team.member("Ann Reed", episode["show_id"], "editor")
        told = operate(ann, edition(episode), 422, kind="strike", ranges=[second(3)], reason="by hand")
        assert told["detail"].startswith("Teo Marsh has locked this passage")
        assert operate(ann, edition(episode), 422, kind="unlock", id=lock["id"])["code"] == "locked"
        operate(ann, edition(episode), kind="strike", ranges=[second(6)], reason="by hand")
        operate(teo, edition(episode), kind="strike", ranges=[second(3)], reason="by hand")
        assert operate(team.keeper, edition(episode), kind="unlock", id=lock["id"])["locks"] == []
        operate(ann, edition(episode), kind="strike", ranges=[second(4)], reason="by hand")


class TestGuests:
    @pytest.fixture
    def guest(self, team, episode):
        link = team.keeper.post(f"/api/editions/{edition(episode)}/guests", {"label": "Press", "days": 3}, 201)["link"]
        guest = Person(team)
        guest.me = guest.post("/api/guests/enter", {"secret": link.split("#")[1], "name": "Ann"})
        return guest

    def test_one_edition_is_heard_without_what_was_taken_out(self, team, episode, guest):
        operate(team.keeper, edition(episode), kind="strike", ranges=[second(3, 5)], reason="by hand")
        assert (guest.me["edition"], guest.me["episode"]) == (edition(episode), episode["id"])
        page = guest.get(f"/api/editions/{edition(episode)}/page")
        said = [token["text"] for passage in page["passages"] for token in passage["tokens"] if token["k"] == "w"]
        assert said == [f"word{n}" for n in range(10) if n not in (3, 4)]
        blocks = guest.get(f"/api/editions/{edition(episode)}/blocks")["blocks"]
        assert guest.client.get(f"/api/editions/{edition(episode)}/sound/{blocks[0]['key']}").status_code == 200
        assert guest.get(f"/api/editions/{edition(episode)}/plan?mode=recorded", 403)["code"] == "not-allowed-to"

    def test_nothing_else_is_told(self, team, episode, guest):
        other = team.keeper.post(f"/api/episodes/{episode['id']}/editions", {"name": "Secret"}, 201)["id"]
        seen = guest.get(f"/api/episodes/{episode['id']}")
        assert [each["name"] for each in seen["editions"]] == ["Programme"]
        assert not any(seen[each] for each in ("recordings", "exports", "jobs", "notes", "people", "selects", "texts"))
        recording = episode["recordings"][0]["id"]
        for path in (
            f"/api/editions/{other}", f"/api/recordings/{recording}/picture", f"/api/editions/{edition(episode)}/history",
            "/api/shows", "/api/search?words=word1", "/api/notices", f"/api/episodes/{episode['id']}/picture",
        ):  # fmt: skip
            assert guest.get(path, 403)["code"] == "not-allowed-to"

    def test_they_write_notes_and_see_their_own(self, team, episode, guest):
        path = f"/api/episodes/{episode['id']}/notes"
        kept = team.keeper.post(path, {"edition": edition(episode), "laid": 0, "text": "between us"}, 201)
        note = guest.post(path, {"edition": edition(episode), "text": "Cut this?", "cuts": [second(2)]}, 201)
        assert note["who"] == "Ann (guest)"
        assert [each["text"] for each in guest.get(f"/api/episodes/{episode['id']}")["notes"]] == ["Cut this?"]
        assert guest.post(f"{path}/{kept['id']}/answers", {"text": "ha"}, 404)["code"] == "no-note"
        operation = {"kind": "strike", "ranges": [second(1)], "reason": "by hand"}
        asked = {"revision": 1, "operation": operation}
        assert guest.post(f"/api/editions/{edition(episode)}/operations", asked, 403)["code"] == "not-allowed-to"
        guest.delete(f"{path}/{note['id']}")

    def test_the_link_ends_and_with_it_the_visit(self, team, episode, guest):
        (link,) = team.keeper.get(f"/api/shows/{episode['show_id']}/team")["guests"]
        assert link["label"] == "Press"
        team.keeper.delete(f"/api/guests/{link['id']}")
        guest.get(f"/api/editions/{edition(episode)}", 401)

    def test_a_link_that_is_too_old_lets_nobody_in(self, team, episode):
        with team.workshop.home.database.write() as session:
            from jaskel.store.models import EditionRow

            row = session.get_one(EditionRow, edition(episode))
            _, secret = accounts.let_guests_in(session, row, "Press", now() - timedelta(seconds=1))
        asked = {"secret": secret, "name": "Ann"}
        assert Person(team).post("/api/guests/enter", asked, 422)["code"] == "no-guest-link"


def test_people_see_each_other_on_the_page(team, episode):
    teo = team.member("Teo Marsh", episode["show_id"], "editor")
    path = f"/api/editions/{edition(episode)}/here"
    assert teo.post(path, {"at": 3 * RATE})["others"] == []
    assert team.keeper.post(path, {"at": 0})["others"] == [{"name": "Teo Marsh", "initials": "TM", "at": 3 * RATE}]


def test_a_jaskel_of_one_person_knows_no_roles(jaskel):
    assert {*jaskel.episode()["may"]} == EVERYTHING
