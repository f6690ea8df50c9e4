"""What people may do while they are not there: jobs, housekeeping and reports go by it."""

from __future__ import annotations

from collections.abc import Callable

from cronaca.core.access import BEFORE_ACCOUNTS, EVERYTHING, Permission
from cronaca.db import Store
from cronaca.plant.people import accounts
from cronaca.plant.people.roles import permissions_of


def rights_of(store: Store) -> Callable[[str, Permission], bool]:
    """Says whether a person, by the name of their account, has a permission at present. What was begun while
    there were no accounts belongs to the administrators: they may do it all. Raises StoreError."""

    def may_still(person: str, permission: Permission) -> bool:
        with store.snapshot() as tx:
            if not accounts.exists_any(tx):
                return permission in EVERYTHING
            account = accounts.find_by_name(tx, person)
            permissions = frozenset() if account is None else permissions_of(tx, account.spec.role)
        if account is None:
            return person == BEFORE_ACCOUNTS
        return account.spec.enabled and permission in permissions

    return may_still
