"""What the API takes and gives about sources, and what may be asked of them."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from cronaca.api.schemas import Model, Scalar, Uid
from cronaca.api.schemas.addresses import (
    AddressModel,
    ModbusConnection,
    OpcUaConnection,
    OpcUaSettingsModel,
    OwnConnection,
)
from cronaca.api.schemas.setup import ValueTypeName


class SourceSpecIn(Model):
    """A device or server that values come from."""

    name: str = Field(max_length=200)
    enabled: bool = True


class ChangedSource(SourceSpecIn):
    """A source as it is to be."""

    secret: str | None = Field(None, max_length=500)
    """The password of the user; none leaves it as it is, an empty one is forgotten. It is never answered."""
    revision: int | None = None
    """The one that was seen; another one in the database refuses the change."""


class ModbusSourceIn(ChangedSource, ModbusConnection):
    """A Modbus device as it is to be."""


class OpcUaSourceIn(ChangedSource, OpcUaConnection):
    """An OPC UA server as it is to be."""


class OwnSourceIn(ChangedSource, OwnConnection):
    """A source within the recorder as it is to be."""


SourceIn = Annotated[ModbusSourceIn | OpcUaSourceIn | OwnSourceIn, Field(discriminator="protocol")]


class SourceRow(SourceSpecIn):
    """A source as it is set up."""

    uid: Uid
    revision: int
    tags: int
    number: int
    """Sources that were added later have a larger one."""
    has_secret: bool
    """A password is kept."""


class ModbusSourceOut(SourceRow, ModbusConnection):
    """A Modbus device as it is set up."""


class OpcUaSourceOut(SourceRow, OpcUaConnection):
    """An OPC UA server as it is set up."""


class OwnSourceOut(SourceRow, OwnConnection):
    """A source within the recorder as it is set up."""


SourceOut = Annotated[ModbusSourceOut | OpcUaSourceOut | OwnSourceOut, Field(discriminator="protocol")]


class PlaceIn(Model):
    """A value in a source."""

    address: AddressModel
    value_type: ValueTypeName = "float"


class SourceTrial(Model):
    """What to try, without saving anything."""

    places: list[PlaceIn] = Field([], max_length=64)
    secret: str | None = Field(None, max_length=500)
    """The password of the user; none takes the one that is kept for `source`."""
    source: str = Field("", max_length=36)


class ModbusTrial(SourceTrial, ModbusConnection):
    """A Modbus device to try."""


class OpcUaTrial(SourceTrial, OpcUaConnection):
    """An OPC UA server to try."""


class OwnTrial(SourceTrial, OwnConnection):
    """A source within the recorder to try."""


TestIn = Annotated[ModbusTrial | OpcUaTrial | OwnTrial, Field(discriminator="protocol")]


class DiscoverIn(Model):
    """The OPC UA server to look at."""

    endpoint: str = Field(max_length=500)
    timeout_s: float = 4.0


class Offer(Model):
    """A way to speak with a server. `certificate`: the SHA-256 of the server's certificate, in hex."""

    endpoint: str
    name: str
    security: str
    mode: str
    sign_in: list[str]
    certificate: str


class DiscoverOut(Model):
    """What a server offers, or the plain reason why it does not answer."""

    ok: bool
    reason: str
    offers: list[Offer] = Field([])
    own_certificate: str = ""
    """The SHA-256 of our certificate, for the administrator of the server."""


class BrowseIn(Model):
    """Where to look in the address space of an OPC UA server."""

    config: OpcUaSettingsModel = OpcUaSettingsModel()
    node: str = Field("", max_length=1024)
    """Empty: the server's objects."""
    secret: str | None = Field(None, max_length=500)
    source: str = Field("", max_length=36)


class NodeOut(Model):
    """A folder or a variable. `value_type` is empty where nothing can be recorded."""

    node: str
    name: str
    variable: bool
    value_type: str
    value: Scalar


class BrowseOut(Model):
    """What lies under a node."""

    ok: bool
    reason: str
    nodes: list[NodeOut] = Field([])
    more: bool = False
    """There are more than are shown."""


class TestedValue(Model):
    """What a place holds now."""

    value: Scalar
    quality: int
    text: str


class TestOut(Model):
    """The answer of a source, or the plain reason why there is none."""

    ok: bool
    reason: str
    values: list[TestedValue]
    took_ms: float | None = None
