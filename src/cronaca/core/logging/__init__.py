"""When a logger keeps a value: decisions only, over columns; the caller holds the state and the clock."""

from cronaca.core.logging.build import check_wish, rule_for, wish_from_facts, wish_to_facts
from cronaca.core.logging.periodic import PeriodicState, decide_periodic, latest_tick
from cronaca.core.logging.rehearse import Rehearsal, rehearse, replay
from cronaca.core.logging.rules import ChangeFacts, ChangeRule, DoorFacts, DoorRule, Reading, Rule

__all__ = [
    "ChangeFacts",
    "ChangeRule",
    "DoorFacts",
    "DoorRule",
    "PeriodicState",
    "Reading",
    "Rehearsal",
    "Rule",
    "check_wish",
    "decide_periodic",
    "latest_tick",
    "rehearse",
    "replay",
    "rule_for",
    "wish_from_facts",
    "wish_to_facts",
]
