"""How tables of tags from elsewhere were mapped: kept by the names of their columns."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from typing import Any, Final

from cronaca.db.transaction import Transaction
from cronaca.plant.changes import By

_FIND: Final = "SELECT mapping FROM import_mapping WHERE heading = %(heading)s"
_PUT: Final = """
INSERT INTO import_mapping (heading, mapping, person, saved_us)
VALUES (%(heading)s, %(mapping)s, %(person)s, %(saved_us)s)
ON DUPLICATE KEY UPDATE mapping = VALUES(mapping), person = VALUES(person), saved_us = VALUES(saved_us)
"""


def find_mapping(tx: Transaction, columns: Sequence[str]) -> dict[str, Any] | None:
    """What was kept for a table with these columns; None: it was never brought in."""
    row = tx.fetch_one(_FIND, heading=_heading(columns))
    return None if row is None else dict(json.loads(row[0]))


def put_mapping(tx: Transaction, columns: Sequence[str], mapping: dict[str, Any], by: By) -> None:
    """Keeps a mapping in place of the one before."""
    tx.execute(
        _PUT, heading=_heading(columns), mapping=json.dumps(mapping), person=by.person, saved_us=by.created_us
    )


def _heading(columns: Sequence[str]) -> str:
    return hashlib.sha256("\n".join(columns).encode()).hexdigest()
