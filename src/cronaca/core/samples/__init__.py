"""Tables of samples: which samples a table shows, and its rows, newest first."""

from cronaca.core.samples.conditions import QualityChoice, ValueCondition, matching
from cronaca.core.samples.rows import (
    Cell,
    SampleRow,
    grid_times,
    instants,
    joined_row,
    newest_first,
    sample_row,
)

__all__ = [
    "Cell", "QualityChoice", "SampleRow", "ValueCondition", "grid_times", "instants", "joined_row",
    "matching", "newest_first", "sample_row",
]  # fmt: skip
