"""A Modbus TCP device that serves drying lines, a unit for each: input registers and discrete inputs."""

from __future__ import annotations

import asyncio
import itertools
import logging
import struct
from collections.abc import Mapping, Sequence
from typing import Final

from pymodbus.server import ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from cronaca.demo.opcua_stand_in import OpcUaStandIn
from cronaca.demo.plant import SIGNALS, DryingLine, Signal

REGISTERS: Final = 400
CONTACTS: Final = 16
_READ_DISCRETE: Final = 2
_READ_INPUT: Final = 4
STEP_S: Final = 0.25
_STEPS_A_SECOND: Final = round(1 / STEP_S)
_FORMATS: Final = {"float32": ">f", "int16": ">h", "uint32": ">I"}


class ModbusStandIn:
    """The device; values are set by signal key. Its units are the numbers of the lines, from 1."""

    def __init__(self, host: str = "127.0.0.1", port: int = 0, lines: int = 1) -> None:
        self._host = host
        self.port = port
        self._server: ModbusTcpServer | None = None
        self._units = {line: _Unit() for line in range(1, lines + 1)}

    async def start(self) -> None:
        """Listens; with port 0 a free one is found and kept over a restart."""
        devices = [_device(unit) for unit in self._units]
        self._server = ModbusTcpServer(devices, address=(self._host, self.port))
        await self._server.serve_forever(background=True)
        transport = self._server.transport
        if not self.port and isinstance(transport, asyncio.Server):
            self.port = int(transport.sockets[0].getsockname()[1])
        for unit in self._units:
            await self._publish(unit)

    async def stop(self) -> None:
        """Ends the device: connections break."""
        if self._server is not None:
            await self._server.shutdown()  # type: ignore[no-untyped-call]
            self._server = None

    async def set_values(self, values: Mapping[str, float], line: int = 1) -> None:
        """Sets signals of a line by key; clients see them at their next read."""
        for signal in SIGNALS:
            if signal.key in values:
                self._units[line].set(signal, values[signal.key])
        await self._publish(line)

    async def _publish(self, number: int) -> None:
        if self._server is not None:
            unit = self._units[number]
            await self._server.async_setValues(number, _READ_INPUT, 0, list(unit.registers))
            await self._server.async_setValues(number, _READ_DISCRETE, 0, list(unit.contacts))


class _Unit:
    """The registers and contacts of one line."""

    def __init__(self) -> None:
        self.registers = [0] * REGISTERS
        self.contacts = [False] * CONTACTS

    def set(self, signal: Signal, value: float) -> None:
        """Puts a value where its address says, in the form of its registers."""
        if signal.table == "discrete_input":
            self.contacts[signal.address] = bool(value)
            return
        raw = value if signal.data_type == "float32" else round(value / signal.scale)
        packed = struct.pack(_FORMATS[signal.data_type], raw)
        words = struct.unpack(f">{len(packed) // 2}H", packed)
        self.registers[signal.address : signal.address + len(words)] = words


def _device(unit: int) -> SimDevice:
    bits = [SimData(0, values=[False] * CONTACTS, datatype=DataType.BITS)]
    words = [SimData(0, count=REGISTERS, values=0, datatype=DataType.REGISTERS)]
    return SimDevice(id=unit, simdata=(list(bits), list(bits), list(words), list(words)))


async def run_plant(
    plants: Sequence[DryingLine], port: int, speed: float, stop: asyncio.Event,
    server: OpcUaStandIn | None = None,
) -> None:  # fmt: skip
    """Serves the lines, one unit after the other, in real time (speed 1) or faster until `stop` is set. Those
    that the OPC UA server has are shown there too."""
    logging.getLogger("pymodbus").setLevel(logging.CRITICAL)
    device = ModbusStandIn(port=port, lines=sum(map(len, plants)))
    await _show(device, plants)
    if server is not None:
        await server.start()  # the slower one first: who waits for the other port finds both
    await device.start()
    try:
        for step in itertools.count():
            if stop.is_set():
                break
            await asyncio.sleep(STEP_S)
            for plant in plants:
                plant.step(STEP_S * speed)
            await _show(device, plants)
            if server is not None:
                await _tell(server, plants, contacts_only=step % _STEPS_A_SECOND != 0)
    finally:
        await device.stop()
        if server is not None:
            await server.stop()


async def _tell(server: OpcUaStandIn, plants: Sequence[DryingLine], *, contacts_only: bool) -> None:
    """Contacts at each step, the rest once a second: as its transmitters do it."""
    line = 0
    for plant in plants:
        values = plant.values()
        for i in range(len(plant)):
            line += 1
            if line in server.lines:
                shown = {key: float(column[i]) for key, column in values.items()}
                if contacts_only:
                    shown = {
                        signal.key: shown[signal.key] for signal in SIGNALS if signal.value_type.discrete
                    }
                await server.set_values(line, shown)


async def _show(device: ModbusStandIn, plants: Sequence[DryingLine]) -> None:
    unit = 0
    for plant in plants:
        values = plant.values()
        for i in range(len(plant)):
            unit += 1
            await device.set_values({key: float(column[i]) for key, column in values.items()}, unit)
