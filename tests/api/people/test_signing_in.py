"""Sign-in, sessions and accounts through the HTTP interface."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from argon2 import PasswordHasher
from fastapi import FastAPI
from starlette.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from cronaca.api.app import ServerOptions, create_app
from cronaca.core.errors import NotSignedIn, TooManyAttempts
from cronaca.core.model import HOUR, SECOND
from cronaca.core.people import SessionLimits
from cronaca.db import Store
from cronaca.logbook import actions
from cronaca.services.people.signing_in import From
from tests.api.people.support import (
    ADMIN,
    ADMIN_WORD,
    NEW_WORD,
    OPERATOR,
    OPERATOR_WORD,
    add_operator,
    browser,
    settled,
    sign_in,
)
from tests.support.application import wait_for
from tests.support.builders import NOW
from tests.support.checks import now_us


class TestFirstStart:
    def test_without_an_account_only_the_first_one_can_be_set_up(self, app: FastAPI) -> None:
        with TestClient(app) as anybody, TestClient(app) as client:
            for path in ("/api/me", "/api/tags", "/api/plant", "/api/people"):
                answer = anybody.get(path)
                assert (answer.status_code, answer.json()["type"]) == (
                    401,
                    "urn:cronaca:problem:not-signed-in",
                )
                assert "Set up the first administrator" in answer.json()["detail"]
            assert anybody.post("/api/notes", json={"start_us": str(NOW), "text": "seen"}).status_code == 401
            assert client.get("/api/first").json() == {"is_needed": True}
            wrong = {"name": ADMIN, "password": ADMIN_WORD, "code": "00000000"}
            refused = client.post("/api/first", json=wrong)
            assert (refused.status_code, refused.json()["errors"][0]["field"]) == (422, "code")
            client.post("/api/first", json={**wrong, "code": app.state.people.first_code})
            me = client.get("/api/me").json()
            assert me["name"] == ADMIN and "manage_people" in me["permissions"]
            assert client.get("/api/first").json() == {"is_needed": False}
            assert anybody.get("/api/tags").status_code == 401
            assert anybody.get("/api/alive").status_code == 200

    def test_there_is_only_one_first_administrator(self, app: FastAPI, admin: TestClient) -> None:
        again = {"name": "Other", "password": NEW_WORD, "code": app.state.people.first_code}
        assert admin.post("/api/first", json=again).status_code == 403
        assert [one["name"] for one in admin.get("/api/people").json()] == [ADMIN]

    @pytest.mark.parametrize(
        "password", ["xwkdu8", "aaaaaaaaaaaa", "passwordpassword", "qwertyuiop123", "Marta Olm Marta"]
    )
    def test_a_password_that_is_easy_to_guess_is_refused(self, app: FastAPI, password: str) -> None:
        with TestClient(app) as client:
            body = {"name": ADMIN, "password": password, "code": app.state.people.first_code}
            answer = client.post("/api/first", json=body)
            assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "password")
            assert password not in answer.text
            assert client.get("/api/first").json() == {"is_needed": True}


class TestSessions:
    def test_the_cookie_is_for_no_script_and_no_other_site(self, app: FastAPI, admin: TestClient) -> None:
        said = sign_in(browser(app), ADMIN, ADMIN_WORD).headers["set-cookie"]
        assert "HttpOnly" in said and "SameSite=lax" in said and "Path=/" in said and "Secure" not in said
        assert said.startswith("session=")
        with TestClient(app, base_url="https://testserver") as secure:
            said = sign_in(secure, ADMIN, ADMIN_WORD).headers["set-cookie"]
            assert said.startswith("__Host-session=") and "; Secure" in said
            assert secure.get("/api/me").json()["name"] == ADMIN

    def test_the_database_holds_no_token_and_no_password(self, admin: TestClient, store: Store) -> None:
        token = admin.cookies["session"]
        with store.snapshot() as tx:
            rows = [*tx.fetch("SELECT * FROM session"), *tx.fetch("SELECT * FROM account")]
        assert rows and token not in repr(rows) and ADMIN_WORD not in repr(rows)
        assert "$argon2id$" in repr(rows)

    def test_signing_in_again_is_another_session(self, app: FastAPI, admin: TestClient) -> None:
        """A token that somebody has planted, or seen before, is of no use afterwards."""
        before = admin.cookies["session"]
        sign_in(admin, ADMIN, ADMIN_WORD)
        assert admin.cookies["session"] != before
        old = browser(app)
        old.cookies.set("session", before)
        assert old.get("/api/me").status_code == 401
        planted = browser(app)
        planted.cookies.set("session", "planted", domain="testserver.local", path="/")
        sign_in(planted, ADMIN, ADMIN_WORD)
        assert planted.cookies["session"] != "planted"

    def test_signed_out_a_token_is_refused(self, app: FastAPI, admin: TestClient) -> None:
        token = admin.cookies["session"]
        assert admin.delete("/api/session").status_code == 204
        replayed = browser(app)
        replayed.cookies.set("session", token)
        assert replayed.get("/api/me").status_code == 401

    def test_it_ends_when_it_was_not_used_and_after_its_time(self, store: Store, tmp_path: Path) -> None:
        now = [1_000_000 * SECOND]
        limits = SessionLimits(idle_us=HOUR, absolute_us=3 * HOUR)
        app = create_app(store, tmp_path, ServerOptions(sessions=limits))
        app.state.signs._now_us = lambda: now[0]
        with TestClient(app) as client:
            first = {"name": ADMIN, "password": ADMIN_WORD, "code": app.state.people.first_code}
            client.post("/api/first", json=first)

            def is_in() -> bool:
                app.state.signs._recalled.forget_all()
                return bool(client.get("/api/me").status_code == 200)

            for _ in range(3):
                now[0] += 50 * 60 * SECOND
                assert is_in()
            now[0] += 50 * 60 * SECOND
            assert not is_in(), "three hours are over, though it was used all the time"
            sign_in(client, ADMIN, ADMIN_WORD)
            now[0] += HOUR + SECOND
            assert not is_in(), "it was not used for an hour"
            sign_in(client, ADMIN, ADMIN_WORD)
            now[0] -= HOUR
            assert not is_in(), "a clock that is set back prolongs nothing"

    def test_one_ends_ones_own_sessions(self, app: FastAPI, admin: TestClient) -> None:
        others = [browser(app) for _ in range(3)]
        for other in others:
            sign_in(other, ADMIN, ADMIN_WORD)
        rows = admin.get("/api/me/sessions").json()
        assert len(rows) == 4 and [row["is_this"] for row in rows].count(True) == 1
        other = next(row for row in rows if not row["is_this"])
        assert admin.delete(f"/api/me/sessions/{other['uid']}").status_code == 204
        assert len(admin.get("/api/me/sessions").json()) == 3
        assert admin.delete("/api/me/sessions").status_code == 204
        for one in others:
            wait_for(lambda one=one: one.get("/api/me").status_code == 401, 10, what="the end")  # type: ignore[misc]
        assert admin.get("/api/me").status_code == 200

    def test_the_live_link_ends_with_the_session(self, app: FastAPI, admin: TestClient) -> None:
        with admin.websocket_connect("/api/live") as socket:
            socket.send_text('{"topics": ["changes"]}')
            other = browser(app)
            sign_in(other, ADMIN, ADMIN_WORD)
            other.delete("/api/me/sessions")
            with pytest.raises(WebSocketDisconnect) as ended:
                while True:
                    socket.receive_text()
            assert ended.value.code == 1008


class TestGuessing:
    def test_an_unknown_name_costs_and_says_the_same(
        self, app: FastAPI, admin: TestClient, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        looked: list[bool] = []
        real = PasswordHasher.verify

        def counting(self: PasswordHasher, kept: str, password: str) -> bool:
            looked.append(True)
            return real(self, kept, password)

        monkeypatch.setattr(PasswordHasher, "verify", counting)
        made, hash_of = [], PasswordHasher.hash

        def making(self: PasswordHasher, password: str) -> str:
            made.append(True)
            return hash_of(self, password)

        monkeypatch.setattr(PasswordHasher, "hash", making)
        client = browser(app)
        answers = []
        for name in ("nobody", ADMIN):
            made.clear()
            looked.clear()
            answer = sign_in(client, name, "wrong", 401).json()
            answers.append((answer["detail"], answer["type"], len(looked), len(made)))
        assert answers[0] == answers[1] and answers[0][2:] == (1, 0)

    def test_after_wrong_ones_the_next_has_to_wait(self, app: FastAPI, admin: TestClient) -> None:
        client = browser(app)
        for _ in range(5):
            sign_in(client, ADMIN, "wrong", 401)
        answer = sign_in(client, ADMIN, ADMIN_WORD, 429)
        assert 0 < int(answer.headers["retry-after"]) <= 15
        assert "Try again in" in answer.json()["detail"]
        sign_in(client, "nobody", "wrong", 401)  # other names are not held back

    def test_no_more_than_ten_guesses_a_minute_from_everywhere(
        self, app: FastAPI, admin: TestClient, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        signs = app.state.signs
        wrong = 0
        for i in range(30):
            try:
                signs.sign_in(ADMIN, "wrong", From(f"10.0.0.{i}"))
            except NotSignedIn:
                wrong += 1
            except TooManyAttempts:
                continue
        assert wrong == 10
        # The one who has signed in from here before is not shut out.
        sign_in(browser(app), ADMIN, ADMIN_WORD)

    def test_what_was_typed_in_vain_is_in_no_trail(
        self, app: FastAPI, admin: TestClient, store: Store
    ) -> None:
        sign_in(browser(app), "a password in the wrong field", "wrong", 401)
        with store.snapshot() as tx:
            done = actions.list_actions(tx)
        assert done[0].action == "refused" and "wrong field" not in repr(done)
        assert [one.action for one in done if one.kind == "session"][-1] == "signed in"


class TestPeople:
    def test_a_given_password_has_to_be_changed_before_anything_else(
        self, app: FastAPI, admin: TestClient
    ) -> None:
        add_operator(admin)
        client = browser(app)
        sign_in(client, OPERATOR, OPERATOR_WORD)
        assert client.get("/api/me").json()["must_change"]
        refused = client.get("/api/tags")
        assert (refused.status_code, refused.json()["type"]) == (
            403, "urn:cronaca:problem:password-change-needed",
        )  # fmt: skip
        wrong = client.post("/api/me/password", json={"old": "something else", "new": NEW_WORD})
        assert wrong.json()["errors"][0]["field"] == "old"
        same = client.post("/api/me/password", json={"old": OPERATOR_WORD, "new": OPERATOR_WORD})
        assert same.json()["errors"][0]["field"] == "new"
        client = settled(client)
        assert client.get("/api/tags").status_code == 200
        sign_in(browser(app), OPERATOR, OPERATOR_WORD, 401)

    @pytest.mark.parametrize(
        ("role", "statuses"),
        [
            ("viewer", {"notes": 403, "people": 403}),
            ("operator", {"notes": 201, "people": 403}),
            ("administrator", {"notes": 201, "people": 200}),
        ],
    )
    def test_a_role_is_what_one_may_do(
        self, app: FastAPI, admin: TestClient, role: str, statuses: dict[str, int]
    ) -> None:
        add_operator(admin, role)
        client = settled(browser(app))
        note = client.post("/api/notes", json={"start_us": str(SECOND), "text": "seen"})
        assert note.status_code == statuses["notes"]
        assert client.get("/api/people").status_code == statuses["people"]
        assert client.get("/api/tags").status_code == 200

    def test_another_role_or_none_signs_out(self, app: FastAPI, admin: TestClient) -> None:
        person = add_operator(admin)
        client = settled(browser(app))
        (person,) = [one for one in admin.get("/api/people").json() if one["name"] == OPERATOR]
        assert person["seen_us"] is not None and not person["must_change"]
        uid, revision = person["uid"], person["revision"]
        body = {"name": OPERATOR, "role": "viewer", "enabled": False, "revision": revision}
        assert admin.put(f"/api/people/{uid}", json={**body, "revision": 1}).status_code == 409
        assert admin.put(f"/api/people/{uid}", json=body).status_code == 200
        wait_for(lambda: client.get("/api/me").status_code == 401, 10, what="the end of the session")
        sign_in(client, OPERATOR, NEW_WORD, 401)

    def test_a_reset_password_ends_sessions_and_has_to_be_changed(
        self, app: FastAPI, admin: TestClient
    ) -> None:
        person = add_operator(admin)
        client = settled(browser(app))
        answer = admin.put(
            f"/api/people/{person['uid']}/password", json={"password": "maple circus thirteen ink"}
        )
        assert answer.status_code == 204
        wait_for(lambda: client.get("/api/me").status_code == 401, 10, what="the end of the session")
        sign_in(client, OPERATOR, "maple circus thirteen ink")
        assert client.get("/api/me").json()["must_change"]

    def test_the_last_administrator_stays(self, admin: TestClient) -> None:
        (me,) = admin.get("/api/people").json()
        for change in ({"role": "viewer"}, {"enabled": False}):
            body = {
                "name": ADMIN,
                "role": "administrator",
                "enabled": True,
                "revision": me["revision"],
                **change,
            }
            answer = admin.put(f"/api/people/{me['uid']}", json=body)
            assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "role")
        assert admin.delete(f"/api/people/{me['uid']}").status_code == 422
        add_operator(admin, "administrator")
        assert admin.delete(f"/api/people/{me['uid']}").status_code == 204

    def test_a_name_is_taken_once_and_free_again(self, admin: TestClient) -> None:
        person = add_operator(admin)
        body = {"name": OPERATOR.upper(), "role": "viewer", "password": NEW_WORD}
        assert admin.post("/api/people", json=body).json()["errors"][0]["field"] == "name"
        assert admin.delete(f"/api/people/{person['uid']}").status_code == 204
        assert admin.post("/api/people", json=body).status_code == 201

    @pytest.mark.parametrize(
        ("change", "field"),
        [({"name": " "}, "name"), ({"role": "king"}, "role"), ({"password": "x"}, "password")],
    )
    def test_bad_input_writes_nothing(self, admin: TestClient, change: dict[str, str], field: str) -> None:
        body = {"name": OPERATOR, "role": "viewer", "password": NEW_WORD, **change}
        answer = admin.post("/api/people", json=body)
        assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, field)
        assert len(admin.get("/api/people").json()) == 1

    def test_what_was_done_is_on_record_without_a_password(self, admin: TestClient, store: Store) -> None:
        person = add_operator(admin)
        admin.put(f"/api/people/{person['uid']}/password", json={"password": NEW_WORD})
        admin.delete(f"/api/people/{person['uid']}")
        with store.snapshot() as tx:
            done = [one for one in actions.list_actions(tx) if one.permission == "manage_people"]
        assert [(one.kind, one.action, one.name) for one in reversed(done)] == [
            ("person", "added", ADMIN), ("person", "added", OPERATOR), ("password", "changed", OPERATOR),
            ("person", "removed", OPERATOR),
        ]  # fmt: skip
        assert {one.person for one in done} == {ADMIN}
        assert OPERATOR_WORD not in repr(done) and "argon2" not in repr(done)


class TestTokens:
    def issue(self, client: TestClient, status: int = 201, **more: Any) -> dict[str, Any]:  # noqa: ANN401
        ends = str(now_us() + 24 * HOUR)
        body = {"name": "Report script", "permissions": ["view", "export"], "ends_us": ends, **more}
        answer = client.post("/api/me/tokens", json=body)
        assert answer.status_code == status, answer.text
        return dict(answer.json())

    def test_a_program_acts_with_some_of_the_permissions_of_its_person(
        self, app: FastAPI, admin: TestClient, store: Store
    ) -> None:
        made = self.issue(admin, permissions=["view", "annotate"])
        program = browser(app)
        program.headers["Authorization"] = f"Bearer {made['token']}"
        me = program.get("/api/me").json()
        assert (me["name"], me["permissions"]) == (ADMIN, ["annotate", "view"])
        assert program.get("/api/tags").status_code == 200
        assert program.post("/api/notes", json={"start_us": str(SECOND), "text": "seen"}).status_code == 201
        assert program.get("/api/people").status_code == 403
        assert program.post("/api/setup/archives", json={"name": "x"}).status_code == 403
        with store.snapshot() as tx:
            (note, *_) = actions.list_actions(tx)
        assert (note.person, (note.after or {})["by_program"]) == (ADMIN, "Report script")
        (row,) = admin.get("/api/me/tokens").json()
        assert row["used_us"] is not None and row["name"] == "Report script"
        assert made["token"] not in repr(row)

    def test_a_token_makes_no_tokens_and_changes_no_password(self, app: FastAPI, admin: TestClient) -> None:
        program = browser(app)
        program.headers["Authorization"] = f"Bearer {self.issue(admin)['token']}"
        self.issue(program, 403)
        assert program.get("/api/me/tokens").status_code == 403
        body = {"old": ADMIN_WORD, "new": NEW_WORD}
        assert program.post("/api/me/password", json=body).status_code == 403
        assert program.get("/api/me/sessions").status_code == 403

    def test_nobody_gives_what_one_has_not(self, app: FastAPI, admin: TestClient) -> None:
        self.issue(admin, 403, permissions=["manage_people"])
        add_operator(admin, "viewer")
        self.issue(settled(browser(app)), 403, permissions=["view", "configure"])

    def test_it_ends_revoked_at_its_time_and_with_its_account(self, app: FastAPI, admin: TestClient) -> None:
        person = add_operator(admin)
        client = settled(browser(app))
        made = self.issue(client)
        program = browser(app)
        program.headers["Authorization"] = f"Bearer {made['token']}"
        assert program.get("/api/tags").status_code == 200
        real = app.state.tokens._now_us
        app.state.tokens._now_us = lambda: real() + 25 * HOUR
        assert program.get("/api/tags").status_code == 401
        app.state.tokens._now_us = real
        assert client.delete(f"/api/me/tokens/{made['uid']}").status_code == 204
        assert client.delete(f"/api/me/tokens/{made['uid']}").status_code == 404
        refused = program.get("/api/tags")
        assert refused.status_code == 401 and "revoked" in refused.json()["detail"]
        program.headers["Authorization"] = f"Bearer {self.issue(client)['token']}"
        assert program.get("/api/tags").status_code == 200
        assert admin.delete(f"/api/people/{person['uid']}").status_code == 204
        wait_for(lambda: program.get("/api/tags").status_code == 401, 10, what="the end of the token")

    @pytest.mark.parametrize(
        ("change", "field"),
        [
            ({"name": " "}, "name"), ({"permissions": []}, "permissions"), ({"ends_us": "1"}, "ends_us"),
            ({"ends_us": str(10**17)}, "ends_us"),
        ],
    )  # fmt: skip
    def test_bad_input_makes_none(self, admin: TestClient, change: dict[str, Any], field: str) -> None:
        assert self.issue(admin, 422, **change)["errors"][0]["field"] == field
        assert admin.get("/api/me/tokens").json() == []

    def test_the_database_holds_no_token(self, admin: TestClient, store: Store) -> None:
        made = self.issue(admin)
        with store.snapshot() as tx:
            rows = [*tx.fetch("SELECT * FROM program_token"), *tx.fetch("SELECT * FROM person_action")]
        assert rows and made["token"] not in repr(rows)


def test_a_name_in_the_note_is_that_of_who_is_signed_in(admin: TestClient) -> None:
    made = admin.post("/api/notes", json={"start_us": str(SECOND), "text": "seen"}).json()
    assert made["author"] == ADMIN if "author" in made else made["person"] == ADMIN
