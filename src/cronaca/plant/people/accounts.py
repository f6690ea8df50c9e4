"""Accounts as they are stored; passwords as hashes alone."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import Final

from cronaca.core.errors import InvalidInput, NotFound
from cronaca.db.transaction import Row, Transaction

_COLUMNS: Final = """a.account_id, a.uid, a.revision, a.name, a.full_name, a.role, a.must_change, a.enabled,
    a.password_hash"""
_THERE: Final = "a.removed_us IS NULL"
_LIST: Final = f"""
SELECT {_COLUMNS}, (SELECT MAX(t.at_us) FROM sign_in_attempt t
    WHERE t.name_hash = UNHEX(SHA2(LOWER(a.name), 256)) AND t.succeeded)
FROM account a WHERE {_THERE} ORDER BY NATURAL_SORT_KEY(a.name), a.name
"""
_BY_NAME: Final = f"SELECT {_COLUMNS} FROM account a WHERE {_THERE} AND a.name = %(name)s"
_BY_UID: Final = f"SELECT {_COLUMNS} FROM account a WHERE {_THERE} AND a.uid = %(uid)s"
_BY_UID_LOCKED: Final = f"{_BY_UID} FOR UPDATE"
_ANY: Final = f"SELECT 1 FROM account a WHERE {_THERE} LIMIT 1"
_OTHERS: Final = f"""
SELECT a.account_id FROM account a
WHERE {_THERE} AND a.enabled AND a.role = %(role)s AND a.uid != %(uid)s LIMIT 1 FOR UPDATE
"""
_INSERT: Final = """
INSERT INTO account (uid, name, full_name, password_hash, role, must_change, enabled, created_us)
VALUES (%(uid)s, %(name)s, %(full_name)s, %(password_hash)s, %(role)s, %(must_change)s, %(enabled)s,
    %(created_us)s)
"""
_CHANGE: Final = """
UPDATE account SET name = %(name)s, full_name = %(full_name)s, role = %(role)s, enabled = %(enabled)s,
    revision = revision + 1
WHERE account_id = %(account_id)s
"""
_RENEW: Final = """
UPDATE account SET password_hash = %(password_hash)s, must_change = %(must_change)s, revision = revision + 1
WHERE account_id = %(account_id)s
"""
_REMOVE: Final = "UPDATE account SET removed_us = %(now_us)s WHERE account_id = %(account_id)s"


@dataclass(frozen=True, slots=True)
class AccountSpec:
    """What is entered for a person; `name` is typed to sign in."""

    name: str
    full_name: str = ""
    role: str = "viewer"
    enabled: bool = True


@dataclass(frozen=True, slots=True)
class Account:
    """An account that is there. `must_change`: its password has to be changed before anything else."""

    account_id: int
    uid: str
    revision: int
    spec: AccountSpec
    must_change: bool
    password_hash: str


def exists_any(tx: Transaction) -> bool:
    """Whether there is an account at all."""
    return tx.fetch_one(_ANY) is not None


def list_accounts(tx: Transaction) -> list[tuple[Account, int | None]]:
    """All accounts by name, each with its last sign-in, µs."""
    return [(_account(row[:-1]), row[-1]) for row in tx.fetch(_LIST)]


def find_by_name(tx: Transaction, name: str) -> Account | None:
    """The account of a name, letters large or small; None: there is none."""
    row = tx.fetch_one(_BY_NAME, name=name)
    return None if row is None else _account(row)


def get_account(tx: Transaction, uid: str, *, to_change: bool = False) -> Account:
    """One account; raises NotFound. `to_change`: nobody else changes it until the transaction ends."""
    row = tx.fetch_one(_BY_UID_LOCKED if to_change else _BY_UID, uid=uid)
    if row is None:
        raise NotFound("person", uid)
    return _account(row)


def has_another(tx: Transaction, role: str, uid: str) -> bool:
    """Whether another enabled account has the role."""
    return tx.fetch_one(_OTHERS, role=role, uid=uid) is not None


def insert_account(
    tx: Transaction, spec: AccountSpec, password_hash: str, created_us: int, *, must_change: bool
) -> str:
    """Adds an account; returns its uid. Raises InvalidInput for a name that is taken."""
    _check_free(tx, spec.name, "")
    uid = str(uuid.uuid4())
    tx.execute(
        _INSERT, uid=uid, name=spec.name, full_name=spec.full_name, password_hash=password_hash,
        role=spec.role, must_change=must_change, enabled=spec.enabled, created_us=created_us,
    )  # fmt: skip
    return uid


def change_account(tx: Transaction, account: Account, spec: AccountSpec) -> None:
    """Changes all but the password. Raises InvalidInput for a name that is taken."""
    _check_free(tx, spec.name, account.uid)
    tx.execute(
        _CHANGE, account_id=account.account_id, name=spec.name, full_name=spec.full_name, role=spec.role,
        enabled=spec.enabled,
    )  # fmt: skip


def set_password(tx: Transaction, account: Account, password_hash: str, *, must_change: bool) -> None:
    """Puts another password in the place of the one before."""
    tx.execute(_RENEW, account_id=account.account_id, password_hash=password_hash, must_change=must_change)


def remove_account(tx: Transaction, account: Account, now_us: int) -> None:
    """Removes an account; what its person did stays on record."""
    tx.execute(_REMOVE, account_id=account.account_id, now_us=now_us)


def _check_free(tx: Transaction, name: str, uid: str) -> None:
    found = find_by_name(tx, name)
    if found is not None and found.uid != uid:
        raise InvalidInput(
            "name", "person-name-taken", "there is an account {name!r}", "Choose another name.", name=name
        )


def _account(row: Row) -> Account:
    number, uid, revision, name, full_name, role, must_change, enabled, password_hash = row
    spec = AccountSpec(name, full_name, role, bool(enabled))
    return Account(number, uid, revision, spec, bool(must_change), password_hash)
