"""Roles of an installation's own: made, changed and removed by those who manage people."""

from __future__ import annotations

import time
from typing import Final

from cronaca.core.access import Permission, Permitted
from cronaca.core.errors import EditConflict, InvalidInput
from cronaca.core.names import check_name
from cronaca.core.people import ROLES
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.plant.people import roles
from cronaca.plant.people.roles import OwnRole, RoleSpec
from cronaca.services.acting import Act, act

_LONGEST_NAME: Final = 100
_KIND: Final = "role"


class OwnRoles:
    """The roles of an installation beside those of the program."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def list_all(self) -> tuple[list[OwnRole], dict[str, int]]:
        """All of them by name, and how many accounts have each role, of the program's too."""
        with self._store.snapshot() as tx:
            return roles.list_roles(tx), roles.count_people(tx)

    def add(self, who: Permitted, spec: RoleSpec) -> str:
        """Adds a role; returns its uid. Raises InvalidInput."""
        spec = _checked(spec)

        def work(tx: Transaction, by: Act) -> str:
            uid = roles.insert_role(tx, spec)
            by.note(_KIND, uid, None, _told(spec))
            return uid

        return act(self._store, who, work)

    def change(self, who: Permitted, uid: str, spec: RoleSpec, seen: int) -> None:
        """Changes a role for all who have it, within two seconds. `seen`: the revision that was changed.
        Raises InvalidInput, NotFound, EditConflict."""
        spec = _checked(spec)

        def work(tx: Transaction, by: Act) -> None:
            before = roles.get_role(tx, uid, to_change=True)
            if before.revision != seen:
                raise EditConflict(_KIND, before.spec.name, "", time.time_ns() // 1000)
            roles.change_role(tx, uid, spec)
            by.note(_KIND, uid, _told(before.spec), _told(spec))

        act(self._store, who, work)

    def remove(self, who: Permitted, uid: str) -> None:
        """Removes a role. Raises NotFound, and InvalidInput while somebody has it."""

        def work(tx: Transaction, by: Act) -> None:
            before = roles.get_role(tx, uid, to_change=True)
            if before.people:
                raise InvalidInput(
                    "role", "role-in-use", "{count} accounts have it", "Give them another role first.",
                    count=before.people,
                )  # fmt: skip
            roles.remove_role(tx, uid)
            by.note(_KIND, uid, _told(before.spec), None)

        act(self._store, who, work)


def _checked(spec: RoleSpec) -> RoleSpec:
    name = check_name(spec.name, _LONGEST_NAME)
    if name.casefold() in ROLES:
        raise InvalidInput(
            "name", "role-name-taken", "there is a role {name!r}", "Choose another name.", name=name
        )
    if Permission.VIEW not in spec.permissions:
        raise InvalidInput(
            "permissions", "role-without-view", "without 'view' nothing can be done", "Add 'view'."
        )
    if Permission.MANAGE_PEOPLE in spec.permissions:
        raise InvalidInput(
            "permissions", "role-manages-people", "people are managed by administrators alone",
            "Leave out 'manage_people', or make somebody an administrator.",
        )  # fmt: skip
    return RoleSpec(name, spec.permissions)


def _told(spec: RoleSpec) -> dict[str, object]:
    return {"name": spec.name, "permissions": sorted(spec.permissions)}
