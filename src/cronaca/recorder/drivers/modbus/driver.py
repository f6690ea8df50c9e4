"""The Modbus TCP driver: one connection, block reads, qualities by the device's answers."""

from __future__ import annotations

import json
import logging
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray
from pymodbus.client import AsyncModbusTcpClient
from pymodbus.exceptions import ModbusException
from pymodbus.pdu import ModbusPDU

from cronaca.core import quality as q
from cronaca.core.addresses.modbus import DataType, ModbusAddress, Table, parse_address
from cronaca.core.addresses.settings import ModbusSettings, parse_as
from cronaca.core.bits import to_bits
from cronaca.core.errors import InvalidInput, SourceRefused, SourceUnreachable
from cronaca.core.model import Tag, ValueType
from cronaca.core.readings import Values
from cronaca.recorder.drivers.modbus.blocks import Block, plan_blocks

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
    8: "memory parity error",
    10: "gateway path unavailable",
    11: "gateway target does not respond",
}
"""Exception codes (MODBUS Application Protocol V1.1b3, 7)."""
_ABOUT_THE_REQUEST: Final = frozenset({1, 2, 3})
"""These say that the request can never be answered; all others are states of the device that pass."""
_QUALITIES: Final = {
    1: q.BAD_CONFIGURATION, 2: q.BAD_CONFIGURATION, 3: q.BAD_CONFIGURATION, 4: q.BAD_DEVICE_FAILURE,
    5: q.BAD_RESOURCE_UNAVAILABLE, 6: q.BAD_RESOURCE_UNAVAILABLE, 8: q.BAD_DEVICE_FAILURE,
    10: q.BAD_NO_COMMUNICATION, 11: q.BAD_NO_COMMUNICATION,
}  # fmt: skip
_ANYTHING: Final = Block(Table.HOLDING_REGISTER, 0, 1, ())
_MOST_PLANS: Final = 32
_UNUSABLE: Final = ModbusAddress(Table.COIL, 0, DataType.BOOL)
_LONGEST_TROUBLE: Final = 200
_PROBE_S: Final = 30.0
_LONGEST_PROBE_S: Final = 600.0
"""How long a block that was split is read address by address before it is tried as one again."""
_log = logging.getLogger(__name__)


class _Refused(SourceRefused):
    """The device answered a request with an exception, or with something that is no answer to it."""

    def __init__(self, reason: str, quality: int, *, for_good: bool) -> None:
        super().__init__(reason)
        self.quality = quality
        self.for_good = for_good
        """The same request will be refused again."""


@dataclass(slots=True)
class _Split:
    """A block that is read address by address, and when it is tried as one again."""

    whole: Block
    again_at: float
    pause_s: float


@dataclass(slots=True)
class _Plan:
    """The requests for a list of tags."""

    addresses: list[ModbusAddress]
    blocks: list[Block]
    split: list[_Split] = field(default_factory=list)


@dataclass(slots=True)
class _Answer:
    """What a reading has brought so far."""

    bits: NDArray[np.int64]
    quality: q.QualityArray
    troubles: list[str] = field(default_factory=list)


