"""Removes temporary tags whose time is over, with the rights of whoever added them."""

from __future__ import annotations

import logging
from collections.abc import Callable
from itertools import groupby
from typing import Final

from cronaca.core.access import Actor, Permission
from cronaca.core.ports import Clock
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.plant import tag_changes, temporary
from cronaca.plant.changes import By
from cronaca.services.acting import act

_log: Final = logging.getLogger(__name__)


class TemporaryTags:
    """A core.ports.Housekeeping on a store."""

    def __init__(self, store: Store, clock: Clock, may_still: Callable[[str, Permission], bool]) -> None:
        self._store = store
        self._clock = clock
        self._may_still = may_still

    def run_all(self) -> None:
        """Removes what nobody has kept. What a logger records or another tag uses is kept; what was added by
        somebody who may not change the set-up any more waits for somebody who may. Raises StoreError."""
        with self._store.snapshot() as tx:
            expired = temporary.list_expired(tx, self._clock.now_us())
            kept = {one.uid for one in expired if one.is_recorded or tag_changes.list_users(tx, [one.uid])}
        if kept:
            self._store.run(lambda tx: temporary.keep(tx, list(kept)))
        rest = sorted((one for one in expired if one.uid not in kept), key=lambda one: one.person)
        for person, some in groupby(rest, key=lambda one: one.person):
            self._remove(person, [one.uid for one in some])

    def _remove(self, person: str, uids: list[str]) -> None:
        if not self._may_still(person, Permission.CONFIGURE):
            _log.info("%d temporary tags stay: %s may not change the set-up any more", len(uids), person)
            return
        who = Actor(person, frozenset({Permission.CONFIGURE})).permitted(Permission.CONFIGURE)

        def work(tx: Transaction, by: By) -> None:
            tag_changes.remove_tags(tx, uids, by)
            # Who takes the removal back wants to have them.
            temporary.keep(tx, uids)

        act(self._store, who, work)
