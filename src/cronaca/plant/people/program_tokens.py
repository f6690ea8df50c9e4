"""Tokens for programs as they are stored: hashes, what each may do, and until when."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import Final

from cronaca.core.access import Permission
from cronaca.db.transaction import Transaction
from cronaca.plant.people.roles import permissions_in, permissions_with, text_of
from cronaca.plant.people.sign_ins import hash_of

_ADDRESS: Final = 45
_ADD: Final = """
INSERT INTO program_token (token_hash, uid, account_id, name, permissions, created_us, ends_us, address)
VALUES (%(token_hash)s, %(uid)s, %(account_id)s, %(name)s, %(permissions)s, %(created_us)s, %(ends_us)s, '')
"""
_FIND: Final = """
SELECT t.name, t.permissions, t.ends_us, t.used_us, a.uid, a.name, a.role, r.permissions
FROM program_token t JOIN account a ON a.account_id = t.account_id LEFT JOIN own_role r ON r.uid = a.role
WHERE t.token_hash = %(token_hash)s AND a.removed_us IS NULL AND a.enabled AND NOT a.must_change
"""
_USED: Final = """
UPDATE program_token SET used_us = %(now_us)s, address = %(address)s WHERE token_hash = %(token_hash)s
"""
_LIST: Final = """
SELECT uid, name, permissions, created_us, ends_us, used_us, address FROM program_token
WHERE account_id = %(account_id)s ORDER BY created_us DESC
"""
_COUNT: Final = "SELECT COUNT(*) FROM program_token WHERE account_id = %(account_id)s"
_REMOVE: Final = "DELETE FROM program_token WHERE account_id = %(account_id)s AND uid = %(uid)s"


@dataclass(frozen=True, slots=True)
class TokenSpec:
    """What a token is for: its name, what it may do, and its end, µs."""

    name: str
    permissions: frozenset[Permission]
    ends_us: int


@dataclass(frozen=True, slots=True)
class TokenRow:
    """A token of a person, without the token itself."""

    uid: str
    spec: TokenSpec
    created_us: int
    used_us: int | None
    address: str


@dataclass(frozen=True, slots=True)
class Program:
    """What a token stands for: a program that acts for an account."""

    spec: TokenSpec
    used_us: int | None
    account: str
    person: str
    permissions: frozenset[Permission]
    """Of the account, at present."""


def add_token(tx: Transaction, token: str, account_id: int, spec: TokenSpec, created_us: int) -> str:
    """Keeps a token; returns its uid."""
    uid = str(uuid.uuid4())
    tx.execute(
        _ADD, token_hash=hash_of(token), uid=uid, account_id=account_id, name=spec.name,
        permissions=text_of(spec.permissions), created_us=created_us, ends_us=spec.ends_us,
    )  # fmt: skip
    return uid


def find_program(tx: Transaction, token: str) -> Program | None:
    """What a token stands for; None: nothing, or an account that is disabled or gone."""
    row = tx.fetch_one(_FIND, token_hash=hash_of(token))
    if row is None:
        return None
    name, permissions, ends_us, used_us, account, person, role, own = row
    spec = TokenSpec(name, permissions_in(permissions), ends_us)
    return Program(spec, used_us, account, person, permissions_with(role, own))


def mark_used(tx: Transaction, token: str, now_us: int, address: str) -> None:
    """The token was used."""
    tx.execute(_USED, token_hash=hash_of(token), now_us=now_us, address=address[:_ADDRESS])


def list_tokens(tx: Transaction, account_id: int) -> list[TokenRow]:
    """The tokens of a person, the newest first."""
    return [
        TokenRow(uid, TokenSpec(name, permissions_in(permissions), ends_us), created_us, used_us, address)
        for uid, name, permissions, created_us, ends_us, used_us, address in tx.fetch(
            _LIST, account_id=account_id
        )
    ]


def count_tokens(tx: Transaction, account_id: int) -> int:
    """How many tokens a person has."""
    row = tx.fetch_one(_COUNT, account_id=account_id)
    return 0 if row is None else int(row[0])


def remove_token(tx: Transaction, account_id: int, uid: str) -> bool:
    """Removes a token of a person; returns whether it was there."""
    return tx.execute(_REMOVE, account_id=account_id, uid=uid) > 0
