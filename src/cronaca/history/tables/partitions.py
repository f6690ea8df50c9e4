"""Partitions of the big history tables: one for each archive and month (UTC).

There is no partition for the rest on purpose: splitting one up puts rows into wrong partitions in the
MariaDB this was tried with (10.11). A writer makes sure of its partitions before it begins.
"""

from __future__ import annotations

import logging
import threading
from collections.abc import Iterable
from typing import Final

from cronaca.core.errors import StoreError
from cronaca.core.setup.specs import checked_directory
from cronaca.db.pool import Store

_CONNECTIONS: Final = 2
Place = tuple[int, int]
"""Archive and month."""
TABLES: Final = ("segment", "rollup", "summary_hour", "summary_day")
_DIRECTORY: Final = "SELECT directory FROM archive WHERE archive_id = %(archive_id)s"
_log = logging.getLogger(__name__)
_LIST: Final = """
SELECT partition_name FROM information_schema.partitions
WHERE table_schema = DATABASE() AND table_name = %(table)s AND partition_name IS NOT NULL
"""


class PartitionsMissing(StoreError):
    """Samples wait for partitions, which cannot be made inside of a transaction."""

    def __init__(self, places: set[Place]) -> None:
        super().__init__(f"There is no partition yet for {sorted(places)}.")
        self.places = places


class Partitions:
    """Knows which partitions there are; asks the database only about unknown ones."""

    def __init__(self, store: Store) -> None:
        # Of its own: partitions are dropped while their caller's connection holds the writers' turn.
        self._store = store.apart(_CONNECTIONS)
        self._known: set[Place] = set()
        self._lock = threading.Lock()

    def ensure(self, places: Iterable[Place]) -> None:
        """Adds the partitions that are missing, in every history table. Must be called outside of a
        transaction on these tables."""
        with self._lock:
            missing = set(places) - self._known
            for place in sorted(missing):
                for table in TABLES:
                    if place not in list_places(self._store, table):
                        _add(self._store, table, place)
                self._known.add(place)

    def forget(self) -> None:
        """Another process has dropped a partition: asks anew."""
        with self._lock:
            self._known.clear()

    def check(self, places: Iterable[Place]) -> None:
        """Raises PartitionsMissing unless all of them are there."""
        with self._lock:
            missing = set(places) - self._known
        if missing:
            raise PartitionsMissing(missing)

    def drop(self, table: str, place: Place) -> None:
        """Drops one month of one archive from a table."""
        if place in list_places(self._store, table):
            with self._store.transaction() as tx:
                # Waiting long for readers to end would hold up those behind: rather try again later.
                tx.execute(
                    "SET STATEMENT lock_wait_timeout = 5 FOR "
                    f"ALTER TABLE {_checked(table)} DROP PARTITION {_name(place)}"
                )
        with self._lock:
            self._known.discard(place)


def list_places(store: Store, table: str) -> set[Place]:
    """The partitions that a table has."""
    with store.snapshot() as tx:
        names = [row[0] for row in tx.fetch(_LIST, table=table)]
    pairs = [name[1:].split("_") for name in names]
    return {(int(archive), int(month)) for archive, month in pairs} - {(0, 0)}


def _add(store: Store, table: str, place: Place) -> None:
    directory = _directory_of(store, place[0])
    try:
        _try_add(store, table, place, directory)
    except StoreError as exc:
        # Another process may have added it in between.
        if place in list_places(store, table):
            return
        if not directory:
            raise
        # Samples must not wait for a disk that cannot be written: they go where the database lies.
        _log.error(
            "%s cannot be used (%s): month %d goes to the database's own disk", directory, exc, place[1]
        )
        _try_add(store, table, place, "")


def _try_add(store: Store, table: str, place: Place, directory: str) -> None:
    archive_id, month = place
    where = f" DATA DIRECTORY = '{checked_directory(directory)}'" if directory else ""
    with store.transaction() as tx:
        tx.execute(
            f"ALTER TABLE {_checked(table)} ADD PARTITION "
            f"(PARTITION {_name(place)} VALUES IN (({int(archive_id)}, {int(month)})){where})"
        )


def _directory_of(store: Store, archive_id: int) -> str:
    with store.snapshot() as tx:
        row = tx.fetch_one(_DIRECTORY, archive_id=archive_id)
    return "" if row is None else str(row[0])


def _name(place: Place) -> str:
    return f"p{int(place[0])}_{int(place[1])}"


def _checked(table: str) -> str:
    if table not in TABLES:
        raise ValueError(table)
    return table
