"""What each protocol needs to know of a source: a type per protocol, checked before it is saved."""

from __future__ import annotations

import json
from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields, replace
from typing import Any, Final, Self, TypeVar

from cronaca.core.addresses.names import CALCULATED, GENERATOR, INTERNAL, MODBUS, OPC_UA, SYSTEM
from cronaca.core.addresses.opcua import NO_SECURITY, check_endpoint, check_security, check_thumbprint
from cronaca.core.errors import InvalidInput

_LONGEST_USER: Final = 100


@dataclass(frozen=True, slots=True)
class Settings(ABC):
    """What the settings of all protocols can."""

    @abstractmethod
    def checked(self) -> Self:
        """The same, made regular; raises InvalidInput that names the field."""

    @property
    @abstractmethod
    def destination(self) -> tuple[object, ...]:
        """Whom a password would be told, and how."""


@dataclass(frozen=True, slots=True)
class ModbusSettings(Settings):
    """A device that speaks Modbus TCP; port 502 is the registered one (MODBUS Messaging on TCP/IP V1.0b)."""

    host: str = ""
    port: int = 502
    unit: int = 1
    timeout_s: float = 1.0

    def checked(self) -> Self:
        """The same, made regular; raises InvalidInput that names the field."""
        if not isinstance(self.host, str) or not self.host.strip():
            raise InvalidInput(
                "host", "host-missing", "it is missing", "Give the device's name or IP address."
            )
        return replace(
            self, host=self.host.strip(),
            port=_whole(self.port, "port", 1, 65_535, "Give 1 to 65535; Modbus TCP uses 502."),
            unit=_whole(self.unit, "unit", 0, 255, "Give the unit of the device, 0 to 255."),
            timeout_s=_number(self.timeout_s, "timeout_s", 0.05, 60, "Give 0.05 to 60 seconds."),
        )  # fmt: skip

    @property
    def destination(self) -> tuple[object, ...]:
        """Whom a password would be told, and how."""
        return (self.host, self.port)


@dataclass(frozen=True, slots=True)
class OpcUaSettings(Settings):
    """An OPC UA server. `security` and `mode` as in IEC 62541-7; `trusted`: the SHA-256 of the server's
    certificate, in hex; `history`: what was missed is read from the server's own history."""

    endpoint: str = ""
    security: str = NO_SECURITY
    mode: str = "None"
    trusted: str = ""
    user: str = ""
    timeout_s: float = 4.0
    history: bool = True

    def checked(self) -> Self:
        """The same, made regular; raises InvalidInput that names the field."""
        policy, mode = check_security(self.security, self.mode)
        timeout_s = _number(self.timeout_s, "timeout_s", 0.5, 60, "Give 0.5 to 60 seconds.")
        if not isinstance(self.user, str) or len(self.user) > _LONGEST_USER:
            raise InvalidInput(
                "user",
                "unusable",
                "it cannot be used",
                "Give a name of at most {longest_user} letters, or none.",
                longest_user=_LONGEST_USER,
            )
        if not isinstance(self.history, bool):
            raise InvalidInput(
                "history",
                "history-unusable",
                "{dumps} cannot be used",
                "Give true or false.",
                dumps=json.dumps(self.history),
            )
        trusted = check_thumbprint(self.trusted)
        return replace(
            self, endpoint=check_endpoint(self.endpoint), security=policy, mode=mode, trusted=trusted,
            user=self.user.strip(), timeout_s=timeout_s,
        )  # fmt: skip

    @property
    def destination(self) -> tuple[object, ...]:
        """Whom the password is told, and how."""
        return (self.endpoint, self.security, self.mode, self.trusted, self.user)


@dataclass(frozen=True, slots=True)
class NoSettings(Settings):
    """Of a source within the recorder."""

    def checked(self) -> Self:
        """There is nothing to check."""
        return self

    @property
    def destination(self) -> tuple[object, ...]:
        """There is no password."""
        return ()


SourceSettings = ModbusSettings | OpcUaSettings | NoSettings
AnySettings = TypeVar("AnySettings", bound=Settings)
NO_SETTINGS: Final = NoSettings()
SETTINGS: Final[Mapping[str, type[SourceSettings]]] = {
    MODBUS: ModbusSettings, GENERATOR: NoSettings, INTERNAL: NoSettings, OPC_UA: OpcUaSettings,
    CALCULATED: NoSettings, SYSTEM: NoSettings,
}  # fmt: skip


def parse_settings(protocol: str, plain: Mapping[str, Any]) -> SourceSettings:
    """The settings of a source, complete and checked; raises InvalidInput that names the field."""
    if protocol not in SETTINGS:
        raise InvalidInput(
            "protocol",
            "settings-protocol-unknown",
            "{protocol!r} is unknown",
            "Use one of: {settings}.",
            protocol=protocol,
            settings=", ".join(SETTINGS),
        )
    return parse_as(SETTINGS[protocol], plain)


def parse_as(kind: type[AnySettings], plain: Mapping[str, Any]) -> AnySettings:
    """The settings of a known protocol, complete and checked; raises InvalidInput that names the field."""
    known = {column.name for column in fields(kind)}
    for name in plain:
        if name not in known:
            raise InvalidInput(
                name, "not-setting-protocol", "it is not a setting of this protocol", "Leave it out."
            )
    return kind(**plain).checked()


def load_settings(protocol: str, plain: Mapping[str, Any]) -> SourceSettings:
    """The settings of a source as they were stored. Nothing is checked: one source that another version has
    stored otherwise keeps no other from being read."""
    kind = SETTINGS.get(protocol, NoSettings)
    return kind(**{column.name: plain[column.name] for column in fields(kind) if column.name in plain})


def settings_to_plain(settings: SourceSettings) -> dict[str, Any]:
    """As JSON knows them."""
    return asdict(settings)


def _unusable(value: object, field: str, remedy: str) -> InvalidInput:
    return InvalidInput(
        field,
        "settings-unusable",
        "{value} cannot be used",
        "{advice}",
        value=json.dumps(value),
        advice=remedy,
    )


def _whole(value: object, field: str, low: int, high: int, remedy: str) -> int:
    number = _number(value, field, low, high, remedy)
    if number != int(number):
        raise _unusable(value, field, remedy)
    return int(number)


def _number(value: object, field: str, low: float, high: float, remedy: str) -> float:
    if not isinstance(value, int | float) or isinstance(value, bool) or not low <= value <= high:
        raise _unusable(value, field, remedy)
    return float(value)
