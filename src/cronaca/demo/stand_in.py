"""A Modbus TCP device that serves a drying line: input registers and discrete inputs."""

from __future__ import annotations

import asyncio
import logging
import struct
from collections.abc import Mapping
from typing import Final

from pymodbus.server import ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from cronaca.demo.plant import SIGNALS, DryingLine, Signal

REGISTERS: Final = 400
CONTACTS: Final = 16
_UNIT: Final = 1
_READ_DISCRETE: Final = 2
_READ_INPUT: Final = 4
STEP_S: Final = 0.25
_FORMATS: Final = {"float32": ">f", "int16": ">h", "uint32": ">I"}


class ModbusStandIn:
    """The device; values are set by signal key."""

    def __init__(self, host: str = "127.0.0.1", port: int = 0) -> None:
        self._host = host
        self.port = port
        self._server: ModbusTcpServer | None = None
        self._registers = [0] * REGISTERS
        self._contacts = [False] * CONTACTS

    async def start(self) -> None:
        """Listens; with port 0 a free one is found and kept over a restart."""
        bits = [SimData(0, values=[False] * CONTACTS, datatype=DataType.BITS)]
        words = [SimData(0, count=REGISTERS, values=0, datatype=DataType.REGISTERS)]
        device = SimDevice(id=_UNIT, simdata=(list(bits), list(bits), list(words), list(words)))
        self._server = ModbusTcpServer(device, address=(self._host, self.port))
        await self._server.serve_forever(background=True)
        transport = self._server.transport
        if not self.port and isinstance(transport, asyncio.Server):
            self.port = int(transport.sockets[0].getsockname()[1])
        await self._publish()

    async def stop(self) -> None:
        """Ends the device: connections break."""
        if self._server is not None:
            await self._server.shutdown()  # type: ignore[no-untyped-call]
            self._server = None

    async def set_values(self, values: Mapping[str, float]) -> None:
        """Sets signals by key; clients see them at their next read."""
        for signal in SIGNALS:
            if signal.key in values:
                self._set(signal, values[signal.key])
        await self._publish()

    def _set(self, signal: Signal, value: float) -> None:
        if signal.table == "discrete_input":
            self._contacts[signal.address] = bool(value)
            return
        raw = value if signal.data_type == "float32" else round(value / signal.scale)
        packed = struct.pack(_FORMATS[signal.data_type], raw)
        words = struct.unpack(f">{len(packed) // 2}H", packed)
        self._registers[signal.address : signal.address + len(words)] = words

    async def _publish(self) -> None:
        if self._server is not None:
            await self._server.async_setValues(_UNIT, _READ_INPUT, 0, list(self._registers))
            await self._server.async_setValues(_UNIT, _READ_DISCRETE, 0, list(self._contacts))


async def run_plant(line: DryingLine, port: int, speed: float, stop: asyncio.Event) -> None:
    """Serves a line in real time (speed 1) or faster until `stop` is set."""
    logging.getLogger("pymodbus").setLevel(logging.CRITICAL)
    device = ModbusStandIn(port=port)
    await device.set_values(_first_line(line))
    await device.start()
    try:
        while not stop.is_set():
            await asyncio.sleep(STEP_S)
            line.step(STEP_S * speed)
            await device.set_values(_first_line(line))
    finally:
        await device.stop()


def _first_line(line: DryingLine) -> dict[str, float]:
    return {key: float(column[0]) for key, column in line.values().items()}
