"""Applications and processes whose every request is somebody's who may do everything."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Final

from argon2 import PasswordHasher
from fastapi import FastAPI
from playwright.sync_api import BrowserContext

from cronaca.api.app import DEFAULTS, ServerOptions, create_app
from cronaca.core.access import EVERYTHING, Actor, Permission
from cronaca.core.model import DAY
from cronaca.core.people import ADMINISTRATOR
from cronaca.db import Store
from cronaca.plant.people import accounts, program_tokens, sign_ins
from cronaca.plant.people.accounts import AccountSpec
from cronaca.plant.people.program_tokens import TokenSpec

ANYBODY: Final = Actor("Operator", EVERYTHING)
NAME: Final = "Lucia Greco"
"""Who is signed in at the processes that tests start, as an administrator."""
PASSWORD: Final = "violet anchor staple ribbon"
TOKEN: Final = "the-token-of-every-test"
"""Of a session, and of a program."""
BEARER: Final = {"Authorization": f"Bearer {TOKEN}"}
"""What a program sends with each request."""
_CHEAP: Final = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)


def app_of(store: Store, web_dir: Path, options: ServerOptions = DEFAULTS) -> FastAPI:
    """An application where nobody has to sign in: what a test is about comes after that."""
    app = create_app(store, web_dir, options)
    app.state.find_actor = lambda _: ANYBODY
    return app


def sign_in_at(store: Store) -> None:
    """Adds an administrator who has signed in, in the browser and in the program of a test."""
    now_us = time.time_ns() // 1000
    with store.transaction() as tx:
        accounts.insert_account(
            tx, AccountSpec(NAME, role=ADMINISTRATOR), _CHEAP.hash(PASSWORD), now_us, must_change=False
        )
        account = accounts.find_by_name(tx, NAME)
        assert account is not None
        sign_ins.add_session(tx, TOKEN, account.account_id, "127.0.0.1", "a test", now_us)
        may = EVERYTHING - {Permission.MANAGE_PEOPLE}
        spec = TokenSpec("A test", may, now_us + DAY)
        program_tokens.add_token(tx, TOKEN, account.account_id, spec, now_us)


def has_signed_in(context: BrowserContext) -> None:
    """Whoever uses this browser has signed in some time before: how one does is in browser/test_people.py."""
    context.add_cookies([{"name": "session", "value": TOKEN, "domain": "127.0.0.1", "path": "/"}])
