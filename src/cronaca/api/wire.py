"""From the core's columns to what JSON carries."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from cronaca.api import schemas
from cronaca.api.schemas import exact
from cronaca.core import quality as q
from cronaca.core.bits import from_bits
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Gap, Series, Tag, ValueType
from cronaca.history.read.series import SeriesAnswer
from cronaca.logbook import texts
from cronaca.services.derived import DerivedCurve


def scalar(value: float | int | None, value_type: ValueType) -> schemas.Scalar:
    """One value: booleans as such, integers beyond 2^53 as text."""
    if value is None:
        return None
    if value_type is ValueType.BOOLEAN:
        return bool(value)
    return exact(value)


def values(series: Series) -> list[schemas.Scalar]:
    """A column of values; null where Bad."""
    bad = q.is_bad(series.quality).tolist()
    pairs = zip(series.values.tolist(), bad, strict=True)
    return [None if b else scalar(v, series.value_type) for v, b in pairs]


def bits(
    column: np.ndarray[Any, np.dtype[np.int64]], index: int, value_type: ValueType, quality: int
) -> schemas.Scalar:
    """One value from a column of 64-bit values."""
    return None if quality >= q.BAD else scalar(from_bits(int(column[index]), value_type), value_type)


def micros(times: np.ndarray[Any, np.dtype[np.int64]]) -> list[str]:
    """A column of times."""
    return [str(t) for t in times.tolist()]


def gap(hole: Gap, end_us: int) -> schemas.GapOut:
    """A gap; one that lasts ends with the window."""
    end = end_us if hole.end_us is None else hole.end_us
    return schemas.GapOut(
        start_us=str(hole.start_us), end_us=str(end), reason=hole.reason.value, detail=hole.detail
    )


def details(
    tag: Tag, answer: SeriesAnswer, reduced: bool, end_us: int, bucket_us: int, archive_id: int = 0
) -> dict[str, Any]:
    """The fields of schemas.SeriesDetails."""
    return {
        "tag": tag.uid,
        "value_type": tag.value_type.name.lower(),
        "stepped": tag.stepped or tag.value_type is not ValueType.FLOAT,
        "samples": answer.samples,
        "reduced": reduced,
        "bucket_us": bucket_us,
        "known_until_us": str(answer.known_until_us),
        "recorded_since_us": _text(answer.recorded_since_us),
        "last_us": _text(answer.last_us),
        "archive": archive_id,
        "gaps": [gap(g, end_us) for g in answer.blanks],
    }


def derived_details(name: str, made: DerivedCurve, end_us: int) -> dict[str, Any]:
    """The fields of schemas.SeriesDetails for what is no tag; `reduced` also where its inputs were."""
    return {
        "tag": name,
        "value_type": "float",
        "stepped": made.stepped,
        "samples": made.samples,
        "reduced": made.thinned,
        "bucket_us": 0,
        "known_until_us": str(made.known_until_us),
        "recorded_since_us": _text(made.recorded_since_us),
        "last_us": _text(made.last_us),
        "gaps": [gap(g, end_us) for g in made.blanks],
    }


def _text(us: int | None) -> str | None:
    return None if us is None else str(us)


def plain(content: dict[str, Any]) -> dict[str, Any]:
    """The fields of `details` as plain JSON."""
    return {**content, "gaps": [hole.model_dump() for hole in content["gaps"]]}


def series_of(
    value_type: ValueType, samples: list[schemas.SampleIn], codes_of: Callable[[list[str]], list[int]]
) -> Series:
    """Samples from outside as a series; raises InvalidInput that names the sample and what is wrong.
    `codes_of` gives the numbers by which history holds texts."""
    quality = [sample.q for sample in samples]
    if value_type is ValueType.TEXT:
        # A Bad sample has no value, whatever stands there.
        given = ["" if s.q >= q.BAD else _given_text(i, s) for i, s in enumerate(samples)]
        values: Sequence[float | int] = codes_of(given)
    else:
        values = [_exact(i, sample, value_type) for i, sample in enumerate(samples)]
    column = np.array(values, value_type.dtype) if values else np.empty(0, value_type.dtype)
    return Series.of(value_type, [int(s.t_us) for s in samples], column, quality)


def _given_text(index: int, sample: schemas.SampleIn) -> str:
    if not isinstance(sample.v, str):
        raise _unfit(index, ValueType.TEXT)
    if len(sample.v) > texts.LONGEST:
        raise InvalidInput(
            f"samples.{index}.v",
            "value-text-characters",
            "a text has {value} characters",
            "Keep to {longest}.",
            value=len(sample.v),
            longest=texts.LONGEST,
        )
    return sample.v


def _exact(index: int, sample: schemas.SampleIn, value_type: ValueType) -> float | int:
    if sample.q >= q.BAD:
        return 0
    try:
        if sample.v is None:
            raise _unfit(index, value_type)
        if value_type is ValueType.FLOAT:
            return _finite(float(sample.v))
        whole = int(sample.v)
    except (ValueError, OverflowError) as exc:
        raise exc if isinstance(exc, InvalidInput) else _unfit(index, value_type) from exc
    low, high = (0, 2) if value_type is ValueType.BOOLEAN else (-(1 << 63), 1 << 63)
    if not low <= whole < high or (isinstance(sample.v, float) and sample.v != whole):
        raise _unfit(index, value_type)
    return whole


def _finite(value: float) -> float:
    if not math.isfinite(value):
        raise ValueError("a usable value is finite")
    return value


def _unfit(index: int, value_type: ValueType) -> InvalidInput:
    return InvalidInput(
        f"samples.{index}.v",
        "sample-without-fitting-value",
        "a sample that is not Bad needs a value of the tag's type, {kind}",
        "Give such a value; whole numbers keep to 64 bits.",
        kind=value_type.name.lower(),
    )
