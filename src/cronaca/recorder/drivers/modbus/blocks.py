"""Which requests read a set of addresses: neighbours together, holes read along when that is cheaper."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from cronaca.core.addresses.modbus import ModbusAddress, Table

MOST_REGISTERS: Final = 125
MOST_BITS: Final = 2_000
"""Limits of one request (MODBUS Application Protocol V1.1b3, 6.1 to 6.4)."""
WIDEST_HOLE: Final = 16
"""Unused registers that are read along: 32 bytes cost less than another request's round trip."""


@dataclass(frozen=True, slots=True)
class Block:
    """One request, and the positions (in the list asked for) of the values it answers."""

    table: Table
    start: int
    count: int
    members: tuple[int, ...]


def plan_blocks(addresses: Sequence[ModbusAddress], widest_hole: int = WIDEST_HOLE) -> list[Block]:
    """The requests for all addresses, as few as the limits allow; a value is never torn in two."""
    order = sorted(range(len(addresses)), key=lambda i: (addresses[i].table, addresses[i].address))
    blocks: list[Block] = []
    for i in order:
        address = addresses[i]
        last = blocks[-1] if blocks else None
        if last is not None and _joins(last, address, widest_hole):
            end = max(last.start + last.count, address.end)
            blocks[-1] = Block(last.table, last.start, end - last.start, (*last.members, i))
        else:
            blocks.append(Block(address.table, address.address, address.size, (i,)))
    return blocks


def _joins(block: Block, address: ModbusAddress, widest_hole: int) -> bool:
    most = MOST_BITS if address.table.of_bits else MOST_REGISTERS
    return (
        block.table is address.table
        and address.address - (block.start + block.count) <= widest_hole
        and address.end - block.start <= most
    )
