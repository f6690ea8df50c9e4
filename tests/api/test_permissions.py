"""One door for what people change: every route states a permission, and what was done is on record with its
person."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute, APIWebSocketRoute
from starlette.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from cronaca.api.app import _routes, create_app
from cronaca.api.permissions import May
from cronaca.core.access import Actor, Permission
from cronaca.core.errors import InvalidInput
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.logbook import actions
from cronaca.plant.changes import By
from cronaca.services.acting import Act, act, act_apart
from tests.api.setup_support import Api
from tests.support.builders import NOW
from tests.support.signed_in import ANYBODY

OWN = {"/api/me", "/api/me/password", "/api/me/sessions", "/api/me/sessions/{uid}", "/api/me/tokens",
    "/api/me/tokens/{uid}",
}  # fmt: skip
"""Whoever is signed in may ask these, whatever their role."""
OPEN = {"/api/alive", "/api/health", "/api/session", "/api/first", *OWN}
"""Whoever reaches the server may ask these."""
READS = {
    "/api/figures", "/api/figures/explain", "/api/formulas/check", "/api/series/derived",
    "/api/setup/rehearse", "/api/setup/classes/{uid}/plan", "/api/setup/classes/{uid}/equipment/plan",
    "/api/statistics/sheet",
    "/api/statistics/drilldown", "/api/statistics/stretches", "/api/statistics/scatter",
    "/api/statistics/control", "/api/tags/sisters", "/api/tags/sisters/equipment",
}  # fmt: skip
"""Posts that compute and change nothing."""
ROUTES = [route for route in _routes() if isinstance(route, APIRoute | APIWebSocketRoute)]
UID = "11111111-1111-1111-1111-111111111111"


def permissions_of(dependant: Dependant) -> set[Permission]:
    found = {dependant.call.permission} if isinstance(dependant.call, May) else set()
    return found.union(*(permissions_of(one) for one in dependant.dependencies))


def name_of(route: APIRoute | APIWebSocketRoute) -> str:
    return f"{'/'.join(getattr(route, 'methods', ['WS']))} {route.path}"


@pytest.mark.parametrize("route", ROUTES, ids=name_of)
def test_every_route_states_the_permission_that_it_needs(route: APIRoute | APIWebSocketRoute) -> None:
    stated = permissions_of(route.dependant)
    if route.path in OPEN:
        assert stated == set()
        return
    manages = route.path.startswith("/api/people")
    assert (Permission.MANAGE_PEOPLE if manages else Permission.VIEW) in stated
    if manages:
        return
    changes = isinstance(route, APIRoute) and route.methods != {"GET"} and route.path not in READS
    assert (stated != {Permission.VIEW}) == changes


class TestWithout:
    """Who may do nothing is refused by each route before anything of the request is looked at."""

    @pytest.fixture(scope="class")
    def client(self, module_store: Store, tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
        app = create_app(module_store, tmp_path_factory.mktemp("web"))
        app.state.find_actor = lambda _: Actor("Guest", frozenset())
        with TestClient(app) as client:
            yield client

    @pytest.mark.parametrize("route", [r for r in ROUTES if r.path not in OPEN], ids=name_of)
    def test_nothing_is_allowed(self, client: TestClient, route: APIRoute | APIWebSocketRoute) -> None:
        path = re.sub(r"{\w+}", UID, route.path.replace("{form}", "html").replace("{change_id}", "1"))
        if isinstance(route, APIWebSocketRoute):
            with pytest.raises(WebSocketDisconnect), client.websocket_connect(path):
                pass
            return
        (method,) = route.methods or {"GET"}
        answer = client.request(method, path, headers={"Content-Type": "application/json"})
        assert answer.status_code == 403, answer.text
        assert answer.json()["type"] == "urn:cronaca:problem:not-permitted"


def test_one_who_may_look_may_not_change(store: Store, tmp_path: Path) -> None:
    app = create_app(store, tmp_path)
    app.state.find_actor = lambda _: Actor("Guest", frozenset({Permission.VIEW}))
    with TestClient(app) as client:
        me = client.get("/api/me").json()
        assert (me["name"], me["permissions"], me["account"]) == ("Guest", ["view"], None)
        note = {"start_us": str(NOW), "text": "seen"}
        answer = client.post("/api/notes", json=note)
        assert answer.status_code == 403
        assert "'annotate', which Guest does not have" in answer.json()["detail"]
        assert client.get(f"/api/notes?start={NOW - 1}&end={NOW + 1}").json() == []


def recorded(store: Store) -> list[tuple[str, str, str, str, Any, Any]]:
    with store.snapshot() as tx:
        found = actions.list_actions(tx)
    assert {one.person for one in found} == {"Operator"}
    return [
        (one.permission, one.kind, one.action, one.name, one.before, one.after) for one in reversed(found)
    ]


def test_what_a_person_did_is_on_record_with_before_and_after(api: Api, store: Store) -> None:
    run = api.ok("POST", "/runs", {"name": "Trial", "start_us": str(NOW)})
    api.ok("PATCH", f"/runs/{run['uid']}", {"name": "Trial 2"})
    api.ok("DELETE", f"/runs/{run['uid']}")
    found = recorded(store)
    assert [row[:4] for row in found] == [
        ("annotate", "run", "added", "Trial"), ("annotate", "run", "changed", "Trial 2"),
        ("annotate", "run", "removed", "Trial 2"),
    ]  # fmt: skip
    assert [(before and before["name"], after and after["name"]) for *_, before, after in found] == [
        (None, "Trial"), ("Trial", "Trial 2"), ("Trial 2", None),
    ]  # fmt: skip


def test_sheets_notes_and_reports_leave_a_trail_too(api: Api, store: Store) -> None:
    sheet = api.ok("POST", "/sheets", {"name": "Dryer", "view": "v=1"})
    api.ok("PUT", f"/sheets/{sheet['uid']}", {"name": "Dryer", "view": "v=2"})
    note = api.ok("POST", "/notes", {"start_us": str(NOW), "text": "steam was low"})
    api.ok("PUT", f"/notes/{note['uid']}", {"text": "steam was too low"})
    api.ok("DELETE", f"/notes/{note['uid']}")
    api.ok("DELETE", f"/sheets/{sheet['uid']}")
    assert [row[:3] for row in recorded(store)] == [
        ("save_views", "sheet", "added"), ("save_views", "sheet", "changed"), ("annotate", "note", "added"),
        ("annotate", "note", "changed"), ("annotate", "note", "removed"), ("save_views", "sheet", "removed"),
    ]  # fmt: skip


def test_what_was_refused_leaves_nothing_and_what_was_asked_says_how_it_ended(store: Store) -> None:
    who = ANYBODY.permitted(Permission.WRITE_VALUES)

    def refused(_: By) -> None:
        raise InvalidInput("value", "device-refuses", "the device refuses it", "Ask for another.")

    def noted_and_refused(_: Transaction, by: Act) -> None:
        by.note("run", UID, None, {"name": "x"})
        refused(by)

    with pytest.raises(InvalidInput):
        act(store, who, noted_and_refused)
    with store.snapshot() as tx:
        assert actions.list_actions(tx) == []
    with pytest.raises(InvalidInput):
        act_apart(store, who, "tag", UID, "valve", {"value": 1}, refused)
    with pytest.raises(ZeroDivisionError):
        act_apart(store, who, "tag", UID, "valve", {"value": 2}, lambda _: 1 // 0)
    act_apart(store, who, "tag", UID, "valve", {"value": 3}, lambda by: by.person)
    with store.snapshot() as tx:
        found = [(one.after, one.outcome) for one in reversed(actions.list_actions(tx))]
    assert found == [
        ({"value": 1}, "refused: value: the device refuses it. Ask for another."), ({"value": 2}, "failed"),
        ({"value": 3}, "done"),
    ]  # fmt: skip
