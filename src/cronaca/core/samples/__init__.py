"""Tables of samples: which samples a table shows, and its rows, newest first."""

from cronaca.core.samples.conditions import QualityChoice, ValueCondition, matching
from cronaca.core.samples.ordering import Run, merged, rows_of, sorted_run
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
    "Cell", "QualityChoice", "Run", "SampleRow", "ValueCondition", "grid_times", "instants", "joined_row",
    "matching", "merged", "newest_first", "rows_of", "sample_row", "sorted_run",
]  # fmt: skip
