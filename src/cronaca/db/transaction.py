"""What a store module may do inside a transaction; the caller owns begin and commit."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pymysql.cursors import Cursor

from cronaca.core.setup.places import NO_PLACES, ArchivePlaces
from cronaca.core.topics import Topic
from cronaca.db.values import to_db

Row = tuple[Any, ...]


class Transaction:
    """A cursor inside one open transaction. `places`: where the set-up may put archives."""

    def __init__(self, cursor: Cursor, places: ArchivePlaces = NO_PLACES) -> None:
        self._cursor = cursor
        self.places = places
        self.topics: set[Topic] = set()
        """What this transaction changes, for those who follow it."""

    def changes(self, topic: Topic) -> None:
        """Says that something of this kind changes with this transaction: pages that show it read it anew."""
        self.topics.add(topic)

    def fetch(self, sql: str, **params: object) -> list[Row]:
        """All rows of a query."""
        self._cursor.execute(sql, _clean(params))
        return list(self._cursor.fetchall())

    def fetch_one(self, sql: str, **params: object) -> Row | None:
        """The first row of a query, or None."""
        rows = self.fetch(sql, **params)
        return rows[0] if rows else None

    def execute(self, sql: str, **params: object) -> int:
        """Runs a statement; returns how many rows it changed."""
        return int(self._cursor.execute(sql, _clean(params)))

    def insert(self, sql: str, **params: object) -> int:
        """Runs an INSERT; returns the number the database gave the row."""
        self._cursor.execute(sql, _clean(params))
        return int(self._cursor.lastrowid or 0)

    def execute_many(self, sql: str, rows: Sequence[Sequence[object]]) -> int:
        """Runs a bulk INSERT or REPLACE in one statement; does nothing for no rows."""
        if not rows:
            return 0
        return int(self._cursor.executemany(sql, [tuple(to_db(v) for v in row) for row in rows]) or 0)


def _clean(params: dict[str, object]) -> dict[str, object] | None:
    return {name: to_db(value) for name, value in params.items()} or None
