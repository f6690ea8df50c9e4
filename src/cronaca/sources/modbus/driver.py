"""The Modbus TCP driver: one connection, block reads, qualities by the device's answers."""

from __future__ import annotations

import json
import logging
from collections.abc import Sequence
from dataclasses import replace
from typing import Final

import numpy as np
from pymodbus.client import AsyncModbusTcpClient
from pymodbus.exceptions import ModbusException
from pymodbus.pdu import ModbusPDU

from cronaca.core import quality as q
from cronaca.core.addresses import check_config
from cronaca.core.addresses.modbus import DataType, ModbusAddress, Table, parse_address
from cronaca.core.addresses.protocols import MODBUS
from cronaca.core.bits import to_bits
from cronaca.core.errors import InvalidInput, SourceRefused, SourceUnreachable
from cronaca.core.model import Tag, ValueType
from cronaca.core.ports import Reading
from cronaca.sources.modbus.blocks import Block, plan_blocks

# The library logs each lost answer with a dump of its traffic; we report states ourselves.
logging.getLogger("pymodbus").setLevel(logging.CRITICAL)

_READERS: Final = {
    Table.COIL: "read_coils",
    Table.DISCRETE_INPUT: "read_discrete_inputs",
    Table.INPUT_REGISTER: "read_input_registers",
    Table.HOLDING_REGISTER: "read_holding_registers",
}
_EXCEPTIONS: Final = {
    1: "illegal function",
    2: "illegal data address",
    3: "illegal data value",
    4: "device failure",
    5: "acknowledge",
    6: "device busy",
    10: "gateway path unavailable",
    11: "gateway target does not respond",
}
"""Exception codes (MODBUS Application Protocol V1.1b3, 7)."""


_MOST_PLANS: Final = 32
_UNUSABLE: Final = ModbusAddress(Table.COIL, 0, DataType.BOOL)
_log = logging.getLogger(__name__)


class ModbusDriver:
    """Reads tags from one device over Modbus TCP; a core.ports.Driver."""

    def __init__(self, config: str) -> None:
        facts = check_config(MODBUS, json.loads(config))
        self._host: str = facts["host"]
        self._port: int = facts["port"]
        self._unit: int = facts["unit"]
        self._timeout: float = facts["timeout_s"]
        self._client: AsyncModbusTcpClient | None = None
        self._plans: dict[object, tuple[list[ModbusAddress], list[Block]]] = {}

    async def connect(self) -> None:
        """Opens the connection; raises SourceUnreachable."""
        client = AsyncModbusTcpClient(
            self._host, port=self._port, timeout=self._timeout, retries=0, reconnect_delay=0
        )
        if not await client.connect():
            client.close()
            raise SourceUnreachable(f"no connection to {self._host}:{self._port}")
        self._client = client

    async def read(self, tags: Sequence[Tag]) -> Reading:
        """The tags' values now; what the device refuses is Bad. Raises SourceUnreachable on silence."""
        addresses, blocks = self._plan(tags)
        bits = np.zeros(len(tags), np.int64)
        quality = np.full(len(tags), q.BAD_CONFIGURATION, np.uint16)
        for block in list(blocks):
            try:
                words = await self._read_block(block)
            except SourceRefused:
                if len(block.members) > 1:
                    # A hole or one wrong address spoils the whole request: from now on one by one.
                    blocks.remove(block)
                    blocks.extend(_singles(addresses, block))
                quality[list(block.members)] = q.BAD_CONFIGURATION
                continue
            for i in block.members:
                start = addresses[i].address - block.start
                raw = words[start : start + addresses[i].size]
                bits[i], quality[i] = _value(addresses[i], tags[i].value_type, raw)
        return Reading(bits, quality)

    async def write(self, tag: Tag, value: float) -> None:
        """Writes a coil or holding registers; raises SourceRefused, SourceUnreachable."""
        client = self._client
        if client is None or not client.connected:
            raise SourceUnreachable(f"the connection to {self._host}:{self._port} is closed")
        try:
            place = parse_address(tag.address, tag.value_type)
            words = place.encode(value)
        except InvalidInput as exc:
            raise SourceRefused(str(exc)) from exc
        if not place.writable:
            raise SourceRefused(f"a {place.table} takes no value")
        try:
            if place.table is Table.COIL:
                answer: ModbusPDU = await client.write_coil(
                    place.address, bool(words[0]), device_id=self._unit
                )
            else:
                answer = await client.write_registers(place.address, words, device_id=self._unit)
        except (TimeoutError, ModbusException, OSError) as exc:
            raise SourceUnreachable(
                f"no answer from {self._host}:{self._port} in {self._timeout:g} s"
            ) from exc
        _refuse_error(answer)

    async def close(self) -> None:
        """Closes the connection."""
        if self._client is not None:
            self._client.close()
            self._client = None

    def _plan(self, tags: Sequence[Tag]) -> tuple[list[ModbusAddress], list[Block]]:
        key = tuple(tag.address for tag in tags), tuple(tag.value_type for tag in tags)
        if key not in self._plans:
            if len(self._plans) >= _MOST_PLANS:
                self._plans.clear()  # those of tags as they were before are not asked for again
            addresses = [_usable(tag) for tag in tags]
            members = [i for i, address in enumerate(addresses) if address is not _UNUSABLE]
            planned = plan_blocks([addresses[i] for i in members])
            blocks = [replace(one, members=tuple(members[i] for i in one.members)) for one in planned]
            self._plans[key] = addresses, blocks
        return self._plans[key]

    async def _read_block(self, block: Block) -> list[int] | list[bool]:
        if self._client is None or not self._client.connected:
            raise SourceUnreachable(f"the connection to {self._host}:{self._port} is closed")
        reader = getattr(self._client, _READERS[block.table])
        try:
            answer: ModbusPDU = await reader(block.start, count=block.count, device_id=self._unit)
        except (TimeoutError, ModbusException, OSError) as exc:
            raise SourceUnreachable(
                f"no answer from {self._host}:{self._port} in {self._timeout:g} s"
            ) from exc
        _refuse_error(answer)
        return list(answer.bits[: block.count]) if block.table.of_bits else list(answer.registers)


def _refuse_error(answer: ModbusPDU) -> None:
    if answer.isError():
        code = getattr(answer, "exception_code", 0)
        raise SourceRefused(f"exception {code}, {_EXCEPTIONS.get(code, 'unknown')}")


def _usable(tag: Tag) -> ModbusAddress:
    """The tag's place. One that cannot be used makes its own tag Bad, and does not stop the others."""
    try:
        return parse_address(tag.address, tag.value_type)
    except InvalidInput as exc:
        _log.warning("Tag %s cannot be read: %s", tag.name, exc)
        return _UNUSABLE


def _singles(addresses: Sequence[ModbusAddress], block: Block) -> list[Block]:
    return [Block(block.table, addresses[i].address, addresses[i].size, (i,)) for i in block.members]


def _value(address: ModbusAddress, value_type: ValueType, raw: list[int] | list[bool]) -> tuple[int, int]:
    """64 bits and quality: a float that is no number, or an integer beyond int64, has no value."""
    try:
        value = address.decode(raw)
        if value_type is ValueType.FLOAT:
            value = float(value)
            if not np.isfinite(value):
                return 0, q.BAD_NO_DATA
        elif isinstance(value, float):
            return 0, q.BAD_CONFIGURATION
        return to_bits(value, value_type), q.GOOD
    except OverflowError:
        return 0, q.BAD_OUT_OF_RANGE
