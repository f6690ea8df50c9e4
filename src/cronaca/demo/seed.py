"""The demo's set-up: the works, its lines and their devices, one archive, two loggers a line."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Final

from cronaca.core.addresses.names import CALCULATED, INTERNAL, MODBUS, OPC_UA, SYSTEM
from cronaca.core.addresses.settings import OpcUaSettings, settings_to_plain
from cronaca.core.loggers import EdgeSpec, Logger, Mode, OnChange, OnTrigger, Periodic, TriggerSpec
from cronaca.core.model import (
    MINUTE,
    NO_RULE,
    SECOND,
    Edge,
    RuleSpec,
    RunOrigin,
    Tag,
    ValueType,
    Window,
)
from cronaca.core.setup import RunRuleSpec
from cronaca.core.windows import Shift
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.demo.calculated import line_calculations, system_tags
from cronaca.demo.names import PROCESS_VALUES, tag_uid, uid_of
from cronaca.demo.opcua_stand_in import endpoint_of
from cronaca.demo.plant import SIGNALS, Signal
from cronaca.logbook.past_rules import PastRules
from cronaca.plant import run_rules
from cronaca.plant.archives import find_archive, insert_archive
from cronaca.plant.changes import By
from cronaca.plant.loggers import insert_logger, list_loggers
from cronaca.plant.run_rules import add_rule
from cronaca.plant.site import Plant, find_plant, put_plant
from cronaca.plant.sources import insert_source, list_sources, set_config
from cronaca.plant.tags import find_tags, insert_tag

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
_QUALITY_SAMPLES: Final = "Quality samples"
_LOT_RECORDS: Final = "Lot records"
SHIFTS: Final = (Shift("Early", 6 * 60), Shift("Late", 14 * 60), Shift("Night", 22 * 60))


UA_LINES: Final = (2, 3)
"""Lines with an OPC UA server: all of line 2, the analog signals of line 3."""


def seed(store: Store, port: int, now_us: int, lines: int = 1, ua_port: int | None = None) -> bool:
    """Writes the set-up of so many lines the first time (then True); later only tells where the devices
    listen now. A line is a Modbus unit of its own behind one port, but for those with an OPC UA server; there
    is none without a port for it."""
    with store.transaction() as tx:
        plant = find_plant(tx)
        if plant is not None:
            if not plant.shifts:  # data of a demo from before there was a shift calendar
                put_plant(tx, replace(plant, shifts=SHIFTS))
            _tell_ports(tx, port, ua_port, range(1, lines + 1))
            return False
        put_plant(tx, Plant("Pastificio Ombralta", "Europe/Rome", 1, SHIFTS))
        archive_id = insert_archive(tx, uid_of("archive/process"), PROCESS_VALUES)
        for line in range(1, lines + 1):
            _seed_line(tx, line, _add_sources(tx, line, port, ua_port), archive_id, now_us)
        return True


def seed_records(store: Store, now_us: int, lines: int) -> None:
    """A logger for each line that takes a record at every change of its lot number, the first time."""
    with store.transaction() as tx:
        if find_archive(tx, _LOT_RECORDS) is not None:
            return
        archive_id = insert_archive(tx, uid_of("archive/lots"), _LOT_RECORDS)
        for line in range(1, lines + 1):
            tags = find_tags(tx, [tag_uid(key, line) for key in LOT_COLUMNS])
            numbers = {key: tags[tag_uid(key, line)].tag_id for key in LOT_COLUMNS}
            title = f"Line {line} lots"
            columns = tuple((numbers[key], name) for key, name in LOT_COLUMNS.items())
            mode = OnTrigger(TriggerSpec(numbers["lot"], Edge.CHANGE), columns)
            logger = Logger(
                name=title, archive=archive_id, mode=mode, tags=tuple(numbers.values()),
                logger_id=0, uid=uid_of(title),
            )  # fmt: skip
            insert_logger(tx, logger, now_us)


def seed_quality_samples(store: Store, now_us: int) -> None:
    """A logger on demand only: samples of line 1, one when the dryer's door is opened or when a person asks,
    and none of the moisture meter while the cutter is jammed; the first time."""
    with store.transaction() as tx:
        if find_archive(tx, _QUALITY_SAMPLES) is not None:
            return
        archive_id = insert_archive(tx, uid_of("archive/quality"), _QUALITY_SAMPLES)
        keys = ("product_moisture", "cooler_temperature", "throughput", "door", "jam")
        tags = find_tags(tx, [tag_uid(key, 1) for key in keys])
        number = {key: tags[tag_uid(key, 1)].tag_id for key in keys}
        title = "Line 1 quality samples"
        logger = Logger(
            name=title, archive=archive_id, mode=Periodic(), logger_id=0, uid=uid_of(title),
            tags=tuple(number[key] for key in keys[:3]),
            inhibits=((number["product_moisture"], number["jam"]),),
            sample_on=EdgeSpec(number["door"], Edge.RISING),
        )  # fmt: skip
        insert_logger(tx, logger, now_us)


def seed_runs(store: Store, now_us: int, lines: int) -> None:
    """Each line's lots make runs, with product and energy meter at start and end; the first time."""
    with store.transaction() as tx:
        if run_rules.list_rules(tx):
            return
        for line in range(1, lines + 1):
            kept = tuple(tag_uid(key, line) for key in ("product", "energy", "product_moisture"))
            spec = RunRuleSpec(f"Line {line} lot", RunOrigin.CHANGE, tag_uid("lot", line), attributes=kept)
            add_rule(tx, spec, By("demo", now_us), uid_of(f"run/line{line}"))


