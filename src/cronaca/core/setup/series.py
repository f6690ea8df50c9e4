"""Many tags at once: a range of addresses and a pattern for their names."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Final

from cronaca.core.addresses.modbus import parse_address
from cronaca.core.addresses.names import MODBUS
from cronaca.core.errors import InvalidInput
from cronaca.core.setup.specs import TagSpec

MOST: Final = 5_000
_PLACE: Final = re.compile(r"\{(n|address)(?::(\d))?\}")


def named_series(
    first: TagSpec, protocol: str, count: int, *, start: int = 1, step: int | None = None
) -> list[TagSpec]:
    """`count` tags like the first one. In name and description `{n}` is the number (from `start`), `{n:2}`
    the same with two digits, `{address}` the address. A node of an OPC UA server takes the number too; Modbus
    addresses follow each other by `step` registers (none: by the size of the value). Raises InvalidInput."""
    if not 1 <= count <= MOST:
        raise InvalidInput(
            "count",
            "tags-cannot-added-once",
            "{count} tags cannot be added at once",
            "Give 1 to {most}.",
            count=count,
            most=MOST,
        )
    if count > 1 and not _PLACE.search(first.name):
        raise InvalidInput(
            "name", "all-same-name", "all would have the same name", "Put {n} where the number belongs."
        )
    if protocol != MODBUS:
        return [_named(first, start + i, start + i) for i in range(count)]
    place = parse_address(first.address, first.value_type)
    width = place.size if step is None else step
    if width < 1:
        raise InvalidInput("step", "not-move-on", "{width} does not move on", "Give 1 or more.", width=width)
    tags = []
    for i in range(count):
        there = replace(place, address=place.address + i * width)
        tags.append(replace(_named(first, start + i, there.address), address=there.to_json()))
    return tags


def _named(tag: TagSpec, number: int, address: int) -> TagSpec:
    def fill(match: re.Match[str]) -> str:
        value = number if match[1] == "n" else address
        return f"{value:0{match[2] or 1}d}"

    return replace(
        tag, name=_PLACE.sub(fill, tag.name), description=_PLACE.sub(fill, tag.description),
        address=_PLACE.sub(fill, tag.address),
    )  # fmt: skip
