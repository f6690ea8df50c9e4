"""Roles of an installation's own through the HTTP interface."""

from __future__ import annotations

from typing import Any, Final

import pytest
from fastapi import FastAPI
from starlette.testclient import TestClient

from cronaca.core.model import HOUR
from cronaca.db import Store
from cronaca.logbook import actions
from tests.api.people.support import (
    OPERATOR_WORD,
    add_operator,
    browser,
    settled,
)
from tests.support.application import wait_for
from tests.support.builders import NOW
from tests.support.checks import now_us


class TestOwnRoles:
    """Roles of an installation beside those of the program."""

    SHIFT: Final = {"name": "Shift leader", "permissions": ["view", "annotate", "write_values"]}

    def made(self, admin: TestClient) -> dict[str, Any]:
        answer = admin.post("/api/people/roles", json=self.SHIFT)
        assert answer.status_code == 201, answer.text
        return dict(answer.json())

    def test_who_has_it_may_what_it_says_and_what_is_changed_holds_at_once(
        self, app: FastAPI, admin: TestClient
    ) -> None:
        role = self.made(admin)
        add_operator(admin, role["key"])
        other = settled(browser(app))
        assert other.get("/api/me").json()["permissions"] == ["annotate", "view", "write_values"]
        listed = {one["name"]: one for one in admin.get("/api/people/roles").json()}
        assert (listed["Shift leader"]["people"], listed["administrator"]["people"]) == (1, 1)
        note = {"start_us": str(NOW), "text": "steam was low"}
        assert other.post("/api/notes", json=note).status_code == 201
        assert other.post("/api/jobs", json={}).status_code == 403
        less = {**self.SHIFT, "permissions": ["view"], "revision": role["revision"]}
        assert admin.put(f"/api/people/roles/{role['uid']}", json=less).status_code == 200
        wait_for(lambda: other.post("/api/notes", json=note).status_code == 403, 10, what="the change")
        again = admin.put(f"/api/people/roles/{role['uid']}", json=less)
        assert again.status_code == 409, "of a revision that is not the present one"

    def test_a_token_does_what_both_its_role_and_itself_may(self, app: FastAPI, admin: TestClient) -> None:
        role = self.made(admin)
        add_operator(admin, role["key"])
        other = settled(browser(app))
        ends = str(now_us() + HOUR)
        asked = {"name": "x", "permissions": ["view", "annotate"], "ends_us": ends}
        token = other.post("/api/me/tokens", json=asked).json()["token"]
        program = {"Authorization": f"Bearer {token}"}
        note = {"start_us": str(NOW), "text": "steam was low"}
        nobody = browser(app)
        assert nobody.post("/api/notes", json=note, headers=program).status_code == 201
        less = {**self.SHIFT, "permissions": ["view"], "revision": role["revision"]}
        admin.put(f"/api/people/roles/{role['uid']}", json=less)
        wait_for(
            lambda: nobody.post("/api/notes", json=note, headers=program).status_code == 403, 10,
            what="the change",
        )  # fmt: skip
        beyond = {**asked, "permissions": ["view", "correct_history"]}
        assert other.post("/api/me/tokens", json=beyond).status_code == 403

    @pytest.mark.parametrize(
        ("change", "field"),
        [({"name": "Engineer"}, "name"), ({"name": " "}, "name"), ({"name": "shift leader"}, "name"),
         ({"permissions": ["annotate"]}, "permissions"), ({"permissions": ["view", "fly"]}, "permissions.1"),
         ({"permissions": ["view", "manage_people"]}, "permissions")],
    )  # fmt: skip
    def test_one_that_cannot_be_is_refused(
        self, admin: TestClient, change: dict[str, Any], field: str
    ) -> None:
        self.made(admin)
        answer = admin.post("/api/people/roles", json={**self.SHIFT, "name": "Other", **change})
        assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, field), answer.text
        assert len(admin.get("/api/people/roles").json()) == 5

    def test_one_that_somebody_has_is_not_removed(self, admin: TestClient) -> None:
        role = self.made(admin)
        person = add_operator(admin, role["key"])
        refused = admin.delete(f"/api/people/roles/{role['uid']}")
        assert (refused.status_code, refused.json()["errors"][0]["code"]) == (422, "role-in-use")
        assert admin.delete(f"/api/people/{person['uid']}").status_code == 204
        assert admin.delete(f"/api/people/roles/{role['uid']}").status_code == 204
        unknown = {"name": "x", "role": role["key"], "password": OPERATOR_WORD}
        assert admin.post("/api/people", json=unknown).status_code == 422

    def test_what_was_done_to_roles_is_on_record(self, admin: TestClient, store: Store) -> None:
        role = self.made(admin)
        admin.delete(f"/api/people/roles/{role['uid']}")
        with store.snapshot() as tx:
            found = [(one.kind, one.action, one.name) for one in actions.list_actions(tx)[:2]]
        assert found == [("role", "removed", "Shift leader"), ("role", "added", "Shift leader")]
