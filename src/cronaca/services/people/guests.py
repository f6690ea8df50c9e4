"""What people may do without signing in: set up the first account, look as guests, or nothing."""

from __future__ import annotations

import time
from dataclasses import dataclass
from typing import Final

from cronaca.core.access import Permitted
from cronaca.core.errors import EditConflict
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.plant.people import accounts
from cronaca.plant.people.guest_view import GuestView, change_guest_view, read_guest_view
from cronaca.services.acting import Act, act
from cronaca.services.people.recalled import Recalled

_KIND: Final = "guest_view"
_ONE: Final = ""
"""What is remembered has no token."""


@dataclass(frozen=True, slots=True)
class Whoever:
    """What holds for whoever is not signed in."""

    has_accounts: bool
    guest_view: bool


class Guests:
    """The guest view of an installation, and whether there are accounts yet."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._recalled: Recalled[Whoever] = Recalled()

    def known(self) -> Whoever | None:
        """What was found a moment ago; None: ask."""
        return self._recalled.known(_ONE)[1]

    def find(self) -> Whoever:
        """What holds now; while the database is away what held before. Raises StoreUnavailable."""
        return self._recalled.find(_ONE, self._ask) or self._ask()

    def _ask(self) -> Whoever:
        with self._store.snapshot() as tx:
            return Whoever(accounts.exists_any(tx), read_guest_view(tx).enabled)

    def forget(self) -> None:
        """It has changed: it is asked for anew."""
        self._recalled.forget(_ONE)

    def read(self) -> GuestView:
        """The setting as it is."""
        with self._store.snapshot() as tx:
            return read_guest_view(tx)

    def change(self, who: Permitted, seen: GuestView) -> GuestView:
        """Switches the guest view. `seen`: as it is to be, with the revision that was changed. Raises
        EditConflict."""

        def work(tx: Transaction, by: Act) -> GuestView:
            before = read_guest_view(tx, to_change=True)
            if before.revision != seen.revision:
                raise EditConflict("guest view", "Guest view", "", time.time_ns() // 1000)
            change_guest_view(tx, enabled=seen.enabled)
            told = {"name": "Guest view", "enabled": seen.enabled}
            by.note(_KIND, "", {**told, "enabled": before.enabled}, told)
            return read_guest_view(tx)

        after = act(self._store, who, work)
        self.forget()
        return after