def add_past_runs(store: Store, window: Window) -> None:
    """The lots of the history as runs, by the rules that find them from now on."""
    with store.snapshot() as tx:
        rules = [rule.uid for rule in run_rules.list_rules(tx) if rule.origin is RunOrigin.CHANGE]
    for uid in rules:
        PastRules(store).add_runs(uid, window)


def add_past_records(store: Store, window: Window) -> None:
    """The lots of the history as records, before the recorder takes the first one."""
    with store.snapshot() as tx:
        loggers = [logger.uid for logger in list_loggers(tx) if isinstance(logger.mode, OnTrigger)]
    for uid in loggers:
        PastRules(store).add_records(uid, window)


def seed_calculated(store: Store, now_us: int, lines: int) -> None:
    """What is calculated from each line's values, set limits, and what the recorder tells of itself; the
    first time. All of it is recorded on change."""
    with store.transaction() as tx:
        if any(source.protocol == CALCULATED for source in list_sources(tx)):
            return
        archive_id = find_archive(tx, "")
        if archive_id is None:
            return
        sources = {
            kind: insert_source(tx, uid_of(f"source/{kind}"), name, kind, {})
            for kind, name in (
                (CALCULATED, "Calculated values"),
                (INTERNAL, "Set limits"),
                (SYSTEM, "Recorder"),
            )
        }
        tags = [tag for line in range(1, lines + 1) for tag in line_calculations(line, sources)]
        tags += system_tags(sources[SYSTEM])
        numbers = tuple(insert_tag(tx, tag) for tag in tags)
        title = "Calculated and set values"
        rule = RuleSpec(width=0.1, of_range=True, longest_silence_us=10 * MINUTE)
        # A contact has no range to take a share of, and a count keeps each of its steps.
        own = tuple(
            (number, NO_RULE)
            for number, tag in zip(numbers, tags, strict=True)
            if tag.value_type is not ValueType.FLOAT
        )
        logger = Logger(
            name=title, archive=archive_id, mode=OnChange(rule, own), tags=numbers,
            logger_id=0, uid=uid_of(title),
        )  # fmt: skip
        insert_logger(tx, logger, now_us)


def _tell_ports(tx: Transaction, port: int, ua_port: int | None, lines: Iterable[int]) -> None:
    """Where the devices listen now; what people have changed otherwise stays."""
    moved: dict[str, dict[str, object]] = {uid_of(f"source/line{line}"): {"port": port} for line in lines}
    if ua_port is not None:
        moved |= {uid_of(f"source/ua{line}"): {"endpoint": endpoint_of(ua_port)} for line in UA_LINES}
    for source in list_sources(tx):
        config = json.loads(source.config)
        now = {**config, **moved.get(source.uid, {})}
        if now != config:
            set_config(tx, source.uid, now)


def _add_sources(tx: Transaction, line: int, port: int, ua_port: int | None) -> Callable[[Signal], int]:
    """Adds a line's sources; which of them a signal is read from."""
    polled = reporting = 0
    served = ua_port is not None and line in UA_LINES
    if not served or line == max(UA_LINES):
        name = f"Line {line} controller"
        polled = insert_source(tx, uid_of(f"source/line{line}"), name, MODBUS, _config(port, line))
    if served and ua_port is not None:
        config = settings_to_plain(OpcUaSettings(endpoint_of(ua_port)))
        name = f"Line {line} server"
        reporting = insert_source(tx, uid_of(f"source/ua{line}"), name, OPC_UA, config)
    return lambda signal: reporting if reporting and not (polled and signal.value_type.discrete) else polled


def _config(port: int, line: int) -> dict[str, object]:
    return {"host": "127.0.0.1", "port": port, "unit": line, "timeout_s": 1.0}


def _seed_line(
    tx: Transaction, line: int, source_of: Callable[[Signal], int], archive_id: int, now_us: int
) -> None:
    protocols = {source.source_id: source.protocol for source in list_sources(tx)}
    numbers = {}
    for signal in SIGNALS:
        source_id = source_of(signal)
        place = _node(signal, line) if protocols[source_id] == OPC_UA else _registers(signal)
        numbers[signal.key] = insert_tag(tx, _tag(signal, line, source_id, place))
    analog = tuple(numbers[s.key] for s in SIGNALS if not s.value_type.discrete)
    contacts = tuple(numbers[s.key] for s in SIGNALS if s.value_type.discrete)
    modes: tuple[tuple[str, Mode[int], tuple[int, ...]], ...] = (
        (f"Line {line} every second", Periodic(SECOND), analog),
        (f"Line {line} contacts", OnChange(), contacts),
    )
    for title, mode, members in modes:
        logger = Logger(
            name=title, archive=archive_id, mode=mode, tags=members, logger_id=0, uid=uid_of(title)
        )
        insert_logger(tx, logger, now_us)


def _registers(signal: Signal) -> dict[str, object]:
    place: dict[str, object] = {
        "table": signal.table, "address": signal.address, "data_type": signal.data_type
    }  # fmt: skip
    return place if signal.scale == 1.0 else {**place, "scale": signal.scale}


def _node(signal: Signal, line: int) -> dict[str, object]:
    return {"node": f"ns=2;s=Line{line}.{signal.key}"}


def _tag(signal: Signal, line: int, source_id: int, place: dict[str, object]) -> Tag:
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
        address=json.dumps(place),
        scan_us=CONTACT_SCAN_US if signal.value_type.discrete else SECOND,
    )
