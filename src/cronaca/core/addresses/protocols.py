"""What each protocol needs to know of a source and of a tag's place in it; checked before it is saved."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Final

from cronaca.core.addresses.calculated import Calculation, parse_calculation
from cronaca.core.addresses.generator import parse_generator_address
from cronaca.core.addresses.internal import parse_internal_address
from cronaca.core.addresses.modbus import parse_address
from cronaca.core.addresses.opcua import (
    check_endpoint,
    check_security,
    check_thumbprint,
    parse_opcua_address,
)
from cronaca.core.addresses.system import parse_system_address
from cronaca.core.errors import InvalidInput
from cronaca.core.formulas.references import check_formula
from cronaca.core.model import ValueType

MODBUS: Final = "modbus_tcp"
GENERATOR: Final = "generator"
INTERNAL: Final = "internal"
OPC_UA: Final = "opc_ua"
CALCULATED: Final = "calculated"
SYSTEM: Final = "system"


@dataclass(frozen=True, slots=True)
class Protocol:
    """`config` gives the source's settings with defaults filled in, `address` checks a tag's place."""

    name: str
    config: Callable[[Mapping[str, Any]], dict[str, Any]]
    address: Callable[[str, ValueType], object]


def check_config(protocol: str, config: Mapping[str, Any]) -> dict[str, Any]:
    """The settings of a source, complete; raises InvalidInput that names the field."""
    return _protocol(protocol).config(config)


def check_address(protocol: str, address: str, value_type: ValueType) -> None:
    """Raises InvalidInput when a tag of this type cannot be read there."""
    _protocol(protocol).address(address, value_type)


def is_writable(protocol: str, address: str, value_type: ValueType) -> bool:
    """Whether a value can be written there."""
    if protocol == MODBUS:
        return parse_address(address, value_type).writable
    if protocol == CALCULATED:
        return parse_calculation(address, value_type).is_meter
    return protocol in (INTERNAL, OPC_UA)


def _protocol(name: str) -> Protocol:
    if name not in PROTOCOLS:
        known = ", ".join(PROTOCOLS)
        raise InvalidInput("protocol", f"{name!r} is unknown", f"Use one of: {known}.")
    return PROTOCOLS[name]


def _modbus_config(config: Mapping[str, Any]) -> dict[str, Any]:
    found = {"host": "", "port": 502, "unit": 1, "timeout_s": 1.0, **config}
    _refuse_unknown(found, {"host", "port", "unit", "timeout_s"})
    host = found["host"]
    if not isinstance(host, str) or not host.strip():
        raise InvalidInput("host", "it is missing", "Give the device's name or IP address.")
    _number(found, "port", 1, 65_535, "Give 1 to 65535; Modbus TCP uses 502.", whole=True)
    _number(found, "unit", 0, 255, "Give the unit of the device, 0 to 255.", whole=True)
    _number(found, "timeout_s", 0.05, 60, "Give 0.05 to 60 seconds.")
    return {**found, "host": host.strip()}


def _opcua_config(config: Mapping[str, Any]) -> dict[str, Any]:
    found = {
        "endpoint": "", "security": "None", "mode": "None", "trusted": "", "user": "", "timeout_s": 4.0,
        "history": True, **config,
    }  # fmt: skip
    _refuse_unknown(found, {"endpoint", "security", "mode", "trusted", "user", "timeout_s", "history"})
    policy, mode = check_security(found["security"], found["mode"])
    _number(found, "timeout_s", 0.5, 60, "Give 0.5 to 60 seconds.")
    user = found["user"]
    if not isinstance(user, str) or len(user) > 100:
        raise InvalidInput("user", "it cannot be used", "Give a name of at most 100 letters, or none.")
    if not isinstance(found["history"], bool):
        raise InvalidInput("history", f"{json.dumps(found['history'])} cannot be used", "Give true or false.")
    return {
        **found, "endpoint": check_endpoint(found["endpoint"]), "security": policy, "mode": mode,
        "trusted": check_thumbprint(found["trusted"]), "user": user.strip(),
    }  # fmt: skip


def _no_config(config: Mapping[str, Any]) -> dict[str, Any]:
    _refuse_unknown(config, set())
    return {}


def _calculation(text: str, value_type: ValueType) -> Calculation:
    place = parse_calculation(text, value_type)
    check_formula(place)
    return place


ADDRESS_FIELDS: Final[Mapping[str, tuple[str, ...]]] = {
    MODBUS: ("table", "address", "data_type", "scale", "offset", "low_word_first"),
    OPC_UA: ("node", "deadband", "scale", "offset"),
    GENERATOR: ("shape", "low", "high", "period_s", "noise", "seed"),
    INTERNAL: ("initial", "keep"),
    SYSTEM: ("item", "of"),
    CALCULATED: (
        "kind", "formula", "inputs", "edge", "preset", "per", "figure", "percent", "window",
    ),
}  # fmt: skip
"""What the place of a value in a source of each protocol consists of."""


def _refuse_unknown(config: Mapping[str, Any], known: set[str]) -> None:
    for field in config:
        if field not in known:
            raise InvalidInput(field, "it is no setting of this protocol", "Leave it out.")


def _number(
    found: dict[str, Any], field: str, low: float, high: float, remedy: str, *, whole: bool = False
) -> None:
    value = found[field]
    usable = isinstance(value, int | float) and not isinstance(value, bool) and low <= value <= high
    if not usable or (whole and value != int(value)):
        raise InvalidInput(field, f"{json.dumps(value)} cannot be used", remedy)
    found[field] = int(value) if whole else float(value)


PROTOCOLS: Final = {
    MODBUS: Protocol("Modbus TCP", _modbus_config, parse_address),
    GENERATOR: Protocol("Signal generator", _no_config, lambda text, _: parse_generator_address(text)),
    INTERNAL: Protocol("Internal values", _no_config, parse_internal_address),
    OPC_UA: Protocol("OPC UA", _opcua_config, parse_opcua_address),
    CALCULATED: Protocol("Calculated values", _no_config, _calculation),
    SYSTEM: Protocol("The recorder itself", _no_config, parse_system_address),
}
