"""Quality of a value: the upper 16 bits of an OPC UA StatusCode (IEC 62541-4), as uint16.

The two top bits are the severity: 00 Good, 01 Uncertain, 10 Bad. The codes below are those of the
standard's status code table (from memory).
"""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

QualityArray = NDArray[np.uint16]

GOOD: Final = 0x0000
UNCERTAIN: Final = 0x4000
UNCERTAIN_LAST_USABLE: Final = 0x4090
UNCERTAIN_DATA_SUB_NORMAL: Final = 0x40A4
BAD: Final = 0x8000
BAD_RESOURCE_UNAVAILABLE: Final = 0x8004
BAD_DECODING: Final = 0x8007
BAD_NO_COMMUNICATION: Final = 0x8031
BAD_WAITING_FOR_INITIAL_DATA: Final = 0x8032
BAD_OUT_OF_RANGE: Final = 0x803C
BAD_CONFIGURATION: Final = 0x8089
BAD_DEVICE_FAILURE: Final = 0x808B
BAD_SENSOR_FAILURE: Final = 0x808C
BAD_NO_DATA: Final = 0x809B
BAD_DATA_LOST: Final = 0x809D

_NAMES: Final = {
    GOOD: "Good",
    UNCERTAIN: "Uncertain",
    UNCERTAIN_LAST_USABLE: "Uncertain, last usable value",
    UNCERTAIN_DATA_SUB_NORMAL: "Uncertain, data subnormal",
    BAD: "Bad",
    BAD_RESOURCE_UNAVAILABLE: "Bad, the device is busy",
    BAD_DECODING: "Bad, the device's answer cannot be read",
    BAD_NO_COMMUNICATION: "Bad, no communication",
    BAD_WAITING_FOR_INITIAL_DATA: "Bad, waiting for the first value",
    BAD_OUT_OF_RANGE: "Bad, out of range",
    BAD_CONFIGURATION: "Bad, configuration error",
    BAD_DEVICE_FAILURE: "Bad, device failure",
    BAD_SENSOR_FAILURE: "Bad, sensor failure",
    BAD_NO_DATA: "Bad, no data",
    BAD_DATA_LOST: "Bad, the stored data is damaged",
}


def is_good(quality: QualityArray) -> NDArray[np.bool_]:
    """True where the severity is Good."""
    return quality < UNCERTAIN


def is_bad(quality: QualityArray) -> NDArray[np.bool_]:
    """True where the severity is Bad (the standard's reserved severity 11 counts as Bad)."""
    return quality >= BAD


def is_bad_code(code: int) -> bool:
    """True for one code whose severity is Bad."""
    return code >= BAD


def severity(quality: QualityArray) -> NDArray[np.uint16]:
    """0 Good, 1 Uncertain, 2 or 3 Bad, per sample."""
    return np.right_shift(quality, 14)


def describe(code: int) -> str:
    """The quality in words; an unlisted code gives its severity and the code in hex."""
    known = _NAMES.get(code)
    if known is not None:
        return known
    return f"{('Good', 'Uncertain', 'Bad', 'Bad')[code >> 14]} (0x{code:04X})"
