"""What a page is told over its live connection beside samples: what was changed, states of the whole, present
values alone; and that one wrong tag costs that tag only."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient, WebSocketTestSession

from cronaca.api.pushing import STATES, State
from cronaca.api.routes import live
from cronaca.core.access import Actor, Permission
from cronaca.core.model import SECOND, Gap, GapReason, Series, ValueType
from cronaca.core.outputs import RunMark
from cronaca.db import Store
from cronaca.db.topics import read_counts
from tests.api.conftest import Plant
from tests.api.setup_support import MODBUS
from tests.support.builders import NOW, a_flush
from tests.support.signed_in import app_of

UNKNOWN = "0" * 36


def post(path: str, body: dict[str, Any]) -> Callable[[Plant], None]:
    def change(plant: Plant) -> None:
        answer = plant.client.post(f"/api{path}", json=body)
        assert answer.status_code < 300, answer.text

    return change


def edit(plant: Plant) -> None:
    sample = {"t_us": str(NOW + SECOND), "v": 5.5, "q": 0}
    body = {"tag": plant.tags["temperature"].uid, "kind": "replace", "reason": "x", "samples": [sample]}
    assert plant.client.post("/api/history/edits", json=body).status_code == 201


def export(plant: Plant) -> None:
    tags = [plant.tags["temperature"].uid]
    body = {"kind": "export_samples", "tags": tags, "start_us": str(NOW), "end_us": str(NOW + SECOND)}
    assert plant.client.post("/api/jobs", json=body).status_code == 201


def flush(*outputs: Any) -> Callable[[Plant], None]:  # noqa: ANN401
    def change(plant: Plant) -> None:
        plant.seq += 1
        plant.sink.commit(a_flush(plant.epoch, plant.seq, {}, NOW + 2000 * SECOND, outputs))

    return change


GAP = Gap(NOW, NOW + SECOND, GapReason.SOURCE_DOWN, "")
CHANGES: list[tuple[set[str], Callable[[Plant], None]]] = [
    ({"notes"}, post("/notes", {"start_us": str(NOW), "text": "Door open"})),
    ({"runs"}, post("/runs", {"name": "Trial"})),
    ({"sheets"}, post("/sheets", {"name": "Zone 1", "view": "last=PT1H"})),
    ({"source"}, post("/setup/sources", MODBUS)),
    ({"jobs"}, export),
    ({"history", "coverage"}, edit),
    ({"coverage"}, flush(GAP)),
    ({"runs"}, flush(RunMark(1, "tag", NOW, True, "Lot 7", ()))),
    (set(), flush()),
]


@pytest.mark.parametrize(("topics", "change"), CHANGES)
def test_a_change_counts_for_its_kind_and_for_no_other(
    plant: Plant, topics: set[str], change: Callable[[Plant], None]
) -> None:
    def counts() -> dict[str, int]:
        with plant.store.snapshot() as tx:
            return read_counts(tx)

    before = counts()
    change(plant)
    assert {topic for topic, count in counts().items() if count != before[topic]} == topics


def messages_until(socket: WebSocketTestSession, wanted: Callable[[dict[str, Any]], bool]) -> dict[str, Any]:
    for _ in range(60):
        message = json.loads(socket.receive_text())
        if wanted(message):
            return dict(message)
    raise AssertionError("it did not come")


def of_type(kind: str) -> Callable[[dict[str, Any]], bool]:
    return lambda message: message["type"] == kind


def ask(socket: WebSocketTestSession, **subscription: object) -> None:
    socket.send_text(json.dumps(subscription))


def test_all_counts_come_at_first_and_then_what_has_changed(plant: Plant) -> None:
    with plant.client.websocket_connect("/api/live") as socket:
        ask(socket, topics=["changes"])
        first = messages_until(socket, of_type("changed"))["counts"]
        assert set(first) >= {"notes", "runs", "tag"}
        assert plant.client.post("/api/notes", json={"start_us": str(NOW), "text": "x"}).status_code == 201
        news = messages_until(socket, of_type("changed"))["counts"]
        assert news == {"notes": str(int(first["notes"]) + 1)}


def test_states_are_those_of_the_api(plant: Plant) -> None:
    with plant.client.websocket_connect("/api/live") as socket:
        ask(socket, topics=["health", "recorder"])
        for name, path in (("health", "/api/health"), ("recorder", "/api/recorder")):
            message = messages_until(socket, lambda one, name=name: one.get("of") == name)  # type: ignore[misc]
            assert set(message["state"]) == set(plant.client.get(path).json())


def test_present_values_alone_come_without_samples(plant: Plant) -> None:
    uid = plant.tags["temperature"].uid
    with plant.client.websocket_connect("/api/live") as socket:
        ask(socket, values=[uid])
        at_us = NOW + 2000 * SECOND
        plant.commit("temperature", Series.of(ValueType.FLOAT, [at_us], [12.5]), at_us)
        kinds = set()

        def newest(message: dict[str, Any]) -> bool:
            kinds.add(message["type"])
            return message["type"] == "values" and bool(message["values"][0]["t_us"] == str(at_us))

        assert messages_until(socket, newest)["values"][0]["v"] == 12.5
        assert "samples" not in kinds


def test_a_tag_that_is_gone_costs_itself_only(plant: Plant) -> None:
    uid = plant.tags["temperature"].uid
    with plant.client.websocket_connect("/api/live") as socket:
        ask(socket, tags=[UNKNOWN, uid], topics=["changes"])
        refused = messages_until(socket, of_type("refused"))
        assert refused["tags"] == [UNKNOWN] and "removed" in refused["detail"]
        assert messages_until(socket, of_type("values"))["values"][0]["tag"] == uid
        ask(socket, tags=[uid], values=[UNKNOWN])
        assert messages_until(socket, of_type("refused"))["tags"] == [UNKNOWN]
        at_us = NOW + 2000 * SECOND
        plant.commit("temperature", Series.of(ValueType.FLOAT, [at_us], [1.0]), at_us)
        messages_until(socket, lambda m: m["type"] == "samples" and bool(m["series"]))


@pytest.mark.parametrize("subscription", [{}, {"tags": []}, {"topics": ["weather"]}])
def test_a_subscription_that_cannot_be_understood_ends_the_connection_with_a_reason(
    plant: Plant, subscription: dict[str, Any]
) -> None:
    with plant.client.websocket_connect("/api/live") as socket:
        ask(socket, **subscription)
        message = messages_until(socket, of_type("refused"))
        assert "tags" not in message and message["detail"]


def test_a_quiet_connection_says_that_it_is_alive(plant: Plant, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(live, "_ALIVE_S", 0.2)
    with plant.client.websocket_connect("/api/live") as socket:
        ask(socket, topics=["changes"])
        messages_until(socket, of_type("alive"))


def test_every_state_needs_a_permission_and_is_refused_by_itself(
    store: Store, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert {state.permission for state in STATES.values()} == {Permission.VIEW}
    hidden = {name: state for name, state in STATES.items() if name == "recorder"}
    for state in hidden.values():
        monkeypatch.setattr(live, "STATES", {**STATES, "recorder": _needing(state, Permission.CONFIGURE)})
    app = app_of(store, tmp_path)
    app.state.find_actor = lambda _: Actor("Guest", frozenset({Permission.VIEW}))
    with TestClient(app) as client, client.websocket_connect("/api/live") as socket:
        ask(socket, topics=["recorder", "health"])
        assert messages_until(socket, of_type("refused"))["topics"] == ["recorder"]
        assert messages_until(socket, of_type("state"))["of"] == "health"


def test_a_state_that_cannot_be_read_costs_itself_only(
    store: Store, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*_: object) -> Any:  # noqa: ANN401
        raise ZeroDivisionError("a fault of our own")

    broken = State(fails, 0.0, Permission.VIEW)
    monkeypatch.setattr("cronaca.api.pushing.STATES", {**STATES, "recorder": broken})
    with (
        TestClient(app_of(store, tmp_path)) as client,
        client.websocket_connect("/api/live") as socket,
    ):
        ask(socket, topics=["recorder", "health"])
        message = messages_until(
            socket, lambda one: one.get("of") == "health" and bool(one["state"]["faults"])
        )
        assert "state recorder" in message["state"]["faults"][0]


def _needing(state: Any, permission: Permission) -> Any:  # noqa: ANN401
    return type(state)(state.read, state.every_s, permission, state.away)
