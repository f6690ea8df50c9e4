"""Small set-ups and flushes for tests."""

from __future__ import annotations

import json
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import fields, replace
from typing import Any, TypeVar

import numpy as np

from cronaca.core.codec import Batch
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.loggers import MODES, Logger, LoggerBase, LoggerSpec, TriggerSpec
from cronaca.core.model import NO_RULE, SECOND, Edge, LoggerMode, RuleSpec, Series, Tag, ValueType
from cronaca.core.outputs import Output
from cronaca.core.ports import Flush, LiveValues, OutputT, RecorderReport
from cronaca.core.windows import Shift
from cronaca.db import Store
from cronaca.logbook import records
from cronaca.plant.archives import insert_archive
from cronaca.plant.loggers import insert_logger
from cronaca.plant.site import Plant, put_plant
from cronaca.plant.sources import insert_source
from cronaca.plant.tags import insert_tag
from cronaca.recorder.outputs.queue import OutputQueue

AnyLogger = TypeVar("AnyLogger", bound=LoggerSpec[Any])
REPORT = RecorderReport(1.0, 0, 0, 0, 1.0, ())
NOW = 1_795_000_000 * SECOND


class FixedClock:
    """A clock that a test sets."""

    def __init__(self, now_us: int = NOW) -> None:
        self.time = now_us

    def now_us(self) -> int:
        return self.time


def a_tag(name: str, value_type: ValueType = ValueType.FLOAT, **fields: object) -> Tag:
    usual: dict[str, object] = {
        "tag_id": 0,
        "uid": str(uuid.uuid5(uuid.NAMESPACE_OID, name)),
        "name": name,
        "description": f"the tag {name}",
        "value_type": value_type,
        "unit": "°C",
        "range_low": 0.0,
        "range_high": 100.0,
        "decimals": 1,
        "stepped": False,
        "equipment": "Line 1/Zone 1",
        "source_id": 1,
        "address": json.dumps({"table": "input_register", "address": 0, "data_type": "float32"}),
        "scan_us": SECOND,
    }
    return Tag(**{**usual, **fields})  # type: ignore[arg-type]


def plant_with(store: Store, tags: Sequence[Tag], now_us: int = NOW) -> dict[str, HistoryKey]:
    """A plant with these tags, all recorded by one periodic logger; their histories by name."""
    with store.transaction() as tx:
        shifts = (Shift("Early", 360), Shift("Late", 840), Shift("Night", 1320))
        put_plant(tx, Plant("Pastificio Ombralta", "Europe/Rome", 1, shifts))
        source_id = insert_source(
            tx, str(uuid.uuid4()), "Line 1 controller", "modbus_tcp", {"host": "127.0.0.1"}
        )
        archive_id = insert_archive(tx, str(uuid.uuid4()), "Process values")
        numbers = {}
        for tag in tags:
            fields = {name: getattr(tag, name) for name in Tag.__slots__}
            numbers[tag.name] = insert_tag(tx, Tag(**{**fields, "source_id": source_id}))
        members = tuple(numbers.values())
        logger = a_logger(
            0, str(uuid.uuid4()), "every second", archive_id, LoggerMode.PERIODIC, SECOND, members
        )
        insert_logger(tx, logger, now_us)
    return {name: HistoryKey(archive_id, number, 1) for name, number in numbers.items()}


def live_values(values: Mapping[int, float], ts_us: int = NOW, quality: int = 0) -> LiveValues:
    """Present values of float tags."""
    ids = np.array(list(values), np.int64)
    bits = np.array(list(values.values()), np.float64).view(np.int64)
    kinds = np.full(len(ids), int(ValueType.FLOAT), np.int64)
    return LiveValues(ids, kinds, np.full(len(ids), ts_us), bits, np.full(len(ids), quality, np.uint16))


def a_flush(
    epoch: int,
    seq: int,
    series: Mapping[HistoryKey, Series],
    known_until_us: int = NOW,
    outputs: Sequence[Output] = (),
    live: LiveValues | None = None,
) -> Flush:
    values = live if live is not None else live_values({})
    return Flush(
        epoch, seq, known_until_us, known_until_us, Batch(dict(series)), values, tuple(outputs), REPORT
    )


RECORD_LOGGER = "11111111-1111-1111-1111-111111111111"


def a_record_logger(store: Store, members: tuple[int, ...], columns: tuple[tuple[int, str], ...]) -> int:
    """A logger that takes a record of these tags whenever the first of them changes, with its table; its
    number."""
    with store.transaction() as tx:
        archive = insert_archive(tx, "a" * 36, "Lots")
        trigger = TriggerSpec(members[0], Edge.CHANGE)
        made = a_logger(
            0, RECORD_LOGGER, "lots", archive, LoggerMode.ON_TRIGGER, 0, members, trigger=trigger,
            columns=columns,
        )  # fmt: skip
        logger_id = insert_logger(tx, made, NOW)
    records.ensure_tables(store)
    return logger_id


def a_logger(
    logger_id: int, uid: str, name: str, archive: int, mode: LoggerMode, interval_us: int = 0,
    tags: tuple[int, ...] = (), rule: RuleSpec = NO_RULE, overrides: tuple[tuple[int, RuleSpec], ...] = (),
    **more: object,
) -> Logger:  # fmt: skip
    """A logger as the recorder knows it."""
    own = {"interval_us": interval_us, "rule": rule, "overrides": overrides, **more}
    return Logger(
        name=name,
        archive=archive,
        tags=tags,
        logger_id=logger_id,
        uid=uid,
        mode=_mode(mode, own),
        **_shared(own),
    )


def a_spec(
    name: str, archive: str, mode: LoggerMode, interval_us: int = 0, **more: object
) -> LoggerSpec[str]:
    """A logger as people know it: the fields of its mode beside the others."""
    own = {"interval_us": interval_us, **more}
    return LoggerSpec(name=name, archive=archive, mode=_mode(mode, own), **_shared(own))


def remade(logger: AnyLogger, mode: LoggerMode | None = None, **changes: object) -> AnyLogger:
    """A logger with other fields, also of its mode, or in another mode."""
    own = {one.name: getattr(logger.mode, one.name) for one in fields(logger.mode)}
    kind = logger.mode.kind if mode is None else mode
    return replace(logger, mode=_mode(kind, {**own, **changes}), **_shared(changes))


def _mode(kind: LoggerMode, given: Mapping[str, object]) -> Any:  # noqa: ANN401 - one of four kinds
    return MODES[kind](**_of(MODES[kind], given))


def _shared(given: Mapping[str, object]) -> dict[str, Any]:
    return _of(LoggerBase, given)


def _of(kind: type, given: Mapping[str, object]) -> dict[str, Any]:
    known = {one.name for one in fields(kind)}
    return {name: value for name, value in given.items() if name in known}


def left_in(queue: OutputQueue, kind: type[OutputT]) -> list[OutputT]:
    """What stages have left of one kind; takes all that waits out of the queue."""
    return [output for output in queue.drain()[1] if isinstance(output, kind)]
