"""Checks that many objects of the set-up share: names, texts, durations."""

from __future__ import annotations

from cronaca.core.errors import InvalidInput
from cronaca.core.model import SECOND, ValueType


def check_name(name: str, most: int, field_name: str = "name") -> str:
    """A name without space around it; raises InvalidInput when it is empty, too long or unprintable."""
    name = name.strip()
    if not name:
        raise InvalidInput(field_name, "names-empty", "it is empty", "Give a name.")
    if len(name) > most:
        raise InvalidInput(
            field_name,
            "names-characters",
            "it has {name} characters",
            "Give at most {most}.",
            name=len(name),
            most=most,
        )
    if not name.isprintable():
        raise InvalidInput(
            field_name,
            "holds-character-cannot-shown",
            "it holds a character that cannot be shown",
            "Leave it out.",
        )
    return name


def check_text(text: str, most: int, field_name: str) -> str:
    """The same as a name, but it may be empty."""
    return "" if not text.strip() else check_name(text, most, field_name)


def check_duration(value_us: int, low_us: int, high_us: int, field_name: str) -> None:
    """Raises InvalidInput for a duration outside its limits."""
    if not low_us <= value_us <= high_us:
        low, high = low_us / SECOND, high_us / SECOND
        raise InvalidInput(
            field_name,
            "names-s",
            "{value_us:g} s",
            "Give {low:g} s to {high:g} s.",
            value_us=value_us / SECOND,
            low=low,
            high=high,
        )


def names_things(value_type: ValueType, unit: str) -> bool:
    """Whether the values of a tag are names rather than amounts, such as a lot, an order, a state: whole
    numbers without a unit, states, contacts, texts. Of these a mean says nothing."""
    return value_type is not ValueType.FLOAT and not (value_type is ValueType.INTEGER and unit)
