"""Statistics beyond the standard's aggregates."""

from cronaca.core.statistics.catalogue import OWN_DEFINITION, STATISTICS, TABLES, Statistic
from cronaca.core.statistics.contacts import StateTime, on_times, time_in_states
from cronaca.core.statistics.distribution import Histogram, histograms
from cronaca.core.statistics.kinds import Kind, kinds_of, member_of
from cronaca.core.statistics.motion import integral_base, integral_unit, rate_unit
from cronaca.core.statistics.spec import Base, Comparison, Condition, Other, StatSpec, Weight

__all__ = [
    "OWN_DEFINITION",
    "STATISTICS",
    "TABLES",
    "Base",
    "Comparison",
    "Condition",
    "Histogram",
    "Kind",
    "Other",
    "StatSpec",
    "StateTime",
    "Statistic",
    "Weight",
    "histograms",
    "integral_base",
    "integral_unit",
    "kinds_of",
    "member_of",
    "on_times",
    "rate_unit",
    "time_in_states",
]
