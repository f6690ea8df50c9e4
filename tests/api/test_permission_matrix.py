"""Every route as every role, with a session, with a token and without, as docs/permissions.md says.

`python3 -m tests.api.test_permission_matrix` writes that table anew."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Final

import pytest
from argon2 import PasswordHasher
from fastapi.routing import APIRoute, APIWebSocketRoute
from starlette.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from cronaca.api.app import create_app
from cronaca.core.access import GUEST, Actor, Permission
from cronaca.core.model import DAY
from cronaca.core.people import ADMINISTRATOR, ROLES, Role
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.plant.people.accounts import AccountSpec
from cronaca.plant.people.guest_view import GuestView
from cronaca.plant.people.program_tokens import TokenSpec
from cronaca.services.people import Guests, passwords
from cronaca.services.people.signing_in import From, actor_of
from tests.api.test_permissions import OPEN, OWN, ROUTES, UID, permissions_of
from tests.support.application import ROOT
from tests.support.checks import now_us

DOCUMENT: Final = ROOT / "docs" / "permissions.md"
WORD: Final = "violet anchor staple ribbon"
GUARDED: Final = [route for route in ROUTES if route.path not in OPEN]
HEAD: Final = """# Which permission each route needs

A test calls each of them as each role, with a session, with a token and without, and as a guest, and
compares with this table, which `python3 -m tests.api.test_permission_matrix` writes. [people.md](people.md)
says what the roles are. Without a session or a token the answer is 401, unless guests may look; what they may
not do is 401 too. Without the permission it is 403. A token never has `manage_people`.

