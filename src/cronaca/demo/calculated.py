"""What the demo calculates from a line's values, the limits people set, and the recorder's own values."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, Final

from cronaca.core.addresses.names import CALCULATED, INTERNAL
from cronaca.core.addresses.system import Item
from cronaca.core.model import SECOND, Tag, ValueType
from cronaca.demo.names import tag_uid, uid_of

_CONDITION: Final = "damp_long"


def line_calculations(line: int, sources: Mapping[str, int]) -> list[Tag]:
    """The calculated tags of a line and its set limit."""
    calculated, internal = sources[CALCULATED], sources[INTERNAL]

    def place(kind: str, inputs: Mapping[str, str], **attributes: object) -> dict[str, Any]:
        return {"kind": kind, "inputs": {n: tag_uid(key, line) for n, key in inputs.items()}, **attributes}

    def tag(key: str, part: str, name: str, address: Mapping[str, Any], **attributes: Any) -> Tag:  # noqa: ANN401
        return _tag(
            tag_uid(key, line),
            f"Line {line} {name}",
            f"Line {line}/{part}",
            calculated,
            address,
            **attributes,
        )

    air = {"t": "temperature_3", "rh": "humidity_3"}
    return [
        tag("dew_point_3", "Zone 3", "Zone 3 dew point", place("formula", air, formula="dew_point(t, rh)"),
            unit="°C", range_low=20.0, range_high=90.0, description="Of the air in the last drying zone"),
        tag("damp_mean", "Zone 3", "Zone 3 mean humidity", place(
            "formula", {"rh": "humidity_3"}, formula="average(rh, 10 min)"), unit="%",
            description="Over the last ten minutes"),
        tag(_CONDITION, "Zone 3", "Zone 3 too damp", place(
            "formula", {"rh": "humidity_3", "limit": "humidity_limit"}, formula="held(rh > limit) > 5 min"),
            value_type=ValueType.BOOLEAN, description="Above its limit for more than 5 min"),
        tag("jams", "Cutter", "Cutter jams", place("counter", {"input": "jam"}, preset=10),
            value_type=ValueType.INTEGER, range_high=100.0, decimals=0, description="Since its reset"),
        tag("jams_reached", "Cutter", "Cutter jams reached", place("reached", {"counter": "jams"}),
            value_type=ValueType.BOOLEAN, description="The count has reached its preset"),
        tag("door_open", "Dryer", "Dryer door open time", place("hours", {"input": "door"}, per="min"),
            unit="min", range_high=600.0, description="Summed up since it was reset"),
        tag("produced", "Cooler", "Product made", place("total", {"input": "throughput"}),
            unit="kg", range_high=1_000_000.0, decimals=0, description="Summed up from the throughput"),
        _tag(tag_uid("humidity_limit", line), f"Line {line} Zone 3 humidity limit", f"Line {line}/Zone 3",
             internal, {"initial": 82.0, "keep": True}, unit="%", description="Set by operators"),
    ]  # fmt: skip


def system_tags(source_id: int) -> list[Tag]:
    """The machine and the recorder."""
    tags = (
        (Item.PROCESSOR, "Recorder processor", "%", 100.0),
        (Item.MEMORY, "Recorder memory", "%", 100.0),
        (Item.DISK_FREE, "Recorder disk free", "GB", 1000.0),
        (Item.SAMPLE_RATE, "Recorder samples a second", "1/s", 2000.0),
        (Item.COMMIT_TIME, "Recorder commit time", "ms", 1000.0),
    )
    return [
        _tag(uid_of(f"tag/system/{item.value}"), name, "Recorder", source_id, {"item": item.value},
             unit=unit, range_high=high, scan_us=5 * SECOND, description="Of the recorder itself")
        for item, name, unit, high in tags
    ]  # fmt: skip


def _tag(
    uid: str,
    name: str,
    equipment: str,
    source_id: int,
    address: Mapping[str, Any],
    **attributes: Any,  # noqa: ANN401 - those of a tag
) -> Tag:
    usual: dict[str, Any] = {
        "description": "", "value_type": ValueType.FLOAT, "unit": "", "range_low": 0.0, "range_high": 100.0,
        "decimals": 1, "stepped": True, "scan_us": SECOND,
    }  # fmt: skip
    if attributes.get("value_type") is ValueType.BOOLEAN:
        usual |= {"range_high": 1.0, "decimals": 0}
    place = json.dumps(address, sort_keys=True)
    usual |= attributes
    return Tag(tag_id=0, uid=uid, name=name, equipment=equipment, source_id=source_id, address=place, **usual)
