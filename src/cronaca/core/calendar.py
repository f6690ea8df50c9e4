"""Calendar facts that storage and windows need; zones come as tzinfo, never from the machine."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from cronaca.core.model import Times


def month_of(ts_us: Times) -> NDArray[np.int64]:
    """Year * 100 + month, in UTC, of each time."""
    months = ts_us.astype("datetime64[us]").astype("datetime64[M]").astype(np.int64)
    found: NDArray[np.int64] = (1970 + months // 12) * 100 + months % 12 + 1
    return found
