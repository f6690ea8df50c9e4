"""One request costs itself: no size, nesting, type, host or number of them costs anybody else."""

from __future__ import annotations

import asyncio
import concurrent.futures
import json
import threading
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from cronaca.api.admission import Turns, check_depth
from cronaca.api.app import ServerOptions
from cronaca.core.errors import Cancelled, InvalidInput, Overloaded, StoreBusy
from cronaca.core.model import SECOND, Series, ValueType
from cronaca.db import Store
from cronaca.logbook.background import StoreBackground
from cronaca.logbook.texts import codes_of
from cronaca.plant.sources import list_sources
from tests.api.conftest import Plant, plant
from tests.support.builders import NOW
from tests.support.signed_in import app_of

__all__ = ["plant"]


class TestPool:
    def test_waiting_for_a_connection_has_an_end(self, store: Store) -> None:
        small = Store(store.address, connections=1, wait_s=0.2)
        held, go = threading.Event(), threading.Event()

        def hold() -> None:
            with small.snapshot():
                held.set()
                go.wait(10)

        thread = threading.Thread(target=hold)
        thread.start()
        held.wait(10)
        with pytest.raises(StoreBusy), small.snapshot():
            pass
        go.set()
        thread.join()
        with small.snapshot() as tx:
            assert tx.fetch("SELECT 1") == [(1,)]
        small.close()

    def test_nobody_holds_two_connections(self, store: Store) -> None:
        with store.snapshot(), pytest.raises(RuntimeError, match="holds a connection"), store.snapshot():
            pass

    def test_a_pool_that_is_used_up_is_a_503_that_says_when_to_come_again(self, plant: Plant) -> None:
        busy = Store(plant.store.address, connections=1, wait_s=0.1)
        held, go = threading.Event(), threading.Event()

        def hold() -> None:
            with busy.snapshot():
                held.set()
                go.wait(20)

        threading.Thread(target=hold, daemon=True).start()
        held.wait(10)
        with TestClient(app_of(busy, Path())) as client:
            answer = client.get("/api/tags")
            assert (answer.status_code, answer.headers["Retry-After"]) == (503, "5")
            assert answer.json()["type"] == "urn:cronaca:problem:database-busy"
            assert client.get("/api/health").status_code == 200, "it has a connection of its own"
            go.set()


def test_many_figures_of_texts_and_numbers_at_once_all_come(plant: Plant) -> None:
    """Each of these held a connection while it asked for a second one: eight hung the server for good."""
    lots = Series.of(ValueType.INTEGER, NOW + np.arange(20) * SECOND, np.arange(20))
    with plant.store.transaction() as tx:
        codes = codes_of(tx, [f"L{i}" for i in range(20)])
    text = Series(ValueType.TEXT, lots.ts_us, np.array(codes, np.int64), lots.quality)
    plant.commit("lot", text, NOW + 1000 * SECOND)
    tags = [plant.tags[name].uid for name in ("lot", "temperature")]
    body = {
        "tags": tags, "windows": [{"start_us": str(NOW), "end_us": str(NOW + 1000 * SECOND)}],
        "figures": [{"stat": "Start"}, {"stat": "End"}, {"stat": "Count"}],
    }  # fmt: skip
    with concurrent.futures.ThreadPoolExecutor(24) as pool:
        asked = [pool.submit(plant.client.post, "/api/figures", json=body) for _ in range(24)]
        answers = [one.result(60) for one in asked]
    assert {answer.status_code for answer in answers} == {200}
    assert plant.client.get("/api/health").status_code == 200


class TestTurns:
    async def test_as_many_run_as_may_and_the_rest_wait_in_order(self) -> None:
        turns, running, most = Turns(2, 10, 5.0), 0, 0
        nobody: asyncio.Future[None] = asyncio.get_running_loop().create_future()

        async def work() -> None:
            nonlocal running, most
            async with turns.take(nobody):
                running += 1
                most = max(most, running)
                await asyncio.sleep(0.01)
                running -= 1

        await asyncio.gather(*(work() for _ in range(10)))
        assert (most, turns.waiting) == (2, 0)

    async def test_too_many_and_too_long_are_refused_and_one_that_left_gives_its_turn_back(self) -> None:
        turns = Turns(1, 1, 0.1)
        loop = asyncio.get_running_loop()
        stays: asyncio.Future[None] = loop.create_future()
        leaves: asyncio.Future[None] = loop.create_future()
        async with turns.take(stays):
            waiting = asyncio.create_task(self._wait(turns, stays))
            await asyncio.sleep(0)
            with pytest.raises(Overloaded):
                await self._wait(turns, stays)
            with pytest.raises(Overloaded):
                await waiting
            gone = asyncio.create_task(self._wait(turns, leaves))
            await asyncio.sleep(0)
            leaves.set_result(None)
            with pytest.raises(Cancelled):
                await gone
        await self._wait(turns, stays)

    async def _wait(self, turns: Turns, gone: asyncio.Future[None]) -> None:
        async with turns.take(gone):
            pass


