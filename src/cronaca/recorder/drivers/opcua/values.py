"""A server's DataValue as a sample of ours: time, 64 bits, quality; and the way back."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any, Final

import numpy as np
from asyncua import ua

from cronaca.core import quality as q
from cronaca.core.addresses.opcua import OpcUaAddress
from cronaca.core.bits import to_bits
from cronaca.core.model import ValueType

_EPOCH: Final = datetime(1970, 1, 1, tzinfo=UTC)
_OVERFLOW: Final = 0x0480
_MICROSECOND: Final = timedelta(microseconds=1)


def to_us(moment: datetime) -> int:
    """µs since 1970, exact: a float of seconds would lose the last digits."""
    known = moment if moment.tzinfo else moment.replace(tzinfo=UTC)
    return (known - _EPOCH) // _MICROSECOND


def to_moment(ts_us: int) -> datetime:
    """The way back."""
    return _EPOCH + timedelta(microseconds=ts_us)


def source_us(value: ua.DataValue) -> int | None:
    """When the device took the value: its own time, or else the server's."""
    moment = value.SourceTimestamp or value.ServerTimestamp
    ts_us = None if moment is None else to_us(moment)
    # The standard's zero, the year 1601, says that there is no time.
    return None if ts_us is None or ts_us <= 0 else ts_us


def has_overflowed(value: ua.DataValue) -> bool:
    """Whether the queue of the item was too short: the bits Overflow and InfoType DataValue of the status
    (IEC 62541-4, 7.39.1; from memory)."""
    return value.StatusCode is not None and value.StatusCode.value & _OVERFLOW == _OVERFLOW


def to_sample(value: ua.DataValue, place: OpcUaAddress, kind: ValueType) -> tuple[int, int]:
    """64 bits and quality. What is Bad, missing, of a wrong type or too large carries no value."""
    quality = (value.StatusCode.value if value.StatusCode else 0) >> 16
    raw: Any = None if value.Value is None else value.Value.Value
    if quality >= q.BAD:
        return 0, quality
    if raw is None:
        return 0, q.BAD_NO_DATA
    if not isinstance(raw, bool | int | float):
        return 0, q.BAD_CONFIGURATION
    if kind is ValueType.FLOAT:
        number = place.to_engineering(float(raw))
        return (to_bits(number, kind), quality) if np.isfinite(number) else (0, q.BAD_NO_DATA)
    return _whole(raw, quality, kind)


def _whole(raw: bool | int | float, quality: int, kind: ValueType) -> tuple[int, int]:
    if isinstance(raw, float):
        return 0, q.BAD_CONFIGURATION
    number = bool(raw) if kind is ValueType.BOOLEAN else int(raw)
    try:
        return to_bits(number, kind), quality
    except OverflowError:
        return 0, q.BAD_OUT_OF_RANGE


def to_variant(value: float, place: OpcUaAddress, kind: ua.VariantType) -> ua.Variant:
    """A value in the form that the server's variable has; raises ValueError when it has no such form."""
    raw = place.to_raw(value)
    if kind is ua.VariantType.Boolean:
        return ua.Variant(bool(raw), kind)
    if kind in (ua.VariantType.Float, ua.VariantType.Double):
        return ua.Variant(float(raw), kind)
    if kind not in _WHOLE:
        raise ValueError(f"a variable of type {kind.name} takes no number")
    low, high = _WHOLE[kind]
    if not low <= round(raw) <= high:
        raise ValueError(f"{value:g} does not fit into {kind.name}")
    return ua.Variant(round(raw), kind)


_WHOLE: Final = {
    ua.VariantType.SByte: (-(1 << 7), (1 << 7) - 1),
    ua.VariantType.Byte: (0, (1 << 8) - 1),
    ua.VariantType.Int16: (-(1 << 15), (1 << 15) - 1),
    ua.VariantType.UInt16: (0, (1 << 16) - 1),
    ua.VariantType.Int32: (-(1 << 31), (1 << 31) - 1),
    ua.VariantType.UInt32: (0, (1 << 32) - 1),
    ua.VariantType.Int64: (-(1 << 63), (1 << 63) - 1),
    ua.VariantType.UInt64: (0, (1 << 64) - 1),
}
