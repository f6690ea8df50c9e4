"""Control charts: limits from a reference, and the rules by which a run is unlikely."""

from cronaca.core.control.charts import (
    Chart,
    Cusum,
    Pair,
    cusum,
    ewma,
    individuals,
    mean_and_deviation,
    means_and_ranges,
    smoothed,
)
from cronaca.core.control.constants import Constants, constants_of
from cronaca.core.control.rules import RULES, Rule, broken

__all__ = [
    "RULES",
    "Chart",
    "Constants",
    "Cusum",
    "Pair",
    "Rule",
    "broken",
    "constants_of",
    "cusum",
    "ewma",
    "individuals",
    "mean_and_deviation",
    "means_and_ranges",
    "smoothed",
]
