"""When a logger keeps a value: decisions only, over columns; the caller holds the state and the clock."""

from cronaca.core.logging.change import ChangeState, decide_change
from cronaca.core.logging.periodic import PeriodicState, decide_periodic, latest_tick
from cronaca.core.logging.rehearse import Rehearsal, rehearse, replay
from cronaca.core.logging.rules import ChangeFacts, ChangeRule, DoorFacts, DoorRule, Reading, Rule

__all__ = [
    "ChangeFacts",
    "ChangeRule",
    "ChangeState",
    "DoorFacts",
    "DoorRule",
    "PeriodicState",
    "Reading",
    "Rehearsal",
    "Rule",
    "decide_change",
    "decide_periodic",
    "latest_tick",
    "rehearse",
    "replay",
]
