"""What each protocol needs to know of a source, and of where a tag's value lies in it.

What is left out takes its default, and is left out of an answer too: reading and saving changes nothing.
"""

from __future__ import annotations

import json
from typing import Annotated, Any, Final, Literal

from pydantic import (
    ConfigDict,
    Discriminator,
    Field,
    SerializerFunctionWrapHandler,
    Tag,
    ValidationError,
    model_serializer,
)

from cronaca.api.schemas import Model, Uid
from cronaca.core.addresses import ADDRESS_FIELDS
from cronaca.core.addresses import names as protocols
from cronaca.core.addresses.calculated import Kind
from cronaca.core.addresses.generator import Shape
from cronaca.core.addresses.modbus import DataType, Table
from cronaca.core.addresses.system import Item
from cronaca.core.model import Edge

Number = int | float
"""Whole numbers stay whole."""


def _without_defaults(schema: dict[str, Any]) -> None:
    """A field that is left out is left out: its default is told in words."""
    for field in schema.get("properties", {}).values():
        if "default" in field:
            usual = json.dumps(field.pop("default"))
            field["description"] = " ".join(filter(None, (field.get("description"), f"Usually {usual}.")))


class GivenModel(Model):
    """Is written with what was given, without the defaults of the rest."""

    model_config = ConfigDict(
        extra="forbid", use_attribute_docstrings=True, use_enum_values=True,
        json_schema_extra=_without_defaults,
    )  # fmt: skip

    @model_serializer(mode="wrap")
    def _as_given(self, _write: SerializerFunctionWrapHandler):  # type: ignore[no-untyped-def]  # noqa: ANN202
        # Without a type of its own the description of the API keeps that of the fields. The values are plain
        # already; the library's own writer would complain of one that another version has stored.
        return {
            name: getattr(self, name) for name in type(self).model_fields if name in self.model_fields_set
        }


class ModbusAddressModel(GivenModel):
    """A value in the registers or bits of a Modbus device; engineering value = raw * scale + offset."""

    table: Table
    address: int
    data_type: DataType
    scale: Number = 1.0
    offset: Number = 0.0
    low_word_first: bool = False


class OpcUaAddressModel(GivenModel):
    """A variable of an OPC UA server; engineering value = raw * scale + offset."""

    node: str
    """In the string form of IEC 62541-6: ns=2;s=Temperature."""
    deadband: Number = 0.0
    """The server reports a value only when it moved by more, in its own unit."""
    scale: Number = 1.0
    offset: Number = 0.0


class GeneratorAddressModel(GivenModel):
    """A generated signal between low and high."""

    shape: Shape
    low: Number = 0.0
    high: Number = 100.0
    period_s: Number = 60.0
    noise: Number = 0.0
    seed: int = 0


class InternalAddressModel(GivenModel):
    """A value that lives in the recorder."""

    initial: Number | bool | None = None
    """Before anything was written; null: none, Bad until then."""
    keep: bool = True
    """The value written last is there again after a restart."""


class SystemAddressModel(GivenModel):
    """A value of the recorder itself."""

    item: Item
    of: str = ""
    """The uid of the source or logger, where it is of one."""


class CalculationModel(GivenModel):
    """How a value is calculated from other tags."""

    kind: Kind = Kind.FORMULA
    inputs: dict[str, Uid] = Field(default_factory=dict)
    """Tags by the names they have in the formula."""
    formula: str = ""
    edge: Edge = Edge.RISING
    preset: Number | None = None
    per: str = "h"
    figure: str = ""
    percent: Number = 50.0
    window: Number | str = ""


_MARKS: Final = {
    protocols.MODBUS: ("table", "data_type"), protocols.OPC_UA: ("node",), protocols.GENERATOR: ("shape",),
    protocols.SYSTEM: ("item",), protocols.CALCULATED: ("kind", "formula"),
}  # fmt: skip
"""Fields by which an address is known; without any it is of an internal value."""


def protocol_of(address: Any) -> str:  # noqa: ANN401 - any JSON
    """Whose address it is, by its fields."""
    given = set(address) if isinstance(address, dict) else set(getattr(address, "model_fields_set", ()))
    for protocol, marks in _MARKS.items():
        if given.intersection(marks):
            return protocol
    likeness = {name: len(given.intersection(columns)) for name, columns in ADDRESS_FIELDS.items()}
    return max([protocols.INTERNAL, *likeness], key=lambda name: likeness[name])


AddressModel = Annotated[
    Annotated[ModbusAddressModel, Tag(protocols.MODBUS)]
    | Annotated[OpcUaAddressModel, Tag(protocols.OPC_UA)]
    | Annotated[GeneratorAddressModel, Tag(protocols.GENERATOR)]
    | Annotated[InternalAddressModel, Tag(protocols.INTERNAL)]
    | Annotated[SystemAddressModel, Tag(protocols.SYSTEM)]
    | Annotated[CalculationModel, Tag(protocols.CALCULATED)],
    Discriminator(protocol_of),
]
"""Where a tag's value lies; which of these it has to be is said by the protocol of its source."""


def stored_address(plain: dict[str, Any]) -> GivenModel:
    """An address that is set up, as it is stored."""
    return _as_stored(_ADDRESSES[protocol_of(plain)], plain)


def stored_settings(protocol: str, plain: dict[str, Any]) -> GivenModel:
    """Settings of a source that is set up, as they are stored."""
    return _as_stored(_SETTINGS.get(protocol, NoSettingsModel), plain)


def _as_stored(kind: type[GivenModel], plain: dict[str, Any]) -> GivenModel:
    """What another version has stored may not fit: it is shown all the same, by the fields that are known,
    and keeps nothing else from being listed."""
    try:
        return kind.model_validate(plain)
    except ValidationError:
        known = {name: value for name, value in plain.items() if name in kind.model_fields}
        return kind.model_construct(set(known), **known)


_ADDRESSES: Final[dict[str, type[GivenModel]]] = {
    protocols.MODBUS: ModbusAddressModel, protocols.OPC_UA: OpcUaAddressModel,
    protocols.GENERATOR: GeneratorAddressModel, protocols.INTERNAL: InternalAddressModel,
    protocols.SYSTEM: SystemAddressModel, protocols.CALCULATED: CalculationModel,
}  # fmt: skip


class ModbusSettingsModel(GivenModel):
    """How a Modbus device is reached."""

    host: str = ""
    port: Number = 502
    unit: Number = 1
    timeout_s: Number = 1.0


class OpcUaSettingsModel(GivenModel):
    """How an OPC UA server is reached."""

    endpoint: str = ""
    security: str = "None"
    mode: str = "None"
    trusted: str = ""
    """The SHA-256 of the server's certificate, in hex."""
    user: str = ""
    timeout_s: Number = 4.0
    history: bool = True
    """What was missed is read from the server's history."""


class NoSettingsModel(GivenModel):
    """A source within the recorder needs none."""


class ModbusConnection(Model):
    """A source that is a Modbus device."""

    protocol: Literal["modbus_tcp"]
    config: ModbusSettingsModel = ModbusSettingsModel()


class OpcUaConnection(Model):
    """A source that is an OPC UA server."""

    protocol: Literal["opc_ua"]
    config: OpcUaSettingsModel = OpcUaSettingsModel()


class OwnConnection(Model):
    """A source within the recorder."""

    protocol: Literal["generator", "internal", "calculated", "system"]
    config: NoSettingsModel = NoSettingsModel()


_SETTINGS: Final[dict[str, type[GivenModel]]] = {
    protocols.MODBUS: ModbusSettingsModel, protocols.OPC_UA: OpcUaSettingsModel
}  # fmt: skip
