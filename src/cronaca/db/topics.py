"""How often each kind of thing has changed: a server that follows the counts knows what to tell its pages."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from pymysql.cursors import Cursor

from cronaca.core.topics import Topic
from cronaca.db.transaction import Transaction

_COUNT: Final = """
INSERT INTO topic_change (topic, changes) VALUES (%s, 1) ON DUPLICATE KEY UPDATE changes = changes + 1
"""
_READ: Final = "SELECT topic, changes FROM topic_change"


def count_changes(cursor: Cursor, topics: Iterable[Topic]) -> None:
    """Counts what a transaction has changed, as the last thing it does: others wait for the row only as long
    as a commit takes. In the order of their names, so that two transactions cannot wait for each other."""
    for topic in sorted(topics):
        cursor.execute(_COUNT, (topic.value,))


def read_counts(tx: Transaction) -> dict[str, int]:
    """How often what has changed, by topic."""
    return {str(topic): int(changes) for topic, changes in tx.fetch(_READ)}
