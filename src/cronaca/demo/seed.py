"""The demo's set-up: the works, line 1 and its Modbus device, one archive, two loggers."""

from __future__ import annotations

import json
import uuid
from typing import Final

from cronaca.core.model import SECOND, Logger, LoggerMode, Tag
from cronaca.demo.plant import SIGNALS, Signal
from cronaca.store import Store, setup
from cronaca.store.transaction import Transaction

_SPACE: Final = uuid.UUID("6b1f7b0e-52c1-4d8a-9d5e-0e4f4f1c7a10")
SOURCE_UID: Final = str(uuid.uuid5(_SPACE, "source/line1"))
LINE: Final = "Line 1"
CONTACT_SCAN_US: Final = SECOND // 5


def tag_uid(key: str) -> str:
    """The uid of line 1's tag for a signal."""
    return str(uuid.uuid5(_SPACE, f"tag/line1/{key}"))


def seed(store: Store, port: int, now_us: int) -> bool:
    """Writes the set-up the first time (then True); later only tells where the device listens now."""
    config: dict[str, object] = {"host": "127.0.0.1", "port": port, "unit": 1, "timeout_s": 1.0}
    with store.transaction() as tx:
        if setup.find_plant(tx) is not None:
            setup.set_source_config(tx, SOURCE_UID, config)
            return False
        _seed_all(tx, config, now_us)
        return True


def _seed_all(tx: Transaction, config: dict[str, object], now_us: int) -> None:
    setup.put_plant(tx, setup.Plant("Pastificio Ombralta", "Europe/Rome", 1))
    source_id = setup.add_source(tx, SOURCE_UID, "Line 1 controller", "modbus_tcp", config)
    numbers = {s.key: setup.add_tag(tx, _tag(s, source_id)) for s in SIGNALS}
    archive_id = setup.add_archive(tx, str(uuid.uuid5(_SPACE, "archive/process")), "Process values")
    analog = tuple(numbers[s.key] for s in SIGNALS if not s.value_type.discrete)
    contacts = tuple(numbers[s.key] for s in SIGNALS if s.value_type.discrete)
    for name, mode, interval_us, members in (
        ("Line 1 every second", LoggerMode.PERIODIC, SECOND, analog),
        ("Line 1 contacts", LoggerMode.ON_CHANGE, 0, contacts),
    ):
        logger = Logger(0, str(uuid.uuid5(_SPACE, name)), name, archive_id, mode, interval_us, members)
        setup.add_logger(tx, logger, now_us)


def _tag(signal: Signal, source_id: int) -> Tag:
    address = {"table": signal.table, "address": signal.address, "data_type": signal.data_type}
    if signal.scale != 1.0:
        address["scale"] = signal.scale
    return Tag(
        tag_id=0,
        uid=tag_uid(signal.key),
        name=f"{LINE} {signal.name}"
        if signal.part == "Line"
        else f"{LINE} {signal.part} {signal.name.lower()}",
        description=signal.description,
        value_type=signal.value_type,
        unit=signal.unit,
        range_low=signal.low,
        range_high=signal.high,
        decimals=signal.decimals,
        stepped=not signal.unit,
        equipment=f"{LINE}/{signal.part}",
        source_id=source_id,
        address=json.dumps(address),
        scan_us=CONTACT_SCAN_US if signal.value_type.discrete else SECOND,
    )
