"""Where in a Modbus device a tag's value lies, and how its registers become a value.

Tables and limits after the MODBUS Application Protocol Specification V1.1b3: coils and discrete
inputs are bits, holding and input registers 16-bit words; addresses run from 0 to 65535. Values of
several registers come high word first, or low word first when `word_order` says so (common
practice, no source).
"""

from __future__ import annotations

import json
import struct
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Final

from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType


class Table(StrEnum):
    """One of the device's four address spaces."""

    COIL = "coil"
    DISCRETE_INPUT = "discrete_input"
    INPUT_REGISTER = "input_register"
    HOLDING_REGISTER = "holding_register"

    @property
    def of_bits(self) -> bool:
        """True where one address is one bit."""
        return self in (Table.COIL, Table.DISCRETE_INPUT)


class DataType(StrEnum):
    """How registers are to be read."""

    BOOL = "bool"
    INT16 = "int16"
    UINT16 = "uint16"
    INT32 = "int32"
    UINT32 = "uint32"
    FLOAT32 = "float32"
    INT64 = "int64"
    UINT64 = "uint64"
    FLOAT64 = "float64"


_FORMATS: Final = {
    DataType.INT16: ">h",
    DataType.UINT16: ">H",
    DataType.INT32: ">i",
    DataType.UINT32: ">I",
    DataType.FLOAT32: ">f",
    DataType.INT64: ">q",
    DataType.UINT64: ">Q",
    DataType.FLOAT64: ">d",
}


@dataclass(frozen=True, slots=True)
class ModbusAddress:
    """A value's place and form; engineering value = raw * scale + offset."""

    table: Table
    address: int
    data_type: DataType
    scale: float = 1.0
    offset: float = 0.0
    low_word_first: bool = False

    @property
    def size(self) -> int:
        """How many registers (or bits) the value takes."""
        if self.data_type is DataType.BOOL:
            return 1
        return struct.calcsize(_FORMATS[self.data_type]) // 2

    @property
    def end(self) -> int:
        """The address behind the value."""
        return self.address + self.size

    def to_json(self) -> str:
        """The form in which the set-up keeps it."""
        given: dict[str, Any] = {"table": self.table, "address": self.address, "data_type": self.data_type}
        if (self.scale, self.offset) != (1.0, 0.0):
            given |= {"scale": self.scale, "offset": self.offset}
        if self.low_word_first:
            given["low_word_first"] = True
        return json.dumps(given)

    def encode(self, value: float) -> list[int]:
        """The registers (or the bit, as 0 or 1) of an engineering value; raises InvalidInput when it does not
        fit."""
        if self.data_type is DataType.BOOL:
            return [int(bool(value))]
        raw = (value - self.offset) / self.scale
        whole = self.data_type not in (DataType.FLOAT32, DataType.FLOAT64)
        try:
            packed = struct.pack(_FORMATS[self.data_type], round(raw) if whole else raw)
        except (struct.error, OverflowError) as exc:
            raise InvalidInput(
                "value",
                "not-fit-into",
                "{value:g} does not fit into {data_type}",
                _REMEDY,
                value=value,
                data_type=self.data_type,
            ) from exc
        words = list(struct.unpack(f">{len(packed) // 2}H", packed))
        return words[::-1] if self.low_word_first else words

    @property
    def writable(self) -> bool:
        """Coils and holding registers take values."""
        return self.table in (Table.COIL, Table.HOLDING_REGISTER)

    def decode(self, words: list[int] | list[bool]) -> float | int | bool:
        """The engineering value from its registers or its bit. Scaled values are rounded to 12
        significant digits: 713 * 0.1 is 71.3, not 71.30000000000001."""
        if self.data_type is DataType.BOOL:
            return bool(words[0])
        ordered = words[::-1] if self.low_word_first else words
        raw = struct.unpack(_FORMATS[self.data_type], struct.pack(f">{len(ordered)}H", *ordered))[0]
        if (self.scale, self.offset) == (1.0, 0.0):
            return float(raw) if isinstance(raw, float) else int(raw)
        return float(f"{raw * self.scale + self.offset:.12g}")


def parse_address(text: str, value_type: ValueType) -> ModbusAddress:
    """An address from its JSON form; raises InvalidInput naming the field."""
    try:
        given = json.loads(text)
        address = ModbusAddress(
            Table(given["table"]),
            int(given["address"]),
            DataType(given["data_type"]),
            float(given.get("scale", 1.0)),
            float(given.get("offset", 0.0)),
            bool(given.get("low_word_first", False)),
        )
    except (KeyError, TypeError, ValueError) as exc:
        raise InvalidInput(
            "address",
            "not-modbus-address",
            "{text} is not a Modbus address ({exc})",
            _REMEDY,
            text=text,
            exc=exc,
        ) from exc
    if not address.address >= 0 or address.end > 65_536:
        raise InvalidInput(
            "address", "lies-outside", "{address} lies outside 0 to 65535", _REMEDY, address=address.address
        )
    if address.table.of_bits != (address.data_type is DataType.BOOL):
        raise InvalidInput(
            "address",
            "address-cannot-read",
            "a {table} cannot be read as {data_type}",
            _REMEDY,
            table=address.table,
            data_type=address.data_type,
        )
    if value_type is ValueType.TEXT:
        raise InvalidInput(
            "value_type",
            "modbus-value-no-text",
            "a Modbus value cannot be text",
            "Take a number, a boolean or a state.",
        )
    if value_type is not ValueType.FLOAT and address.data_type in (DataType.FLOAT32, DataType.FLOAT64):
        raise InvalidInput(
            "value_type",
            "read-into-float",
            "{data_type} is read into a float",
            "Make the tag a float.",
            data_type=address.data_type,
        )
    if (address.scale, address.offset) != (1.0, 0.0) and value_type is not ValueType.FLOAT:
        raise InvalidInput(
            "address",
            "only-float-tags-scaled",
            "only float tags can be scaled",
            "Make the tag a float, or drop the scale.",
        )
    return address


_REMEDY: Final = "Give table, address and data_type, for instance input_register, 100, float32."
