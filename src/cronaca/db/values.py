"""Values on their way into SQL: numpy scalars become Python's, NaN becomes NULL."""

from __future__ import annotations

import math
from typing import Any

import numpy as np


def to_db(value: Any) -> Any:  # noqa: ANN401 - the driver takes any scalar
    """The value as the driver should get it."""
    if isinstance(value, np.generic):
        value = value.item()
    if isinstance(value, float) and not math.isfinite(value):
        return None
    return value
