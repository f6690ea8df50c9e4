"""People of the tests, and what they do first."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI
from starlette.testclient import TestClient

ADMIN, ADMIN_WORD = "Marta Olm", "kettle drift marble oyster"
OPERATOR, OPERATOR_WORD = "jonas", "violet anchor staple ribbon"
NEW_WORD = "granite pepper window swan"


def browser(app: FastAPI) -> TestClient:
    """Another browser; the application runs already."""
    return TestClient(app)


def sign_in(client: TestClient, name: str, password: str, status: int = 204) -> Any:  # noqa: ANN401
    answer = client.post("/api/session", json={"name": name, "password": password})
    assert answer.status_code == status, answer.text
    return answer


def add_operator(admin: TestClient, role: str = "operator") -> dict[str, Any]:
    body = {"name": OPERATOR, "full_name": "Jonas Reuter", "role": role, "password": OPERATOR_WORD}
    answer = admin.post("/api/people", json=body)
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def settled(client: TestClient) -> TestClient:
    """With a password of one's own."""
    sign_in(client, OPERATOR, OPERATOR_WORD)
    changed = client.post("/api/me/password", json={"old": OPERATOR_WORD, "new": NEW_WORD})
    assert (changed.status_code, changed.json()["must_change"]) == (200, False)
    return client
