"""The form of a set-up file, from which its JSON Schema is published."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from cronaca.api.schemas import Model, Uid
from cronaca.api.schemas.addresses import ModbusConnection, OpcUaConnection, OwnConnection
from cronaca.api.schemas.equipment import ClassSpecModel
from cronaca.api.schemas.loggers import (
    LoggerBaseIn,
    OnChangeIn,
    OnTriggerIn,
    PeriodicIn,
    PrePostTriggerIn,
)
from cronaca.api.schemas.runs import RunRuleSpecIn
from cronaca.api.schemas.setup import ArchiveSpecIn, PlantIn, TagIn
from cronaca.api.schemas.sources import SourceSpecIn

TITLE = "Set-up of Cronaca"
DIALECT = "https://json-schema.org/draft/2020-12/schema"


class SourceEntry(SourceSpecIn):
    """A source; passwords are not in the file."""

    uid: Uid


class ModbusSourceObject(SourceEntry, ModbusConnection):
    """A Modbus device."""


class OpcUaSourceObject(SourceEntry, OpcUaConnection):
    """An OPC UA server."""


class OwnSourceObject(SourceEntry, OwnConnection):
    """A source within the recorder."""


SourceObject = Annotated[
    ModbusSourceObject | OpcUaSourceObject | OwnSourceObject, Field(discriminator="protocol")
]


class TagObject(TagIn):
    """A tag; what its address says depends on the protocol of its source."""

    uid: Uid


class ArchiveObject(ArchiveSpecIn):
    """An archive; its history is not in the file."""

    uid: Uid


class LoggerEntry(LoggerBaseIn):
    """A logger, its members by uid."""

    uid: Uid


class PeriodicLoggerObject(LoggerEntry, PeriodicIn):
    """A periodic logger."""


class OnChangeLoggerObject(LoggerEntry, OnChangeIn):
    """An on-change logger."""


class OnTriggerLoggerObject(LoggerEntry, OnTriggerIn):
    """A triggered logger."""


class PrePostTriggerLoggerObject(LoggerEntry, PrePostTriggerIn):
    """A logger around a trigger."""


LoggerObject = Annotated[
    PeriodicLoggerObject | OnChangeLoggerObject | OnTriggerLoggerObject | PrePostTriggerLoggerObject,
    Field(discriminator="mode"),
]


class RunRuleObject(RunRuleSpecIn):
    """A rule by which runs are found."""

    uid: Uid


class ClassObject(ClassSpecModel):
    """An equipment class."""

    uid: Uid


class EquipmentObject(Model):
    """A piece of equipment: its class, its sources by slot, what is its own; `objects` are the uids of its
    tags, loggers and rules by part and key."""

    uid: Uid
    name: str
    equipment_class: Uid
    sources: dict[str, Uid] = Field({})
    parameters: dict[str, int | str] = Field({})
    overrides: dict[str, dict[str, dict[str, Any]]] = Field({})
    objects: dict[str, dict[str, Uid]] = Field({})
    without: list[str] = Field([])


class SetupFile(Model):
    """A set-up, or parts of one: what is left out stays as it is. Objects are found by uid, then by name."""

    format: Literal["cronaca-setup"]
    version: Literal[1]
    plant: PlantIn | None = None
    sources: list[SourceObject] = Field([])
    tags: list[TagObject] = Field([])
    archives: list[ArchiveObject] = Field([])
    loggers: list[LoggerObject] = Field([])
    runs: list[RunRuleObject] = Field([])
    classes: list[ClassObject] = Field([])
    equipment: list[EquipmentObject] = Field([])


def setup_file_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a set-up file."""
    return {"$schema": DIALECT, **SetupFile.model_json_schema(), "title": TITLE}
