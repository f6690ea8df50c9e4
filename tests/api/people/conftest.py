"""An application with a first administrator."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from pathlib import Path

import pytest
from argon2 import PasswordHasher
from fastapi import FastAPI
from starlette.testclient import TestClient

from cronaca.api.app import create_app
from cronaca.db import Store
from cronaca.services.people import passwords
from tests.api.people.support import (
    ADMIN,
    ADMIN_WORD,
)


@pytest.fixture(autouse=True)
def _quick(monkeypatch: pytest.MonkeyPatch) -> None:
    """Hashes of the usual kind at the lowest cost."""
    cheap = partial(PasswordHasher, time_cost=1, memory_cost=8, parallelism=1)
    monkeypatch.setattr(passwords, "PasswordHasher", cheap)


@pytest.fixture
def app(store: Store, tmp_path: Path) -> FastAPI:
    return create_app(store, tmp_path)


@pytest.fixture
def admin(app: FastAPI) -> Iterator[TestClient]:
    """The first administrator, signed in."""
    with TestClient(app) as client:
        first = {"name": ADMIN, "password": ADMIN_WORD, "code": app.state.people.first_code}
        answer = client.post("/api/first", json=first)
        assert answer.status_code == 204, answer.text
        yield client
