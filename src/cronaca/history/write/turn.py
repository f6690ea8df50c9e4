"""Writers of segments take turns: compaction, corrections, publishing of imports, retention.

The row is changed, not only locked: on a cluster two writers on two nodes then collide at commit, one
of them is told, and repeats. Readers and the recorder never wait for a turn.
"""

from __future__ import annotations

from typing import Final

from cronaca.db.transaction import Transaction

_TAKE: Final = "UPDATE writer_turn SET turn = turn + 1 WHERE name = 'segments'"


def take_turn(tx: Transaction) -> None:
    """Waits for the turn and keeps it until the transaction ends. Must be the transaction's first
    statement: its view of the database then begins after the turn was got."""
    tx.execute(_TAKE)
