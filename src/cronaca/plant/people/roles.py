"""Roles of an installation's own, and what each role may do."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import Final

from cronaca.core.access import Permission
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.people import ROLES
from cronaca.db.transaction import Row, Transaction

_READ: Final = """
SELECT r.uid, r.revision, r.name, r.permissions,
    (SELECT COUNT(*) FROM account a WHERE a.role = r.uid AND a.removed_us IS NULL)
FROM own_role r
"""
_LIST: Final = f"{_READ} ORDER BY NATURAL_SORT_KEY(r.name), r.name"
_BY_UID: Final = f"{_READ} WHERE r.uid = %(uid)s"
_BY_UID_LOCKED: Final = f"{_BY_UID} FOR UPDATE"
_BY_NAME: Final = f"{_READ} WHERE r.name = %(name)s"
_INSERT: Final = "INSERT INTO own_role (uid, name, permissions) VALUES (%(uid)s, %(name)s, %(permissions)s)"
_CHANGE: Final = """
UPDATE own_role SET name = %(name)s, permissions = %(permissions)s, revision = revision + 1
WHERE uid = %(uid)s
"""
_REMOVE: Final = "DELETE FROM own_role WHERE uid = %(uid)s"
_COUNT: Final = "SELECT role, COUNT(*) FROM account WHERE removed_us IS NULL GROUP BY role"


@dataclass(frozen=True, slots=True)
class RoleSpec:
    """A role of one's own: its name, and what it may do."""

    name: str
    permissions: frozenset[Permission]


@dataclass(frozen=True, slots=True)
class OwnRole:
    """As it is stored; `people`: how many accounts have it."""

    uid: str
    revision: int
    spec: RoleSpec
    people: int


def list_roles(tx: Transaction) -> list[OwnRole]:
    """All of them, by name."""
    return [_role(row) for row in tx.fetch(_LIST)]


def count_people(tx: Transaction) -> dict[str, int]:
    """How many accounts have each role, by what stands in the account."""
    return {role: int(count) for role, count in tx.fetch(_COUNT)}


def get_role(tx: Transaction, uid: str, *, to_change: bool = False) -> OwnRole:
    """One of them; raises NotFound. `to_change`: nobody else changes it until the transaction ends."""
    row = tx.fetch_one(_BY_UID_LOCKED if to_change else _BY_UID, uid=uid)
    if row is None:
        raise NotFound("role", uid)
    return _role(row)


def insert_role(tx: Transaction, spec: RoleSpec) -> str:
    """Adds a role; returns its uid. Raises InvalidInput for a name that is taken."""
    uid = str(uuid.uuid4())
    _check_free(tx, spec.name, uid)
    tx.execute(_INSERT, uid=uid, name=spec.name, permissions=text_of(spec.permissions))
    return uid


def change_role(tx: Transaction, uid: str, spec: RoleSpec) -> None:
    """Changes a role, for all who have it. Raises InvalidInput for a name that is taken."""
    _check_free(tx, spec.name, uid)
    tx.execute(_CHANGE, uid=uid, name=spec.name, permissions=text_of(spec.permissions))


def remove_role(tx: Transaction, uid: str) -> None:
    """Removes a role that nobody has."""
    tx.execute(_REMOVE, uid=uid)


def permissions_of(tx: Transaction, role: str) -> frozenset[Permission]:
    """What an account with this role may do; nothing, if there is no such role."""
    if role in ROLES:
        return ROLES[role].permissions
    row = tx.fetch_one(_BY_UID, uid=role)
    return frozenset() if row is None else _role(row).spec.permissions


def permissions_with(role: str, text: str | None) -> frozenset[Permission]:
    """The same where what an own role may do was read beside the account; None: it has none."""
    return ROLES[role].permissions if role in ROLES else permissions_in(text or "")


def permissions_in(text: str) -> frozenset[Permission]:
    """The permissions of a stored text. One that this version does not know is none."""
    known = {permission.value: permission for permission in Permission}
    return frozenset(known[name] for name in text.split(",") if name in known)


def text_of(permissions: frozenset[Permission]) -> str:
    """Permissions as they are stored."""
    return ",".join(sorted(permissions))


def _check_free(tx: Transaction, name: str, uid: str) -> None:
    row = tx.fetch_one(_BY_NAME, name=name)
    if row is not None and row[0] != uid:
        raise InvalidInput(
            "name", "role-name-taken", "there is a role {name!r}", "Choose another name.", name=name
        )


def _role(row: Row) -> OwnRole:
    uid, revision, name, permissions, people = row
    return OwnRole(uid, int(revision), RoleSpec(name, permissions_in(permissions)), int(people))
