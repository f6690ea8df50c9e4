"""Values of the recorder itself: parts of the clock, the machine, states and rates of sources and loggers."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from typing import Final

from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType

_UID: Final = re.compile(r"[0-9a-f-]{36}")


class Item(StrEnum):
    """What is read."""

    YEAR = "year"
    MONTH = "month"
    DAY = "day"
    WEEKDAY = "weekday"
    HOUR = "hour"
    MINUTE = "minute"
    SECOND = "second"
    PROCESSOR = "processor"
    MEMORY = "memory"
    DISK = "disk"
    DISK_FREE = "disk_free"
    SAMPLE_RATE = "sample_rate"
    QUEUED = "queued"
    DROPPED = "dropped"
    LATE_SCANS = "late_scans"
    COMMIT_TIME = "commit_time"
    SOURCE_STATE = "source_state"
    LOGGER_STATE = "logger_state"
    LOGGER_REASON = "logger_reason"
    LOGGER_RATE = "logger_rate"


OF_SOURCES: Final = frozenset({Item.SOURCE_STATE})
OF_LOGGERS: Final = frozenset({Item.LOGGER_STATE, Item.LOGGER_REASON, Item.LOGGER_RATE})
STATES: Final = {
    Item.SOURCE_STATE: ("connecting", "up", "down", "disabled"),
    Item.LOGGER_STATE: ("recording", "stopped", "inhibited", "paused", "waiting"),
    Item.LOGGER_REASON: (
        "none", "person", "inhibit tag", "schedule", "tag", "no tags", "status not written", "interval",
    ),
}  # fmt: skip
"""Names of the values, from 0."""
CLOCK: Final = (Item.YEAR, Item.MONTH, Item.DAY, Item.WEEKDAY, Item.HOUR, Item.MINUTE, Item.SECOND)
"""In the plant's zone; Monday is 1, as in ISO 8601."""


@dataclass(frozen=True, slots=True)
class SystemAddress:
    """`of` is the uid of the source or logger, where it is of one."""

    item: Item
    of: str = ""


@lru_cache(maxsize=16_384)
def parse_system_address(text: str, value_type: ValueType) -> SystemAddress:
    """An address from its JSON form; raises InvalidInput."""
    try:
        given = json.loads(text)
        item, of = given.get("item"), given.get("of", "")
    except (ValueError, AttributeError) as exc:
        raise InvalidInput(
            "address", "no-such-value", "{text} is no such value", "Give item, and of.", text=text
        ) from exc
    if item not in [known.value for known in Item]:
        known = ", ".join(known.value for known in Item)
        raise InvalidInput(
            "address",
            "item-unknown",
            "the item {item!r} is unknown",
            "Use one of: {known}.",
            item=item,
            known=known,
        )
    for name in given:
        if name not in ("item", "of"):
            raise InvalidInput(
                "address", "such-value-no", "such a value has no {name!r}", "Leave it out.", name=name
            )
    parsed = Item(item)
    of = of if parsed in OF_SOURCES | OF_LOGGERS else ""
    if parsed in OF_SOURCES | OF_LOGGERS and (not isinstance(of, str) or not _UID.fullmatch(of)):
        kind = "source" if parsed in OF_SOURCES else "logger"
        raise InvalidInput(
            "address", "address-not", "it is not said of which {kind}", "Choose a {kind}.", kind=kind
        )
    if value_type in (ValueType.TEXT, ValueType.BOOLEAN):
        raise InvalidInput(
            "value_type",
            "such-value-number-state",
            "such a value is a number or a state",
            "Take float, integer or state.",
        )
    return SystemAddress(parsed, of)