class ModbusDriver:
    """Reads tags from one device over Modbus TCP; a core.ports.Driver."""

    def __init__(self, config: str, monotonic: Callable[[], float] = time.monotonic) -> None:
        settings = parse_as(ModbusSettings, json.loads(config))
        self._host, self._port, self._unit = settings.host, settings.port, settings.unit
        self._timeout = settings.timeout_s
        self._client: AsyncModbusTcpClient | None = None
        self._plans: dict[object, _Plan] = {}
        self._monotonic = monotonic
        self.trouble = ""
        """What the device said of itself in the last reading, though it answered; or nothing."""

    async def connect(self) -> None:
        """Opens the connection; raises SourceUnreachable."""
        client = AsyncModbusTcpClient(
            self._host, port=self._port, timeout=self._timeout, retries=0, reconnect_delay=0
        )
        if not await client.connect():
            client.close()
            raise SourceUnreachable(f"no connection to {self._host}:{self._port}")
        self._client = client

    async def check_answers(self) -> None:
        """A value proves that the unit is there, and so does an exception about the request. A gateway, or
        what stands in for the unit, may say that it is not. Raises SourceUnreachable."""
        try:
            await self._read_block(_ANYTHING)
        except _Refused as exc:
            if exc.quality in {q.BAD_NO_COMMUNICATION, q.BAD_DEVICE_FAILURE}:
                raise SourceUnreachable(f"unit {self._unit} does not answer: {exc.reason}") from exc
        except SourceUnreachable as exc:
            where = f"{self._host}:{self._port} takes connections"
            raise SourceUnreachable(f"{where}, but its unit {self._unit} does not answer") from exc

    async def read(self, tags: Sequence[Tag]) -> Values:
        """The tags' values now; what the device refuses is Bad. Raises SourceUnreachable on silence."""
        plan = self._plan(tags)
        answer = _Answer(np.zeros(len(tags), np.int64), np.full(len(tags), q.BAD_CONFIGURATION, np.uint16))
        await self._probe(plan, tags)
        for block in list(plan.blocks):
            await self._read_into(answer, plan, block, tags)
        self.trouble = "; ".join(dict.fromkeys(answer.troubles))[:_LONGEST_TROUBLE]
        return Values(answer.bits, answer.quality)

    async def _read_into(self, answer: _Answer, plan: _Plan, block: Block, tags: Sequence[Tag]) -> None:
        try:
            words = await self._read_block(block)
        except _Refused as exc:
            if exc.for_good and len(block.members) > 1:
                # A hole or one wrong address spoils the whole request: from now on one by one.
                for single in self._split(plan, block):
                    await self._read_into(answer, plan, single, tags)
                return
            answer.quality[list(block.members)] = exc.quality
            if not exc.for_good:
                answer.troubles.append(exc.reason)
            return
        for i in block.members:
            start = plan.addresses[i].address - block.start
            raw = words[start : start + plan.addresses[i].size]
            answer.bits[i], answer.quality[i] = _value(plan.addresses[i], tags[i].value_type, raw)

    def _split(self, plan: _Plan, block: Block) -> list[Block]:
        singles = _singles(plan.addresses, block)
        plan.blocks.remove(block)
        plan.blocks.extend(singles)
        plan.split.append(_Split(block, self._monotonic() + _PROBE_S, _PROBE_S))
        return singles

    async def _probe(self, plan: _Plan, tags: Sequence[Tag]) -> None:
        """Tries blocks that were split as one again: what the device did not have may be there by now."""
        for split in [tag for tag in plan.split if self._monotonic() >= tag.again_at]:
            try:
                await self._read_block(split.whole)
            except _Refused:
                split.pause_s = min(2 * split.pause_s, _LONGEST_PROBE_S)
                split.again_at = self._monotonic() + split.pause_s
                continue
            members = set(split.whole.members)
            plan.blocks[:] = [block for block in plan.blocks if not members.issuperset(block.members)]
            plan.blocks.append(split.whole)
            plan.split.remove(split)
            _log.info("%d of %d tags are read in one request again", len(members), len(tags))

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

    def _plan(self, tags: Sequence[Tag]) -> _Plan:
        key = tuple(tag.address for tag in tags), tuple(tag.value_type for tag in tags)
        if key not in self._plans:
            if len(self._plans) >= _MOST_PLANS:
                self._plans.clear()  # those of tags as they were before are not asked for again
            addresses = [_usable(tag) for tag in tags]
            members = [i for i, address in enumerate(addresses) if address is not _UNUSABLE]
            planned = plan_blocks([addresses[i] for i in members])
            blocks = [replace(block, members=tuple(members[i] for i in block.members)) for block in planned]
            self._plans[key] = _Plan(addresses, blocks)
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
        words = answer.bits if block.table.of_bits else answer.registers
        # A device that answers short would leave values that nobody sent; one that answers long is as wrong.
        # Bits come in whole bytes: up to seven are there for nothing.
        spare = 7 if block.table.of_bits else 0
        if not block.count <= len(words) <= block.count + spare:
            kind = "bits" if block.table.of_bits else "registers"
            raise _Refused(
                f"asked for {block.count} {kind} from {block.start}, the device answered with {len(words)}",
                q.BAD_DECODING, for_good=False,
            )  # fmt: skip
        return list(words[: block.count])


def _refuse_error(answer: ModbusPDU) -> None:
    if answer.isError():
        code = getattr(answer, "exception_code", 0)
        raise _Refused(
            f"exception {code}, {_EXCEPTIONS.get(code, 'unknown')}",
            _QUALITIES.get(code, q.BAD_DEVICE_FAILURE), for_good=code in _ABOUT_THE_REQUEST,
        )  # fmt: skip


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
    """64 bits and quality: a float that is not a number, or an integer beyond int64, has no value."""
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
