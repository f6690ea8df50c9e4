"""What a drying line's controller offers: every signal, its attributes, its place in the register map."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from cronaca.core.model import ValueType

STAGES: Final = ("Pre-dryer", "Zone 1", "Zone 2", "Zone 3")


@dataclass(frozen=True, slots=True)
class Signal:
    """One value of the line. `table`, `address`, `data_type`, `scale` are its Modbus place and form;
    `resolution` is the smallest step the transmitter shows."""

    key: str
    name: str
    description: str
    unit: str
    low: float
    high: float
    decimals: int
    value_type: ValueType
    table: str
    address: int
    data_type: str
    scale: float
    part: str

    @property
    def resolution(self) -> float:
        """The smallest step."""
        return float(10.0**-self.decimals)


def _analog(
    address: int, key: str, part: str, name: str, unit: str, span: tuple[float, float], decimals: int
) -> Signal:
    return Signal(
        key, name, f"{part}, {name.lower()}", unit, *span, decimals,
        ValueType.FLOAT, "input_register", address, "float32", 1.0, part,
    )  # fmt: skip


def _scaled(
    address: int, key: str, part: str, name: str, unit: str, span: tuple[float, float], decimals: int
) -> Signal:
    return Signal(
        key, name, f"{part}, {name.lower()}", unit, *span, decimals,
        ValueType.FLOAT, "input_register", address, "int16", 10.0**-decimals, part,
    )  # fmt: skip


def _whole(address: int, key: str, name: str, high: float) -> Signal:
    return Signal(
        key, name, name, "", 0, high, 0, ValueType.INTEGER, "input_register", address, "uint32", 1.0, "Line"
    )


def _contact(address: int, key: str, part: str, name: str) -> Signal:
    return Signal(
        key, name, f"{part}, {name.lower()}", "", 0, 1, 0,
        ValueType.BOOLEAN, "discrete_input", address, "bool", 1.0, part,
    )  # fmt: skip


def _stage(index: int, part: str) -> list[Signal]:
    base, n = 100 + 20 * index, index
    return [
        _analog(base, f"temperature_{n}", part, "Air temperature", "°C", (55, 85), 1),
        _analog(base + 2, f"humidity_{n}", part, "Relative humidity", "%", (40, 100), 1),
        _scaled(base + 4, f"damper_{n}", part, "Exhaust damper", "%", (0, 100), 1),
        _scaled(base + 5, f"steam_{n}", part, "Steam valve", "%", (0, 100), 1),
        _scaled(base + 6, f"fan_{n}", part, "Circulation fan", "rpm", (0, 1500), 0),
    ]


SIGNALS: Final[tuple[Signal, ...]] = (
    _analog(0, "dough_moisture", "Press", "Dough moisture", "%", (28, 34), 2),
    _analog(2, "head_pressure", "Press", "Head pressure", "bar", (60, 150), 1),
    _analog(4, "vacuum", "Press", "Vacuum", "mbar", (0, 160), 1),
    _scaled(6, "screw_speed", "Press", "Screw speed", "rpm", (0, 30), 2),
    _scaled(7, "motor_power", "Press", "Motor power", "kW", (0, 100), 1),
    *(signal for index, part in enumerate(STAGES) for signal in _stage(index, part)),
    _analog(200, "cooler_temperature", "Cooler", "Product temperature", "°C", (20, 40), 1),
    _analog(202, "product_moisture", "Cooler", "Product moisture", "%", (10, 16), 2),
    _analog(204, "throughput", "Cooler", "Throughput", "kg/h", (0, 2500), 0),
    _whole(300, "lot", "Lot number", 4_294_967_295),
    _whole(302, "product", "Product code", 9999),
    _whole(304, "energy", "Energy meter", 4_294_967_295),
    _contact(0, "door", "Dryer", "Door open"),
    _contact(1, "jam", "Cutter", "Jam"),
    _contact(8, "steam_trip", "Boiler", "Steam trip"),
)
