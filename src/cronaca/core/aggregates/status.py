"""Status codes of computed values: 32 bits, the upper 16 a quality, the lower ones say how it was made.

Bits of OPC UA Part 4 (StatusCode, DataValue info bits) and Part 8/13 (historian bits), from memory.
"""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q

StatusArray = NDArray[np.uint32]

DATA_VALUE: Final = 0x0400
"""Info type: without it the bits below mean nothing."""
RAW: Final = 0x00
CALCULATED: Final = 0x01
INTERPOLATED: Final = 0x02
PARTIAL: Final = 0x04
MULTI_VALUE: Final = 0x10

GOOD: Final = 0
UNCERTAIN_SUB_NORMAL: Final = q.UNCERTAIN_DATA_SUB_NORMAL << 16
BAD: Final = q.BAD << 16
BAD_NO_DATA: Final = q.BAD_NO_DATA << 16

_BITS: Final = ((CALCULATED, "Calculated"), (INTERPOLATED, "Interpolated"), (PARTIAL, "Partial"),
                (MULTI_VALUE, "MultiValue"))  # fmt: skip


def from_quality(quality: q.QualityArray) -> StatusArray:
    """The status of a raw value, without bits."""
    return quality.astype(np.uint32) << np.uint32(16)


def with_bits(status: StatusArray, *bits: int | NDArray[np.int64]) -> StatusArray:
    """The codes with these bits and the info type; a code without any bit stays plain."""
    result = np.zeros(len(status), np.int64)
    for bit in bits:
        result |= bit
    result = np.where(result != 0, result | DATA_VALUE, 0)
    return status | result.astype(np.uint32)


def bit(flag: NDArray[np.bool_], value: int) -> NDArray[np.int64]:
    """The bit where the flag is set."""
    return np.where(flag, value, 0)


def severity(status: StatusArray) -> NDArray[np.uint32]:
    """0 Good, 1 Uncertain, 2 or 3 Bad."""
    return status >> np.uint32(30)


def severity_name(code: int) -> str:
    """Good, Uncertain or Bad."""
    return ("Good", "Uncertain", "Bad", "Bad")[code >> 30]


def code_name(code: int) -> str:
    """Good, Uncertain or Bad; any other code in hex."""
    return severity_name(code) if code & 0x3FFF_FFFF == 0 else f"0x{code:08X}"


def describe(code: int) -> str:
    """The status in words: the quality, then how the value was made."""
    words = [q.describe(code >> 16)]
    if code & DATA_VALUE:
        words += [name for bit_, name in _BITS if code & bit_]
    return ", ".join(words)
