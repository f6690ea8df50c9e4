"""The people of the demo: an operator, an engineer, an administrator, and guests, who look without signing
in."""

from __future__ import annotations

import json
import logging
import os
import secrets
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Final

from cronaca.core.access import EVERYTHING, Actor, Permission
from cronaca.core.model import DAY
from cronaca.core.people import ROLES
from cronaca.db import Store
from cronaca.plant.people import accounts
from cronaca.plant.people.accounts import AccountSpec
from cronaca.plant.people.guest_view import GuestView
from cronaca.plant.people.program_tokens import TokenSpec
from cronaca.services.people import Guests, Passwords, ProgramTokens

PEOPLE: Final = {"operator": "Nadia Ferri", "engineer": "Paolo Sanna", "administrator": "Lucia Greco"}
"""Names in full, by what they sign in as, which is their role too."""
_log = logging.getLogger(__name__)
_PROGRAM_ACTS_FOR: Final = "engineer"
_TOKEN_DAYS: Final = 365


@dataclass(frozen=True, slots=True)
class SignInData:
    """What is printed at the start: passwords by account, a token for programs, and when it ends, µs."""

    passwords: dict[str, str]
    token: str
    ends_us: int


def seed_people(store: Store, file: Path, now_us: Callable[[], int]) -> SignInData | None:
    """Makes the people where there is no account yet, and lets guests look; what they sign in with is kept in
    a file that this account of the machine alone can read, so that a later start prints it too. None: there
    are other people than those of the demo."""
    with store.snapshot() as tx:
        is_first = not accounts.exists_any(tx)
    if not is_first:
        return _kept(file)
    passwords = {name: _password() for name in PEOPLE}
    hasher = Passwords()
    kept = {name: hasher.hash(password) for name, password in passwords.items()}
    with store.transaction() as tx:
        for name, full_name in PEOPLE.items():
            spec = AccountSpec(name, full_name, name)
            accounts.insert_account(tx, spec, kept[name], now_us(), must_change=False)
        owner = accounts.find_by_name(tx, _PROGRAM_ACTS_FOR)
    guests = Guests(store)
    manager = Actor("administrator", EVERYTHING).permitted(Permission.MANAGE_PEOPLE)
    guests.change(manager, GuestView(guests.read().revision, enabled=True))
    ends_us = now_us() + _TOKEN_DAYS * DAY
    permissions = ROLES[_PROGRAM_ACTS_FOR].permissions
    uid = "" if owner is None else owner.uid
    actor = Actor(_PROGRAM_ACTS_FOR, permissions, account=uid, session="demo")
    _, token = ProgramTokens(store, now_us).issue(actor, TokenSpec("Demo", permissions, ends_us))
    made = SignInData(passwords, token, ends_us)
    _write(file, made)
    return made


def _password() -> str:
    """Easy to type from a console: four groups of four digits, of 64 random bits."""
    digits = secrets.token_hex(8)
    return "-".join(digits[i : i + 4] for i in range(0, len(digits), 4))


def _write(file: Path, made: SignInData) -> None:
    with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as out:
        json.dump(asdict(made), out)


def _kept(file: Path) -> SignInData | None:
    try:
        return SignInData(**json.loads(file.read_text()))
    except FileNotFoundError:
        return None
    except (OSError, ValueError, TypeError) as exc:
        _log.warning("What the demo's people sign in with cannot be read: %s", exc)
        return None
