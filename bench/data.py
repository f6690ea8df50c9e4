"""Data to measure with: the demo's kind, and noise that nothing can compress."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import numpy as np

from cronaca.core.model import SECOND, Series, ValueType

START = 1_763_856_000 * SECOND
"""Midnight, a year before the last whole day of the measurement."""


def wave(count: int, seed: int, start_us: int = START) -> Series:
    """One decimal, slow wander and noise, as the demo's transmitters give."""
    rng = np.random.default_rng(seed)
    slow = 5 * np.sin(np.arange(count) / 9000.0 + seed)
    values = 71.5 + slow + rng.standard_normal(count, np.float32) * 0.06
    times = start_us + np.arange(count, dtype=np.int64) * SECOND
    return Series.of(ValueType.FLOAT, times, np.round(values, 1))


def noise(count: int, seed: int) -> Series:
    """Full 64-bit noise."""
    plain = wave(count, seed)
    return Series.of(ValueType.FLOAT, plain.ts_us, np.random.default_rng(seed).random(count))


def timed(work: Callable[[], object], runs: int = 5) -> float:
    """Median seconds of some runs after a warm-up."""
    return statistics.median(times(work, runs))


def times(work: Callable[[], object], runs: int) -> list[float]:
    """Seconds of each of some runs after a warm-up."""
    work()
    found = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return found


def p95(found: list[float]) -> float:
    """The 95th percentile."""
    return float(np.quantile(found, 0.95))
