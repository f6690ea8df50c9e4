"""What each protocol needs to know of where a tag's value lies; checked before it is saved."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields
from typing import Final

from cronaca.core.addresses.calculated import Calculation, parse_calculation
from cronaca.core.addresses.generator import GeneratorAddress, parse_generator_address
from cronaca.core.addresses.internal import InternalAddress, parse_internal_address
from cronaca.core.addresses.modbus import ModbusAddress, parse_address
from cronaca.core.addresses.names import CALCULATED, GENERATOR, INTERNAL, MODBUS, OPC_UA, SYSTEM
from cronaca.core.addresses.opcua import OpcUaAddress, parse_opcua_address
from cronaca.core.addresses.system import SystemAddress, parse_system_address
from cronaca.core.errors import InvalidInput
from cronaca.core.formulas.references import check_formula
from cronaca.core.model import ValueType

Address = ModbusAddress | OpcUaAddress | GeneratorAddress | InternalAddress | SystemAddress | Calculation
"""Where a tag's value lies, or how it is made."""


@dataclass(frozen=True, slots=True)
class Protocol:
    """`parse` reads an address of this kind for a tag of a type; raises InvalidInput."""

    name: str
    address: type[Address]
    parse: Callable[[str, ValueType], Address]


def check_address(protocol: str, address: str, value_type: ValueType) -> None:
    """Raises InvalidInput when a tag of this type cannot be read there."""
    if protocol not in PROTOCOLS:
        raise InvalidInput(
            "protocol",
            "protocol-unknown",
            "{protocol!r} is unknown",
            "Use one of: {protocols}.",
            protocol=protocol,
            protocols=", ".join(PROTOCOLS),
        )
    PROTOCOLS[protocol].parse(address, value_type)


def is_writable(protocol: str, address: str, value_type: ValueType) -> bool:
    """Whether a value can be written there."""
    if protocol == MODBUS:
        return parse_address(address, value_type).writable
    if protocol == CALCULATED:
        return parse_calculation(address, value_type).is_meter
    return protocol in (INTERNAL, OPC_UA)


def _parse_calculation(text: str, value_type: ValueType) -> Calculation:
    calculation = parse_calculation(text, value_type)
    check_formula(calculation)
    return calculation


PROTOCOLS: Final[Mapping[str, Protocol]] = {
    MODBUS: Protocol("Modbus TCP", ModbusAddress, parse_address),
    GENERATOR: Protocol("Signal generator", GeneratorAddress, lambda text, _: parse_generator_address(text)),
    INTERNAL: Protocol("Internal values", InternalAddress, parse_internal_address),
    OPC_UA: Protocol("OPC UA", OpcUaAddress, parse_opcua_address),
    CALCULATED: Protocol("Calculated values", Calculation, _parse_calculation),
    SYSTEM: Protocol("The recorder itself", SystemAddress, parse_system_address),
}
ADDRESS_FIELDS: Final[Mapping[str, tuple[str, ...]]] = {
    key: tuple(column.name for column in fields(protocol.address)) for key, protocol in PROTOCOLS.items()
}
"""What an address of each protocol consists of."""
