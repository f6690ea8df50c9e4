"""Values of internal tags that are kept over a restart."""

from __future__ import annotations

import time
from typing import Final

from cronaca.core.model import ValueType
from cronaca.db.pool import Store

_LOAD: Final = "SELECT tag_id, value_type, bits FROM kept_value"
_KEEP: Final = """
INSERT INTO kept_value (tag_id, value_type, bits, written_us) VALUES (%s, %s, %s, %s)
ON DUPLICATE KEY UPDATE value_type = VALUES(value_type), bits = VALUES(bits), written_us = VALUES(written_us)
"""
_FORGET: Final = "DELETE FROM kept_value WHERE tag_id = %(tag_id)s"


class StoreKeptValues:
    """A core.ports.KeptValues on a store."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def load(self) -> dict[int, tuple[ValueType, int]]:
        """Type and 64 bits of each kept value, by tag."""
        with self._store.snapshot() as tx:
            return {tag_id: (ValueType(kind), bits) for tag_id, kind, bits in tx.fetch(_LOAD)}

    def keep(self, tag_id: int, value_type: ValueType, bits: int) -> None:
        """Keeps a value in place of the one before."""
        row = (tag_id, int(value_type), bits, time.time_ns() // 1000)
        self._store.run(lambda tx: tx.execute_many(_KEEP, [row]))

    def forget(self, tag_id: int) -> None:
        """Nothing is kept of this tag any more."""
        self._store.run(lambda tx: tx.execute(_FORGET, tag_id=tag_id))
