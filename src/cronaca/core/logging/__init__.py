"""When a logger keeps a value: decisions only, over columns; the caller holds the state and the clock."""

from cronaca.core.logging.change import ChangeState, decide_change
from cronaca.core.logging.periodic import PeriodicState, decide_periodic, latest_tick

__all__ = ["ChangeState", "PeriodicState", "decide_change", "decide_periodic", "latest_tick"]
