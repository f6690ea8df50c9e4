"""From rollups to samples: buckets of Good samples as blocks, among the plain samples of all other time."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.aggregates.samples import Blocks, as_type
from cronaca.core.model import Series, Times
from cronaca.core.rollup.buckets import NEVER, Buckets

_KEYS: Final = ("first", "lowest", "highest", "last")


def clean(buckets: Buckets) -> NDArray[np.bool_]:
    """Which buckets hold Good samples only, and no mark of a hole: they sum up alike under every
    configuration."""
    doubtful = buckets.counts["uncertain"] + buckets.counts["bad"] > 0
    result: NDArray[np.bool_] = ~doubtful & (buckets.points["bad_first"].ts_us == NEVER)
    return result


def without_edges(start_us: Times, width_us: int, edges_us: Times) -> NDArray[np.bool_]:
    """Which buckets no edge cuts: an edge where a bucket starts does not."""
    edges = np.sort(edges_us)
    result: NDArray[np.bool_] = np.searchsorted(edges, start_us, "right") == np.searchsorted(
        edges, start_us + width_us, "left"
    )
    return result


def condense(plain: Series, buckets: Buckets) -> tuple[Series, Blocks]:
    """Samples in order of time: the plain ones, and for each bucket its first, lowest, highest and last.
    No plain sample may lie in one of the buckets."""
    stacked = {name: buckets.points[name] for name in _KEYS}
    ts = np.stack([stacked[name].ts_us for name in _KEYS], axis=1)
    order = np.argsort(ts, axis=1, kind="stable")
    ts = np.take_along_axis(ts, order, axis=1)
    values = np.take_along_axis(np.stack([stacked[n].values for n in _KEYS], axis=1), order, axis=1)
    quality = np.take_along_axis(np.stack([stacked[n].quality for n in _KEYS], axis=1), order, axis=1)
    kept = np.ones(ts.shape, np.bool_)
    kept[:, 1:] = ts[:, 1:] != ts[:, :-1]
    inner = kept & (ts != ts[:, -1:])
    opens = np.zeros(ts.shape, np.bool_)
    opens[:, 0] = True

    def at_first(column: NDArray[np.generic]) -> NDArray[np.float64]:
        """A figure of each bucket, at the first of its samples, zero at the others."""
        return np.where(opens, np.asarray(column)[:, None], 0)[kept]

    blocks = Blocks(
        at_first(buckets.samples).astype(np.int64), at_first(buckets.figures["mean"]),
        at_first(buckets.figures["m2"]), inner[kept], at_first(buckets.figures["held"]),
        at_first(buckets.figures["sloped"]), at_first(buckets.counts["transitions"]).astype(np.int64),
    )  # fmt: skip
    keys = Series(plain.value_type, ts[kept], as_type(values[kept], plain.values), quality[kept])
    return _woven(plain, keys, blocks)


def _woven(plain: Series, keys: Series, blocks: Blocks) -> tuple[Series, Blocks]:
    count = len(plain)
    nothing = np.zeros(count)
    own = Blocks(
        np.ones(count, np.int64), np.where(q.is_bad(plain.quality), 0.0, plain.values), nothing,
        np.zeros(count, np.bool_), nothing, nothing, np.zeros(count, np.int64),
    )  # fmt: skip
    ts = np.concatenate([plain.ts_us, keys.ts_us])
    order = np.argsort(ts, kind="stable")
    series = Series(
        plain.value_type,
        ts[order],
        np.concatenate([plain.values, keys.values])[order],
        np.concatenate([plain.quality, keys.quality])[order],
    )
    both = Blocks(
        np.concatenate([own.counts, blocks.counts]), np.concatenate([own.mean, blocks.mean]),
        np.concatenate([own.m2, blocks.m2]), np.concatenate([own.inner, blocks.inner]),
        np.concatenate([own.held, blocks.held]), np.concatenate([own.sloped, blocks.sloped]),
        np.concatenate([own.transitions, blocks.transitions]),
    )  # fmt: skip
    return series, both.take(order)