class TestBodies:
    def test_a_body_beyond_the_limit_of_its_route_is_refused_before_it_is_read(self, plant: Plant) -> None:
        headers = {"Content-Type": "application/json"}
        answer = plant.client.post("/api/sheets", content=b"[" + b"1," * 700_000 + b"1]", headers=headers)
        assert (answer.status_code, answer.json()["type"]) == (413, "urn:cronaca:problem:too-large")

    @pytest.mark.parametrize("path", ["/api/figures", "/api/setup/document", "/api/sheets"])
    def test_deep_nesting_is_refused_quickly(self, plant: Plant, path: str) -> None:
        headers = {"Content-Type": "application/json"}
        answer = plant.client.post(path, content=b'{"a":' * 5_000 + b"1" + b"}" * 5_000, headers=headers)
        assert answer.status_code == 422
        assert "nested" in answer.json()["detail"]

    def test_brackets_in_texts_are_no_nesting(self) -> None:
        check_depth(json.dumps({"name": "[" * 500 + '"' * 3 + "{" * 500}).encode(), b"application/json")
        with pytest.raises(InvalidInput):
            check_depth(b"[" * 65 + b"]" * 65, b"application/json")

    def test_a_body_of_another_type_is_refused(self, plant: Plant) -> None:
        """Other web pages can send plain text and forms without asking first."""
        for kind in ("text/plain", "application/x-www-form-urlencoded"):
            for path in ("/api/sheets", "/api/setup/tags/import?write=true", "/api/setup/document"):
                answer = plant.client.post(path, content=b"{}", headers={"Content-Type": kind})
                assert (answer.status_code, answer.json()["title"][:12]) == (415, "This content")

    def test_the_list_of_errors_is_capped(self, plant: Plant) -> None:
        body = {"tags": [1] * 400, "windows": [], "figures": [{}] * 400}
        answer = plant.client.post("/api/figures", json=body)
        assert answer.status_code == 422
        assert len(answer.json()["errors"]) <= 20
        assert "more" in answer.json()["detail"]


class TestShape:
    @pytest.fixture
    def broken(self, store: Store, tmp_path: Path) -> Iterator[TestClient]:
        """An application with routes that fail in ways that nobody foresaw."""
        app = app_of(store, tmp_path)

        def fail(kind: str) -> None:
            raise {"key": KeyError("x"), "deep": RecursionError(), "text": UnicodeError("x")}[kind]

        app.router.routes.insert(0, APIRoute("/api/fail/{kind}", fail))
        with TestClient(app, raise_server_exceptions=False) as client:
            yield client

    def test_what_nobody_foresaw_is_a_problem_with_a_number_that_the_log_has(
        self, broken: TestClient, caplog: pytest.LogCaptureFixture
    ) -> None:
        answer = broken.get("/api/fail/key")
        assert answer.status_code == 500
        assert answer.headers["content-type"] == "application/problem+json"
        number = answer.json()["instance"].rpartition(":")[2]
        assert number in caplog.text and "KeyError" in caplog.text
        assert "KeyError" not in answer.text, "what happened inside is the log's alone"
        assert answer.headers["X-Content-Type-Options"] == "nosniff"
        assert broken.get("/api/fail/deep").status_code == 422
        assert broken.get("/api/fail/text").status_code == 422

    @pytest.mark.parametrize(
        "path", ["/%00", "/a" * 3000, "/api/" + "x" * 5000, "/%ff%fe", "/../../etc/passwd"]
    )
    def test_absurd_paths_are_not_found(self, plant: Plant, path: str) -> None:
        assert plant.client.get(path).status_code in (200, 404)

    def test_every_status_has_the_shape(self, plant: Plant) -> None:
        for method, path, status in (
            ("GET", "/api/nothing", 404), ("DELETE", "/api/tags", 405), ("POST", "/api/figures", 422),
        ):  # fmt: skip
            answer = plant.client.request(method, path)
            assert (answer.status_code, answer.headers["content-type"]) == (
                status,
                "application/problem+json",
            )
            assert answer.json()["status"] == status

    def test_data_is_kept_by_no_cache_and_the_server_tells_no_address(self, plant: Plant) -> None:
        answer = plant.client.get("/api/tags")
        assert answer.headers["Cache-Control"] == "no-store"
        assert "ws:" not in answer.headers["Content-Security-Policy"]
        assert "form-action 'self'" in answer.headers["Content-Security-Policy"]

    def test_a_binary_frame_is_refused_with_a_reason(self, plant: Plant) -> None:
        for path in ("/api/live", "/api/figures/live"):
            with plant.client.websocket_connect(path) as socket:
                socket.send_bytes(b"\x00\xff")
                assert json.loads(socket.receive_text())["type"] == "refused"