"""


def needed(route: APIRoute | APIWebSocketRoute) -> list[Permission]:
    return sorted(permissions_of(route.dependant))


def method_of(route: APIRoute | APIWebSocketRoute) -> str:
    return next(iter(route.methods or {"GET"})) if isinstance(route, APIRoute) else "WebSocket"


def table() -> str:
    """The document, from what the routes state."""
    roles = [Role("guest", GUEST.permissions), *ROLES.values()]
    lines = [
        "| Route | Permission | " + " | ".join(role.name for role in roles) + " |",
        "| --- | --- | " + " | ".join("---" for _ in roles) + " |",
    ]
    for route in sorted(ROUTES, key=lambda one: (one.path, method_of(one))):
        name = f"`{method_of(route)} {route.path}`"
        if route.path in OPEN:
            said = "whoever is signed in" if route.path in OWN else "everybody"
            may = ["–" if path_is_own(route) and role.name == "guest" else "yes" for role in roles]
            lines.append(f"| {name} | {said} | " + " | ".join(may) + " |")
            continue
        permissions = needed(route)
        may = ["yes" if role.permissions.issuperset(permissions) else "–" for role in roles]
        lines.append(f"| {name} | {', '.join(f'`{p}`' for p in permissions)} | " + " | ".join(may) + " |")
    return HEAD + "\n".join(lines) + "\n"


def path_is_own(route: APIRoute | APIWebSocketRoute) -> bool:
    """Of an account: a guest, who has none, is only told that they are one."""
    return route.path in OWN and route.path != "/api/me"


def test_the_document_says_what_the_routes_state() -> None:
    assert DOCUMENT.read_text() == table()


@dataclass(frozen=True)
class Callers:
    """An application, and the headers of each kind of caller."""

    client: TestClient
    guests: Guests
    headers: dict[tuple[str, str], dict[str, str]]


@pytest.fixture(scope="module")
def callers(module_store: Store, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Callers]:
    with pytest.MonkeyPatch.context() as patch:
        cheap = partial(PasswordHasher, time_cost=1, memory_cost=8, parallelism=1)
        patch.setattr(passwords, "PasswordHasher", cheap)
        app = create_app(module_store, tmp_path_factory.mktemp("web"))
    state = app.state
    migrate(module_store)
    state.people.add_first(AccountSpec("first", role=ADMINISTRATOR), WORD, state.people.first_code)
    manager = Actor("first", frozenset(Permission)).permitted(Permission.MANAGE_PEOPLE)
    headers: dict[tuple[str, str], dict[str, str]] = {("nobody", "none"): {}}
    for role in ROLES.values():
        uid = state.people.add(manager, AccountSpec(role.name, role=role.name), WORD)
        state.people.reset_at_machine(role.name, WORD, "test")  # one that needs no change
        token = state.signs.sign_in(role.name, WORD, From("10.0.0.1"))
        actor = actor_of(state.signs.find(token))
        assert actor.account == uid
        given = role.permissions - {Permission.MANAGE_PEOPLE}
        _, program = state.tokens.issue(actor, TokenSpec("matrix", given, now_us() + DAY))
        headers[role.name, "session"] = {"Cookie": f"session={token}"}
        headers[role.name, "token"] = {"Authorization": f"Bearer {program}"}
    with TestClient(app) as client:
        yield Callers(client, state.guests, headers)


def path_of(route: APIRoute | APIWebSocketRoute) -> str:
    return re.sub(r"{\w+}", UID, route.path.replace("{form}", "html").replace("{change_id}", "1"))


def expected(role: str, kind: str, permissions: list[Permission]) -> int | None:
    """The status of a refusal; None: it is let through."""
    if kind == "none":
        return 401
    has = ROLES[role].permissions - ({Permission.MANAGE_PEOPLE} if kind == "token" else set())
    return None if has.issuperset(permissions) else 403


@pytest.mark.parametrize("route", GUARDED, ids=lambda route: f"{method_of(route)} {route.path}")
def test_each_role_may_what_the_table_says(callers: Callers, route: APIRoute | APIWebSocketRoute) -> None:
    permissions, found, wanted = needed(route), {}, {}
    for (role, kind), headers in callers.headers.items():
        wanted[role, kind] = expected(role, kind, permissions)
        found[role, kind] = refusal(callers.client, route, headers, wanted[role, kind])
    assert found == wanted


def refusal(
    client: TestClient, route: APIRoute | APIWebSocketRoute, headers: dict[str, str], wanted: int | None
) -> int | None:
    """The status with which it is refused; a live link says none, so it is the one that is wanted."""
    if isinstance(route, APIWebSocketRoute):
        return wanted if connects(client, route.path, headers) is (wanted is None) else 0
    sent = {"Content-Type": "application/json", **headers}
    status = client.request(method_of(route), path_of(route), headers=sent).status_code
    return status if status in (401, 403) else None


def test_a_guest_may_what_the_table_says(callers: Callers) -> None:
    guests: Guests = callers.guests
    manager = Actor("first", frozenset(Permission)).permitted(Permission.MANAGE_PEOPLE)
    guests.change(manager, GuestView(guests.read().revision, enabled=True))
    found, wanted = {}, {}
    for route in GUARDED:
        name = f"{method_of(route)} {route.path}"
        wanted[name] = None if GUEST.permissions.issuperset(needed(route)) else 401
        found[name] = refusal(callers.client, route, {}, wanted[name])
    guests.change(manager, GuestView(guests.read().revision, enabled=False))
    assert found == wanted


def connects(client: TestClient, path: str, headers: dict[str, str]) -> bool:
    """Whether a live link is let in."""
    try:
        with client.websocket_connect(path, headers=headers):
            return True
    except WebSocketDisconnect:
        return False


@pytest.mark.parametrize("path", sorted(OWN))
def test_what_is_ones_own_needs_a_sign_in(callers: Callers, path: str) -> None:
    for route in ROUTES:
        if route.path != path or not isinstance(route, APIRoute):
            continue
        answer = callers.client.request(method_of(route), path_of(route), json={})
        assert answer.status_code in (401, 422), (method_of(route), answer.text)


if __name__ == "__main__":
    Path(DOCUMENT).write_text(table())
