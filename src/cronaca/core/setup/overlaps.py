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
    sorted_places = sorted(
        ((parse_address(address, kind), name) for name, address, kind in places),
        key=lambda place: (place[0].table, place[0].address, place[0].data_type),
    )
    for (place, name), (other, other_name) in pairwise(sorted_places):
        same = (place.address, place.data_type) == (other.address, other.data_type)
        if place.table == other.table and other.address < place.end and not same:
            raise InvalidInput(
                "address",
                "share-registers",
                "{name} ({data_type} at {address}) and {other_name} ({data_type_2} at {address_2}) "
                "share registers",
                "Correct the address or the data type of one.",
                name=name,
                data_type=place.data_type,
                address=place.address,
                other_name=other_name,
                data_type_2=other.data_type,
                address_2=other.address,
            )
