"""Registers that two tags would read as different things."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

from cronaca.core.addresses.modbus import parse_address
from cronaca.core.addresses.names import MODBUS
from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType


def check_overlaps(protocol: str, places: Iterable[tuple[str, str, ValueType]]) -> None:
    """Raises InvalidInput when two (name, address, type) of one device share registers but not their form.
    Two tags may read the very same value."""
    if protocol != MODBUS:
        return
    found = sorted(
        ((parse_address(address, kind), name) for name, address, kind in places),
        key=lambda one: (one[0].table, one[0].address, one[0].data_type),
    )
    for (one, name), (other, other_name) in pairwise(found):
        same = (one.address, one.data_type) == (other.address, other.data_type)
        if one.table == other.table and other.address < one.end and not same:
            raise InvalidInput(
                "address",
                f"{name} ({one.data_type} at {one.address}) and {other_name} ({other.data_type} at "
                f"{other.address}) share registers",
                "Correct the address or the data type of one.",
            )
