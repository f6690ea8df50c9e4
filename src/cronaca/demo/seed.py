"""The demo's set-up: the works, its lines and their Modbus devices, one archive, two loggers a line."""

from __future__ import annotations

import json
import uuid
from dataclasses import replace
from typing import Final

from cronaca.core.model import SECOND, Edge, Logger, LoggerMode, Tag, TriggerWish
from cronaca.core.windows import Shift
from cronaca.demo.plant import SIGNALS, Signal
from cronaca.store import Store, setup
from cronaca.store.transaction import Transaction

_SPACE: Final = uuid.UUID("6b1f7b0e-52c1-4d8a-9d5e-0e4f4f1c7a10")
CONTACT_SCAN_US: Final = SECOND // 5
LOT_COLUMNS: Final = {
    "lot": "Lot",
    "product": "Product",
    "product_moisture": "Product moisture",
    "throughput": "Throughput",
    "temperature_3": "Zone 3 temperature",
    "humidity_3": "Zone 3 humidity",
    "head_pressure": "Head pressure",
    "energy": "Energy meter",
}
"""What a lot's record holds, by signal."""
_LOT_RECORDS: Final = "Lot records"
SHIFTS: Final = (Shift("Early", 6 * 60), Shift("Late", 14 * 60), Shift("Night", 22 * 60))


def tag_uid(key: str, line: int = 1) -> str:
    """The uid of a line's tag for a signal."""
    return _uid(f"tag/line{line}/{key}")


def seed(store: Store, port: int, now_us: int, lines: int = 1) -> bool:
    """Writes the set-up of so many lines the first time (then True); later only tells where the devices
    listen now. A line is a unit of its own behind one port."""
    with store.transaction() as tx:
        plant = setup.find_plant(tx)
        if plant is not None:
            if not plant.shifts:  # data of a demo from before there was a shift calendar
                setup.put_plant(tx, replace(plant, shifts=SHIFTS))
            _tell_port(tx, port, {_uid(f"source/line{line}") for line in range(1, lines + 1)})
            return False
        setup.put_plant(tx, setup.Plant("Pastificio Ombralta", "Europe/Rome", 1, SHIFTS))
        archive_id = setup.add_archive(tx, _uid("archive/process"), "Process values")
        for line in range(1, lines + 1):
            _seed_line(tx, line, port, archive_id, now_us)
        return True


def seed_records(store: Store, now_us: int, lines: int) -> None:
    """A logger for each line that takes a record at every change of its lot number, the first time."""
    with store.transaction() as tx:
        if setup.find_archive(tx, _LOT_RECORDS) is not None:
            return
        archive_id = setup.add_archive(tx, _uid("archive/lots"), _LOT_RECORDS)
        for line in range(1, lines + 1):
            found = setup.find_tags(tx, [tag_uid(key, line) for key in LOT_COLUMNS])
            numbers = {key: found[tag_uid(key, line)].tag_id for key in LOT_COLUMNS}
            title = f"Line {line} lots"
            setup.add_logger(tx, Logger(
                0, _uid(title), title, archive_id, LoggerMode.ON_TRIGGER, 0, tuple(numbers.values()),
                trigger=TriggerWish(numbers["lot"], Edge.CHANGE),
                columns=tuple((numbers[key], name) for key, name in LOT_COLUMNS.items()),
            ), now_us)  # fmt: skip


def _uid(name: str) -> str:
    return str(uuid.uuid5(_SPACE, name))


def _tell_port(tx: Transaction, port: int, uids: set[str]) -> None:
    """Where the devices listen now; what people have changed otherwise stays."""
    for source in setup.list_sources(tx):
        config = json.loads(source.config)
        if source.uid in uids and config["port"] != port:
            setup.set_source_config(tx, source.uid, {**config, "port": port})


def _config(port: int, line: int) -> dict[str, object]:
    return {"host": "127.0.0.1", "port": port, "unit": line, "timeout_s": 1.0}


def _seed_line(tx: Transaction, line: int, port: int, archive_id: int, now_us: int) -> None:
    name = f"Line {line} controller"
    source_id = setup.add_source(tx, _uid(f"source/line{line}"), name, "modbus_tcp", _config(port, line))
    numbers = {s.key: setup.add_tag(tx, _tag(s, line, source_id)) for s in SIGNALS}
    analog = tuple(numbers[s.key] for s in SIGNALS if not s.value_type.discrete)
    contacts = tuple(numbers[s.key] for s in SIGNALS if s.value_type.discrete)
    for title, mode, interval_us, members in (
        (f"Line {line} every second", LoggerMode.PERIODIC, SECOND, analog),
        (f"Line {line} contacts", LoggerMode.ON_CHANGE, 0, contacts),
    ):
        setup.add_logger(tx, Logger(0, _uid(title), title, archive_id, mode, interval_us, members), now_us)


def _tag(signal: Signal, line: int, source_id: int) -> Tag:
    address = {"table": signal.table, "address": signal.address, "data_type": signal.data_type}
    if signal.scale != 1.0:
        address["scale"] = signal.scale
    own = signal.name if signal.part == "Line" else f"{signal.part} {signal.name.lower()}"
    return Tag(
        tag_id=0,
        uid=tag_uid(signal.key, line),
        name=f"Line {line} {own}",
        description=signal.description,
        value_type=signal.value_type,
        unit=signal.unit,
        range_low=signal.low,
        range_high=signal.high,
        decimals=signal.decimals,
        stepped=not signal.unit,
        equipment=f"Line {line}/{signal.part}",
        source_id=source_id,
        address=json.dumps(address),
        scan_us=CONTACT_SCAN_US if signal.value_type.discrete else SECOND,
    )
