"""What an aggregate is computed from: the samples of one tag, or fewer samples that stand for many.

Long windows are read from rollups. A bucket of Good samples then comes as its first, lowest, highest and
last sample (all of them real ones) and as a *block*: count, mean and squared deviations of all its
samples, and the integrals between its first and last one. Every edge between intervals lies between two
blocks or among plain samples, so bounds are the same either way, and the sums merge exactly.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.model import Series, Times, Values

Floats = NDArray[np.float64]
_LOW_HALF: Final = 0xFFFF_FFFF


def as_type(values: NDArray[Any], like: Values) -> Values:
    """The values in the column type of others."""
    result: NDArray[Any] = values.astype(like.dtype, copy=False)
    return result


def away_from(values: NDArray[Any], others: NDArray[Any]) -> Floats:
    """values - others as float64, each rounded once: whole numbers are subtracted as such, in two halves of
    32 bits, for neither they nor their difference need fit into float64 or int64."""
    if values.dtype != np.int64:
        with np.errstate(over="ignore", invalid="ignore"):
            result: Floats = values.astype(np.float64) - others.astype(np.float64)
        return result
    high = (values >> 32) - (others >> 32)
    low = (values & _LOW_HALF) - (others & _LOW_HALF)
    return high.astype(np.float64) * 2.0**32 + low.astype(np.float64)


def differences(values: Values, others: Values) -> Values:
    """values - others in their own type; a column of whole numbers of which 64 bits do not hold one
    difference comes as floats, each rounded once."""
    if values.dtype != np.int64:
        return away_from(values, others)
    a, b = values.astype(np.int64, copy=False), others.astype(np.int64, copy=False)
    with np.errstate(over="ignore"):
        result = a - b
    # A difference that wrapped around has another sign than it should have.
    wrapped = ((a ^ b) & (a ^ result)) < 0
    return away_from(a, b) if bool(wrapped.any()) else result


@dataclass(frozen=True, slots=True)
class Blocks:
    """Columns beside a series, one entry per sample. `counts` is how many samples stand here: 1 for a plain
    one, all of them at the first sample of a block, 0 at its others; `mean` and `m2` are theirs. `inner`
    marks a sample whose span to the next one lies in a block; the block's integrals (`held`, `sloped`, in
    value * µs) and changes of value stand at its first such span."""

    counts: NDArray[np.int64]
    mean: Floats
    m2: Floats
    inner: NDArray[np.bool_]
    held: Floats
    sloped: Floats
    transitions: NDArray[np.int64]

    def take(self, index: NDArray[np.intp] | slice) -> Blocks:
        """Those of some samples; a block stays whole when none of its samples is left out."""
        return Blocks(
            self.counts[index], self.mean[index], self.m2[index], self.inner[index],
            self.held[index], self.sloped[index], self.transitions[index],
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Samples:
    """The history of one tag around some intervals, with its bounding samples on both sides.

    In `series` the start of each hole is marked by a Bad sample; `marks` says which those are: they part
    what they stand between, and are no recorded values. `known_until_us`: up to there the last value is
    known to have held; None when the last sample is all that is known. `annotations`: times of notes.
    """

    series: Series
    marks: NDArray[np.bool_] | None = None
    known_until_us: int | None = None
    annotations: Times | None = None
    blocks: Blocks | None = None

    def take(self, index: NDArray[np.intp]) -> Samples:
        """Some of the samples, with all that is said about them."""
        return Samples(
            self.series.take(index),
            None if self.marks is None else self.marks[index],
            self.known_until_us,
            self.annotations,
            None if self.blocks is None else self.blocks.take(index),
        )
