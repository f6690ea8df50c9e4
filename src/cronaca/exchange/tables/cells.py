"""Cells of a table as columns: times, values and qualities, whole columns at once; only when one fails is
each cell looked at, to name the bad ones."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Final
from zoneinfo import ZoneInfo

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import EARLIEST, LATEST, Times, Values, ValueType
from cronaca.exchange.tables.form import TableOptions

Bad = dict[int, str]
"""Row within the block, and why it cannot be used."""
_EPOCHS: Final = {"epoch_s": 1_000_000, "epoch_ms": 1_000, "epoch_us": 1}
_ZONED: Final = re.compile(r"(Z|[+-]\d{2}:?\d{2})$")
_DAY_FIRST: Final = re.compile(r"^\d{1,2}\.\d{1,2}\.\d{4}")
_ISO: Final = re.compile(r"^\d{4}-\d{2}-\d{2}")
_QUALITIES: Final = {"good": q.GOOD, "uncertain": q.UNCERTAIN, "bad": q.BAD, "": q.GOOD}
_TRUE: Final = frozenset({"true", "1", "on", "yes", "1.0"})
_FALSE: Final = frozenset({"false", "0", "off", "no", "0.0"})


def times_of(column: pa.Array, options: TableOptions) -> tuple[Times, Bad]:
    """Times in µs (0 where bad). Raises InvalidInput when the file does not say what they mean."""
    if pa.types.is_timestamp(column.type):
        return _from_timestamps(column, options)
    column = pc.utf8_trim_whitespace(column.cast(pa.string()))
    sample = next((text for text in column.slice(0, 1000).to_pylist() if text), "")
    if options.time_format in _EPOCHS:
        return _epochs(column, _EPOCHS[options.time_format])
    if not options.time_format and _ISO.match(sample) and _ZONED.search(sample[10:]):
        times = _try(lambda: column.cast(pa.timestamp("us", tz="UTC")))
        if times is not None and not times.null_count:
            return _checked(times.cast(pa.int64()).to_numpy(zero_copy_only=False))
    elif not options.time_format and _ISO.match(sample):
        zone = options.zone_info()
        times = _try(lambda: column.cast(pa.timestamp("us")))
        if times is not None and not times.null_count:
            return _localised(times, zone)
    elif not options.time_format and not _DAY_FIRST.match(sample):
        raise InvalidInput(
            "time_format",
            "times-like-mean-several",
            "times like {sample!r} can mean several things",
            "Say which: --time-format with a strptime format, or epoch_s, epoch_ms, epoch_us.",
            sample=sample,
        )
    return _one_by_one(column, lambda text: _parse_time(text, options))


def _from_timestamps(column: pa.Array, options: TableOptions) -> tuple[Times, Bad]:
    if column.type.tz is None:
        return _localised(column.cast(pa.timestamp("us")), options.zone_info())
    return _checked(column.cast(pa.timestamp("us", tz="UTC")).cast(pa.int64()).to_numpy(zero_copy_only=False))


def _localised(column: pa.Array, zone: ZoneInfo) -> tuple[Times, Bad]:
    """Times of a zone; those that exist twice or not at all on a day when the clocks change are bad."""
    options = {"ambiguous": "raise", "nonexistent": "raise"}
    moments = _try(lambda: pc.assume_timezone(column, zone.key, **options))
    if moments is not None:
        return _checked(
            moments.cast(pa.timestamp("us", tz="UTC")).cast(pa.int64()).to_numpy(zero_copy_only=False)
        )
    texts = pc.strftime(column, "%Y-%m-%dT%H:%M:%S")
    return _one_by_one(texts, lambda text: _local(datetime.fromisoformat(text), zone))


def _epochs(column: pa.Array, factor: int) -> tuple[Times, Bad]:
    whole = _try(lambda: column.cast(pa.int64()))
    if whole is not None and not whole.null_count:
        return _checked(whole.to_numpy(zero_copy_only=False) * factor)
    return _one_by_one(column, lambda text: round(float(text) * factor))


def _checked(times: Times) -> tuple[Times, Bad]:
    outside = np.flatnonzero((times < EARLIEST) | (times > LATEST))
    return times, dict.fromkeys(outside.tolist(), "the time lies outside 1970 to 9999")


def _parse_time(text: str, options: TableOptions) -> int:
    if options.time_format:
        moment = datetime.strptime(text, options.time_format)
    elif _DAY_FIRST.match(text):
        day, _, clock = text.replace("T", " ").partition(" ")
        d, m, y = day.split(".")
        moment = datetime.fromisoformat(f"{y}-{int(m):02d}-{int(d):02d}T{clock or '00:00:00'}")
    else:
        moment = datetime.fromisoformat(text)
    if moment.tzinfo is None:
        return _local(moment, options.zone_info())
    return _micros(moment)


def _local(moment: datetime, zone: ZoneInfo) -> int:
    early, late = moment.replace(tzinfo=zone, fold=0), moment.replace(tzinfo=zone, fold=1)
    if early.utcoffset() != late.utcoffset():
        exists = early.astimezone(UTC).astimezone(zone).replace(tzinfo=None) == moment
        kind = "exists twice" if exists else "does not exist"
        raise ValueError(f"the local time {moment.isoformat(' ')} {kind}: write it with its offset")
    return _micros(early)


def _micros(moment: datetime) -> int:
    since = moment.astimezone(UTC) - datetime(1970, 1, 1, tzinfo=UTC)
    return (since.days * 86_400 + since.seconds) * 1_000_000 + since.microseconds


def values_of(
    column: pa.Array, kind: ValueType, decimal_comma: bool
) -> tuple[Values, NDArray[np.bool_], Bad]:
    """Values, where there is one at all, and which cells are bad. Texts are not for here."""
    if pa.types.is_string(column.type) or pa.types.is_large_string(column.type):
        return _values_of_texts(pc.utf8_trim_whitespace(column), kind, decimal_comma)
    there = column.is_valid().to_numpy(zero_copy_only=False)
    target = pa.float64() if kind is ValueType.FLOAT else pa.int64()
    values = _try(lambda: column.cast(target).fill_null(0))
    if values is None:
        raise InvalidInput(
            "file",
            "column-not",
            "a column of {type} is not {kind}",
            "Give its own type.",
            type=column.type,
            kind=kind.name.lower(),
        )
    return values.to_numpy(zero_copy_only=False).copy(), there, {}


def _values_of_texts(
    column: pa.Array, kind: ValueType, decimal_comma: bool
) -> tuple[Values, NDArray[np.bool_], Bad]:
    empty = pc.or_(column.is_null(), pc.equal(column.fill_null(""), ""))
    there = ~empty.to_numpy(zero_copy_only=False)
    filled = pc.if_else(empty, "0", column)
    if decimal_comma and kind is ValueType.FLOAT:
        filled = pc.replace_substring(filled, ",", ".")
    target = pa.float64() if kind is ValueType.FLOAT else pa.int64()
    values = None if kind is ValueType.BOOLEAN else _try(lambda: filled.cast(target))
    if values is not None:
        return values.to_numpy(zero_copy_only=False).copy(), there, {}
    parse: Callable[[str], float | int] = _integer
    if kind in (ValueType.FLOAT, ValueType.BOOLEAN):
        parse = float if kind is ValueType.FLOAT else _boolean
    found_values, bad = _cells(filled, parse, kind)
    return found_values, there, bad


def _cells(column: pa.Array, parse: Callable[[str], float | int], kind: ValueType) -> tuple[Values, Bad]:
    values = np.zeros(len(column), kind.dtype)
    bad: Bad = {}
    for i, text in enumerate(column.to_pylist()):
        try:
            values[i] = parse(text)
        except (ValueError, OverflowError):
            bad[i] = f"{text!r} is no value of type {kind.name.lower()}"
    return values, bad


def _boolean(text: str) -> int:
    low = text.lower()
    if low not in _TRUE and low not in _FALSE:
        raise ValueError(text)
    return int(low in _TRUE)


def _integer(text: str) -> int:
    whole = int(text)
    if not -(1 << 63) <= whole < 1 << 63:
        raise OverflowError(text)
    return whole


def qualities_of(column: pa.Array) -> tuple[q.QualityArray, Bad]:
    """Good, Uncertain, Bad, or a status code: 8 hex digits of which the upper four count, or 4."""
    if pa.types.is_integer(column.type):
        return column.fill_null(0).to_numpy(zero_copy_only=False).astype(np.uint16), {}
    coded = column if pa.types.is_dictionary(column.type) else pc.dictionary_encode(column.cast(pa.string()))
    coded = coded.fill_null("") if coded.null_count else coded
    codes: list[int | None] = [_quality((text or "").strip()) for text in coded.dictionary.to_pylist()]
    places = coded.indices.to_numpy(zero_copy_only=False)
    table = np.array([0 if code is None else code for code in codes], np.uint16)
    wrong = np.array([code is None for code in codes], np.bool_)
    bad = {
        int(i): f"{coded.dictionary[int(places[i])].as_py()!r} is no quality"
        for i in np.flatnonzero(wrong[places]).tolist()
    }
    return table[places], bad


def _quality(text: str) -> int | None:
    low = text.lower()
    if low in _QUALITIES:
        return _QUALITIES[low]
    digits = low.removeprefix("0x")
    if len(digits) not in (4, 8) or any(c not in "0123456789abcdef" for c in digits):
        return None
    return int(digits[:4], 16)


def _one_by_one(column: pa.Array, parse: Callable[[str], int]) -> tuple[Times, Bad]:
    values = np.zeros(len(column), np.int64)
    bad: Bad = {}
    for i, text in enumerate(column.to_pylist()):
        try:
            values[i] = parse(text or "")
        except InvalidInput:
            raise
        except (ValueError, OverflowError) as exc:
            said = str(exc)
            bad[i] = said if said.startswith("the local time") else f"{text!r} is no time"
    checked, outside = _checked(values)
    return checked, {**outside, **bad}


def _try(work: Callable[[], pa.Array]) -> pa.Array | None:
    try:
        return work()
    except (pa.ArrowInvalid, pa.ArrowNotImplementedError):
        return None
