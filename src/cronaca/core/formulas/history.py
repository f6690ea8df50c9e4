"""A calculation over recorded history: the same rule as live, thousands of instants at once."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final, Protocol

import numpy as np

from cronaca.core import quality as q
from cronaca.core.formulas.columns import Column, Instants
from cronaca.core.model import Series, Times, ValueType, concatenate

_AT_ONCE: Final = 65_536
_MOST_STEPS: Final = 8
"""What looks back remembers up to all of the instants before, and goes over them at each step: with a bounded
number of steps the time stays linear in the number of instants."""


class Running(Protocol):
    """A formula or a meter."""

    def run(self, instants: Instants) -> Column:
        """Goes on over these instants."""
        ...


def evaluate_history(
    running: Running, inputs: Mapping[str, Series], value_type: ValueType, ticks_us: Times | None = None
) -> Series:
    """The results at every sample of an input, and at `ticks_us` (for what changes while its inputs stay the
    same); an input holds its value between its samples. Before its first sample it is Bad."""
    times = [column.ts_us for column in inputs.values()]
    if ticks_us is not None:
        times.append(ticks_us)
    at = np.unique(np.concatenate([np.empty(0, np.int64), *times]))
    step = max(_AT_ONCE, -(-len(at) // _MOST_STEPS))
    parts = [_run(running, inputs, at[first : first + step], value_type) for first in range(0, len(at), step)]
    return concatenate(parts, value_type)


def _run(running: Running, inputs: Mapping[str, Series], at: Times, value_type: ValueType) -> Series:
    columns = {name: held_at(series, at) for name, series in inputs.items()}
    return running.run(Instants(at, columns)).to_series(at, value_type)


def held_at(series: Series, at: Times) -> Column:
    """What the samples say at these times, each held until the next."""
    positions = np.searchsorted(series.ts_us, at, side="right") - 1
    known = positions >= 0
    if not len(series):
        return Column(np.full(len(at), np.nan), np.full(len(at), q.BAD_WAITING_FOR_INITIAL_DATA, np.uint16))
    values = np.where(known, series.values[positions].astype(np.float64), np.nan)
    quality = np.where(known, series.quality[positions], np.uint16(q.BAD_WAITING_FOR_INITIAL_DATA))
    return Column.of(values, quality)
