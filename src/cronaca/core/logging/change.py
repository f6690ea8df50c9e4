"""Recording on change: a sample whenever value or quality differs from the one recorded last."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q

Bits = NDArray[np.int64]


@dataclass(slots=True)
class ChangeState:
    """What was recorded last, per member; values as their 64 bits, so that every type compares exactly."""

    recorded: NDArray[np.bool_]
    bits: Bits
    quality: q.QualityArray

    @classmethod
    def fresh(cls, members: int) -> ChangeState:
        """Nothing recorded yet: the first value of each member is recorded."""
        return cls(np.zeros(members, np.bool_), np.zeros(members, np.int64), np.zeros(members, np.uint16))


def decide_change(
    state: ChangeState, members: NDArray[np.intp], bits: Bits, quality: q.QualityArray
) -> NDArray[np.bool_]:
    """Which of the members just read are recorded; updates the state. Two Bad values of the same
    quality do not differ, whatever bits they carry."""
    same_quality = quality == state.quality[members]
    same_value = (bits == state.bits[members]) | q.is_bad(quality)
    keep: NDArray[np.bool_] = ~(state.recorded[members] & same_quality & same_value)
    kept = members[keep]
    state.recorded[kept] = True
    state.bits[kept] = bits[keep]
    state.quality[kept] = quality[keep]
    return keep
