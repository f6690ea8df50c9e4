"""A pen that is calculated over history as it is looked at, without a tag of its own."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from cronaca.core.formulas import Call, Formula, Node, Number, evaluate_history, walk
from cronaca.core.formulas.working import LOOKING_BACK
from cronaca.core.model import SECOND, Series, ValueType, Window

_TICKS = 4
"""In each pixel column: instants at which a formula that looks back is evaluated beside the samples."""


def lookback_us(node: Node) -> int:
    """How far before a window the inputs are needed for a formula to be right in it, at most: looking back
    inside of looking back adds up. `since` and `held` know nothing of the time before that."""
    return sum(
        round(length.value * SECOND)
        for part in walk(node)
        if isinstance(part, Call) and part.function in LOOKING_BACK
        for length in part.arguments[1:]
        if isinstance(length, Number)
    )


def calculated_curve(node: Node, inputs: Mapping[str, Series], window: Window, width: int) -> Series:
    """The formula at every sample of an input, each held until its next one; in the window, and at the last
    instant before and the first behind it."""
    formula = Formula(node)
    ticks = None
    if formula.looks_back:
        step = max(window.length_us // (_TICKS * width), 1)
        ticks = np.arange(window.start_us, window.end_us, step, dtype=np.int64)
        last = max(
            (int(column.ts_us[-1]) for column in inputs.values() if len(column)), default=window.start_us
        )
        ticks = ticks[ticks <= last]
    whole = evaluate_history(formula, inputs, ValueType.FLOAT, ticks)
    first, after = np.searchsorted(whole.ts_us, [window.start_us, window.end_us]).tolist()
    return whole.take(slice(max(first - 1, 0), after + 1))
