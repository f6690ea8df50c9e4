"""Whoever is not signed in."""

from __future__ import annotations

from fastapi import FastAPI
from starlette.testclient import TestClient

from tests.api.people.support import (
    OPERATOR,
    add_operator,
    browser,
    settled,
)
from tests.support.application import wait_for
from tests.support.builders import NOW


class TestGuests:
    """Whoever is not signed in, where the administrators let guests look."""

    def allow(self, admin: TestClient, *, enabled: bool = True) -> None:
        seen = admin.get("/api/people/guest-view").json()
        answer = admin.put("/api/people/guest-view", json={**seen, "enabled": enabled})
        assert (answer.status_code, answer.json()["enabled"]) == (200, enabled)

    def test_guests_look_where_they_may_and_are_asked_to_sign_in_for_the_rest(
        self, app: FastAPI, admin: TestClient
    ) -> None:
        guest = browser(app)
        assert guest.get("/api/tags").status_code == 401, "off as long as nobody switches it on"
        self.allow(admin)
        wait_for(lambda: guest.get("/api/tags").status_code == 200, 10, what="the guest view")
        me = guest.get("/api/me").json()
        assert (me["name"], me["account"], me["is_guest"], me["permissions"]) == (
            "Guest",
            None,
            True,
            ["view"],
        )
        for method, path, body in (
            ("POST", "/api/notes", {}), ("POST", "/api/jobs", {}), ("GET", "/api/people", None),
            ("PUT", "/api/setup/plant", {}), ("GET", "/api/me/sessions", None),
            ("POST", "/api/me/tokens", {"name": "x", "permissions": ["view"], "ends_us": str(NOW)}),
            ("POST", "/api/me/password", {"old": "one", "new": "other"}),
        ):  # fmt: skip
            answer = guest.request(method, path, json=body)
            assert answer.status_code == 401, (path, answer.text)
        assert "'annotate', which guests do not have" in guest.post("/api/notes", json={}).json()["detail"]
        self.allow(admin, enabled=False)
        wait_for(lambda: guest.get("/api/tags").status_code == 401, 10, what="its end")

    def test_a_session_that_has_ended_is_a_guest_and_what_it_sends_is_refused(
        self, app: FastAPI, admin: TestClient
    ) -> None:
        add_operator(admin)
        other = settled(browser(app))
        self.allow(admin)
        uid = next(one["uid"] for one in admin.get("/api/people").json() if one["name"] == OPERATOR)
        assert admin.delete(f"/api/people/{uid}/sessions").status_code == 204
        wait_for(lambda: other.get("/api/me").json()["is_guest"], 10, what="the end of the session")
        note = other.post("/api/notes", json={"start_us": str(NOW), "text": "steam was low"})
        assert note.status_code == 401, "so that the page asks to sign in, and sends it again"

    def test_a_token_that_has_ended_is_no_guest(self, app: FastAPI, admin: TestClient) -> None:
        self.allow(admin)
        answer = browser(app).get("/api/tags", headers={"Authorization": "Bearer of nothing"})
        assert answer.status_code == 401

    def test_two_who_switch_it_do_not_overwrite_each_other(self, admin: TestClient) -> None:
        seen = admin.get("/api/people/guest-view").json()
        self.allow(admin)
        answer = admin.put("/api/people/guest-view", json={**seen, "enabled": False})
        assert answer.status_code == 409
        assert admin.get("/api/people/guest-view").json()["enabled"]

    def test_health_names_nothing_to_who_may_not_see_the_plant(self, app: FastAPI, admin: TestClient) -> None:
        told = browser(app).get("/api/health").json()
        assert (told["recorder"], told["sources"], told["disks"], told["worker"]) == (None, [], [], None)
        assert admin.get("/api/health").json()["recorder"] is not None
