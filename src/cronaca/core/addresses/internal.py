"""Internal values: set limits, recipe values, what people or scripts write. They live in the recorder."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType

_REMEDY: Final = "Give initial (a value, or none) and keep (true or false)."


@dataclass(frozen=True, slots=True)
class InternalAddress:
    """`initial` is the value before anything was written; None: it has none, and is Bad until then. With
    `keep` the value written last is there again after a restart; without it the initial one is."""

    initial: float | int | None = None
    keep: bool = True


@lru_cache(maxsize=16_384)  # read with every scan of every tag
def parse_internal_address(text: str, value_type: ValueType) -> InternalAddress:
    """An address from its JSON form; raises InvalidInput."""
    try:
        given = json.loads(text)
        initial, keep = given.get("initial"), given.get("keep", True)
    except (ValueError, AttributeError) as exc:
        raise InvalidInput(
            "address", "not-internal-value", "{text} is not an internal value", _REMEDY, text=text
        ) from exc
    for field in given:
        if field not in ("initial", "keep"):
            raise InvalidInput(
                "address",
                "internal-value-no",
                "an internal value has no {field_name!r}",
                _REMEDY,
                field_name=field,
            )
    if not isinstance(keep, bool):
        raise InvalidInput("address", "address-keep", "keep is {keep!r}", _REMEDY, keep=keep)
    if value_type is ValueType.TEXT:
        raise InvalidInput(
            "value_type",
            "internal-value-no-text",
            "an internal value cannot be text yet",
            "Take a number, boolean or state.",
        )
    return InternalAddress(None if initial is None else checked_value(initial, value_type, "address"), keep)


def checked_value(value: object, value_type: ValueType, field: str = "value") -> float | int:
    """A value that a tag of this type can hold; raises InvalidInput."""
    number = int(value) if isinstance(value, bool) else value
    if not isinstance(number, int | float) or not math.isfinite(number):
        raise InvalidInput(
            field, "not-number", "{value!r} is not a number", "Give a number, true or false.", value=value
        )
    if value_type is ValueType.FLOAT:
        return float(number)
    if number != int(number):
        raise InvalidInput(
            field,
            "not-whole-number",
            "{value!r} is not a whole number",
            "The tag is of type {value_type}.",
            value=value,
            value_type=value_type.name.lower(),
        )
    if value_type is ValueType.BOOLEAN and number not in (0, 1):
        raise InvalidInput(
            field,
            "neither-true-nor-false",
            "{value!r} is neither true nor false",
            "Give true or false.",
            value=value,
        )
    bits = 31 if value_type is ValueType.STATE else 63
    if not -(1 << bits) <= number < 1 << bits:
        raise InvalidInput(
            field, "too-large", "{value!r} is too large", "Give a smaller number.", value=value
        )
    return int(number)
