"""Whether people who are not signed in may look."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from cronaca.db.transaction import Transaction

_READ: Final = "SELECT revision, enabled FROM guest_view"
_CHANGE: Final = "UPDATE guest_view SET enabled = %(enabled)s, revision = revision + 1"


@dataclass(frozen=True, slots=True)
class GuestView:
    """Whether it is on, and the revision to change it by."""

    revision: int
    enabled: bool


def read_guest_view(tx: Transaction, *, to_change: bool = False) -> GuestView:
    """As it is. `to_change`: nobody else changes it until the transaction ends."""
    row = tx.fetch_one(f"{_READ} FOR UPDATE" if to_change else _READ)
    return GuestView(0, enabled=False) if row is None else GuestView(int(row[0]), bool(row[1]))


def change_guest_view(tx: Transaction, *, enabled: bool) -> None:
    """Switches it."""
    tx.execute(_CHANGE, enabled=enabled)
