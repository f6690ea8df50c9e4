"""When a logger keeps a value: decisions only, over columns; the caller holds the state and the clock."""

from cronaca.core.logger_rules.build import check_rule_spec, rule_for
from cronaca.core.logger_rules.periodic import PeriodicState, decide_periodic, latest_tick
from cronaca.core.logger_rules.rehearse import Rehearsal, compare, rehearse, replay
from cronaca.core.logger_rules.rules import (
    ChangeRule,
    ChangeSettings,
    Rule,
    Sample,
    SwingingDoorRule,
    SwingingDoorSettings,
)

__all__ = [
    "ChangeRule",
    "ChangeSettings",
    "PeriodicState",
    "Rehearsal",
    "Rule",
    "Sample",
    "SwingingDoorRule",
    "SwingingDoorSettings",
    "check_rule_spec",
    "compare",
    "decide_periodic",
    "latest_tick",
    "rehearse",
    "replay",
    "rule_for",
]
