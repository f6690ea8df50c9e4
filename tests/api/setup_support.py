"""What tests of the set-up share: calls that say what went wrong, and small objects to add."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient

from cronaca.db import Store
from cronaca.demo.seed import seed, seed_calculated, seed_records, seed_runs
from tests.support.builders import NOW

Json = dict[str, Any]
CSV = {"Content-Type": "text/csv"}
MODBUS = {
    "name": "Line 5 controller",
    "protocol": "modbus_tcp",
    "config": {"host": "127.0.0.1", "port": 1502},
}


class Api:
    """Calls that say what went wrong."""

    def __init__(self, client: TestClient) -> None:
        self.client = client

    def ok(self, method: str, path: str, body: object = None, **more: Any) -> Any:  # noqa: ANN401
        answer = self.client.request(method, f"/api{path}", json=body, **more)
        assert answer.status_code < 300, answer.text
        return answer.json() if answer.content else None

    def refused(self, method: str, path: str, body: object, status: int = 422) -> Json:
        answer = self.client.request(method, f"/api{path}", json=body)
        assert answer.status_code == status, answer.text
        assert answer.headers["content-type"].startswith("application/problem+json")
        return dict(answer.json())

    def field(self, method: str, path: str, body: object) -> str:
        """The field that is refused."""
        return str(self.refused(method, path, body)["errors"][0]["field"])


def seed_four_lines(store: Store) -> None:
    """Four lines as the demo has them, not in a class yet."""
    seed(store, 1502, NOW, 4, 4840)
    seed_records(store, NOW, 4)
    seed_runs(store, NOW, 4)
    seed_calculated(store, NOW, 4)


def tag(source: Json, name: str = "Line 5 temperature", address: int = 0, **fields: Any) -> Json:  # noqa: ANN401
    place = {"table": "input_register", "address": address, "data_type": "float32"}
    return {"name": name, "source": source["uid"], "address": place, "unit": "°C", **fields}


def add(api: Api, source: Json, count: int = 1, **fields: Any) -> list[str]:  # noqa: ANN401
    body = {
        "tags": [tag(source, "Line 5 value {n:2}" if count > 1 else "Line 5 value", **fields)],
        "count": count,
    }
    return list(api.ok("POST", "/setup/tags", body)["uids"])


def logger(archive: Json, *tags: str, **fields: object) -> Json:
    return {"name": "Line 5 changes", "archive": archive["uid"], "mode": "on_change", "tags": tags, **fields}
