"""What the recorder's stages need to know when it begins again: one row for each stage."""

from __future__ import annotations

from typing import Final

from cronaca.core.groups import WHOLE_PLANT
from cronaca.core.outputs import StageState
from cronaca.db.transaction import Transaction

_PUT: Final = """
INSERT INTO stage_state (group_id, stage, epoch, state)
VALUES (%(group_id)s, %(stage)s, %(epoch)s, %(state)s)
ON DUPLICATE KEY UPDATE
    state = IF(VALUES(epoch) >= epoch, VALUES(state), state), epoch = GREATEST(VALUES(epoch), epoch)
"""
_LIST: Final = "SELECT stage, epoch, state FROM stage_state WHERE group_id = %(group_id)s"


def put_state(tx: Transaction, epoch: int, state: StageState, group: int = WHOLE_PLANT) -> None:
    """Puts a state in place of the one before, unless a later epoch has left one already."""
    tx.execute(_PUT, group_id=group, stage=state.stage, epoch=epoch, state=state.state)


def list_states(tx: Transaction, group: int = WHOLE_PLANT) -> dict[str, tuple[int, bytes]]:
    """Of a group's recorder, by stage: the epoch under which it left its state, and the state."""
    return {str(stage): (int(epoch), bytes(state)) for stage, epoch, state in tx.fetch(_LIST, group_id=group)}