class TestDoors:
    @pytest.mark.parametrize("host", ["evil.example", "localhost.evil.example:80", "a b", ""])
    def test_a_foreign_host_name_is_turned_away(self, plant: Plant, host: str) -> None:
        answer = plant.client.get("/api/tags", headers={"Host": host})
        assert (answer.status_code, answer.json()["type"]) == (400, "urn:cronaca:problem:unknown-host")

    @pytest.mark.parametrize(
        "host", ["localhost:8080", "127.0.0.1:9", "[::1]:8080", "10.1.2.3", "plant.local"]
    )
    def test_its_own_names_and_addresses_are_taken(self, store: Store, tmp_path: Path, host: str) -> None:
        options = ServerOptions(hosts=("localhost", "plant.local"))
        with TestClient(app_of(store, tmp_path, options)) as client:
            assert client.get("/api/tags", headers={"Host": host}).status_code == 200

    @pytest.mark.parametrize(
        "headers",
        [
            {"Origin": "https://evil.example"}, {"Origin": "null"}, {"Sec-Fetch-Site": "cross-site"},
            {"Sec-Fetch-Site": "same-site"}, {"Origin": "http://testserver:81"},
        ],
    )  # fmt: skip
    def test_other_web_pages_change_nothing_and_hear_nothing(
        self, plant: Plant, headers: dict[str, str]
    ) -> None:
        body = {"name": "x", "state": {}}
        answer = plant.client.post("/api/sheets", json=body, headers=headers)
        assert (answer.status_code, answer.json()["type"]) == (403, "urn:cronaca:problem:foreign-origin")
        for path in ("/api/live", "/api/figures/live"):
            with (
                pytest.raises(WebSocketDisconnect),
                plant.client.websocket_connect(path, headers=headers) as socket,
            ):
                socket.receive_text()

    def test_its_own_pages_and_programs_may(self, plant: Plant) -> None:
        for headers in ({"Origin": "http://testserver", "Sec-Fetch-Site": "same-origin"}, {}):
            answer = plant.client.post("/api/formulas/check", json={"text": "1"}, headers=headers)
            assert answer.status_code != 403


def test_health_names_no_address_no_path_and_no_text_of_an_error(plant: Plant) -> None:
    """Everybody may ask for it; the reasons are on the recorder page."""
    secret = "10.20.30.40:502 /var/lib/secret"
    with plant.store.transaction() as tx:
        (source,) = list_sources(tx)
        said = {"source_id": source.source_id, "state": "down", "since_us": NOW, "detail": secret}
        report = {"sources": [said], "faults": [secret], "samples_per_second": 1.0}
        tx.execute("UPDATE recorder_epoch SET report = %(report)s", report=json.dumps(report))
    background = StoreBackground(plant.store, "worker", "test/1")
    background.say(failing=True, detail=secret)
    answer = plant.client.get("/api/health")
    assert answer.json()["sources"][0]["state"] == "down"
    assert (answer.json()["recorder"]["faults"], answer.json()["worker"]["state"]) == (1, "failing")
    assert answer.json()["disks"][0]["free_bytes"] > 0
    assert secret not in answer.text and "/" not in answer.text
    assert plant.client.get("/api/recorder").text.count(secret) == 3
