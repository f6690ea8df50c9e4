"""Pre-computed summaries of history: buckets of a pyramid, curves drawn from them, rows for reports."""

from cronaca.core.rollup.buckets import Buckets, bucketise, coarsen, key_samples
from cronaca.core.rollup.levels import LEVELS_US, base_for, level_for

__all__ = ["LEVELS_US", "Buckets", "base_for", "bucketise", "coarsen", "key_samples", "level_for"]
