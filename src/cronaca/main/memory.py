"""Memory of processes that compute much."""

from __future__ import annotations

import ctypes
import sys
from typing import Final

_M_TRIM_THRESHOLD: Final = -1
_M_MMAP_THRESHOLD: Final = -3
_M_ARENA_MAX: Final = -8
"""Options of glibc's mallopt (malloc.h)."""


def bound_memory() -> None:
    """Large arrays are given back to the system when they are freed. By itself the allocator keeps them in a
    pool for each thread (mallopt(3)), and a process that has computed much stays as large as it was."""
    if sys.platform != "linux":
        return
    mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
    if mallopt is not None:
        for option, value in ((_M_ARENA_MAX, 2), (_M_MMAP_THRESHOLD, 1 << 20), (_M_TRIM_THRESHOLD, 8 << 20)):
            mallopt(option, value)
