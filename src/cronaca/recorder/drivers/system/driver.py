"""Values of the recorder itself, read like those of any device."""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from functools import lru_cache
from typing import Final
from zoneinfo import ZoneInfo

import numpy as np

from cronaca.core import quality as q
from cronaca.core.addresses.system import CLOCK, STATES, Item, parse_system_address
from cronaca.core.bits import to_bits
from cronaca.core.errors import InvalidInput, SourceRefused
from cronaca.core.model import Tag, ValueType
from cronaca.core.ports import Clock, RecorderReport, StatusBoard
from cronaca.core.readings import Values

ReadMachine = Callable[[], dict[Item, float]]
_OF_RECORDER: Final[dict[Item, Callable[[RecorderReport], float]]] = {
    Item.SAMPLE_RATE: lambda report: report.samples_per_second,
    Item.QUEUED: lambda report: report.queued_samples,
    Item.DROPPED: lambda report: report.dropped_samples,
    Item.LATE_SCANS: lambda report: report.late_scans,
    Item.COMMIT_TIME: lambda report: report.last_flush_ms,
}
_log = logging.getLogger(__name__)


class SystemDriver:
    """A core.ports.Driver that is always connected."""

    def __init__(self, board: StatusBoard, machine: ReadMachine, clock: Clock) -> None:
        self._board = board
        self._machine = machine
        self._clock = clock

    async def connect(self) -> None:
        """There is nothing to connect to."""

    async def read(self, tags: Sequence[Tag]) -> Values:
        """The values now; what is not known (yet) is Bad, waiting."""
        plain = {**self._machine(), **self._time(), **self._recorder()}
        named = self._states()
        bits = np.zeros(len(tags), np.int64)
        quality = np.full(len(tags), q.BAD_WAITING_FOR_INITIAL_DATA, np.uint16)
        for i, tag in enumerate(tags):
            try:
                place = parse_system_address(tag.address, tag.value_type)
            except InvalidInput as exc:
                _log.warning("Tag %s cannot be read: %s", tag.name, exc)
                quality[i] = q.BAD_CONFIGURATION
                continue
            value = named.get((place.item, place.of)) if place.of else plain.get(place.item)
            if value is not None:
                whole = value if tag.value_type is ValueType.FLOAT else round(value)
                bits[i], quality[i] = to_bits(whole, tag.value_type), q.GOOD
        return Values(bits, quality)

    async def write(self, tag: Tag, value: float) -> None:
        """Nothing of it takes a value."""
        raise SourceRefused(f"{tag.name} is what it is; {value:g} cannot be written")

    async def close(self) -> None:
        """Nothing was opened."""

    def _time(self) -> dict[Item, float]:
        now = datetime.fromtimestamp(self._clock.now_us() / 1e6, UTC).astimezone(_zone(self._board.zone))
        parts = now.year, now.month, now.day, now.isoweekday(), now.hour, now.minute, now.second
        return dict(zip(CLOCK, map(float, parts), strict=True))

    def _recorder(self) -> dict[Item, float]:
        report = self._board.report
        return {} if report is None else {item: float(of(report)) for item, of in _OF_RECORDER.items()}

    def _states(self) -> dict[tuple[Item, str], float]:
        """Of each source and logger, by item and uid."""
        report, states = self._board.report, {}
        if report is None:
            return {}
        for source in report.sources:
            uid = self._board.sources.get(source.source_id, "")
            states[Item.SOURCE_STATE, uid] = _number(Item.SOURCE_STATE, source.state.value)
        for logger in report.loggers:
            uid = self._board.loggers.get(logger.logger_id, "")
            states[Item.LOGGER_STATE, uid] = _number(Item.LOGGER_STATE, logger.state)
            states[Item.LOGGER_REASON, uid] = _number(Item.LOGGER_REASON, logger.why)
            states[Item.LOGGER_RATE, uid] = logger.samples_per_second
        return states


def _number(item: Item, name: str) -> float:
    return float(STATES[item].index(name))


@lru_cache(maxsize=8)
def _zone(name: str) -> ZoneInfo:
    return ZoneInfo(name)
