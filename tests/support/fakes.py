"""Shipped fakes for the recorder's seams."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Callable, Sequence

import numpy as np

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.errors import SourceUnreachable, StoreUnavailable
from cronaca.core.model import SourceSetup, Tag
from cronaca.core.outputs import Record, SafeRecord
from cronaca.core.ports import Driver, Flush
from cronaca.core.readings import Values


class FakeDriver:
    """A device whose values a test sets by tag name; `up` False makes it silent."""

    def __init__(self, values: dict[str, float] | None = None) -> None:
        self.values = values or {}
        self.up = True
        self.connects = 0
        self.reads = 0

    async def connect(self) -> None:
        self.connects += 1
        if not self.up:
            raise SourceUnreachable("no connection to the fake")

    async def read(self, tags: Sequence[Tag]) -> Values:
        self.reads += 1
        if not self.up:
            raise SourceUnreachable("no answer from the fake")
        bits = [to_bits(self.values.get(tag.name, 0), tag.value_type) for tag in tags]
        return Values(np.array(bits, np.int64), np.full(len(tags), q.GOOD, np.uint16))

    async def write(self, tag: Tag, value: float) -> None:
        self.values[tag.name] = value

    async def close(self) -> None:
        await asyncio.sleep(0)


def always(driver: Driver) -> Callable[[SourceSetup], Driver]:
    """Makes the same driver for every source."""
    return lambda _: driver


class FakeSink:
    """Keeps flushes in memory; `away` True makes every commit fail."""

    def __init__(self) -> None:
        self.flushes: list[Flush] = []
        self.closed: list[tuple[int, str]] = []
        self.filled: list[tuple[int, Flush]] = []
        self.away = False
        self.tries = 0
        self.held_by_other = False
        self.began = 0
        self._epoch = 0
        self._lock = threading.Lock()

    def open_epoch(self, holder: str, now_us: int) -> int | None:
        if self.held_by_other:
            return None
        self._epoch += 1
        return self._epoch

    def begin_epoch(self, epoch: int, now_us: int) -> None:
        self.began = now_us

    def commit(self, flush: Flush) -> tuple[SafeRecord, ...]:
        self.tries += 1
        if self.away:
            raise StoreUnavailable("fake:1/db", "switched off")
        with self._lock:
            before = sum(len(one.of(Record)) for one in self.flushes)
            self.flushes.append(flush)
        return tuple(SafeRecord(r.logger_id, r.ts_us, before + i) for i, r in enumerate(flush.of(Record), 1))

    def fill(self, epoch: int, flush: Flush) -> tuple[SafeRecord, ...]:
        self.tries += 1
        if self.away:
            raise StoreUnavailable("fake:1/db", "switched off")
        self.filled.append((epoch, flush))
        return ()

    def probe(self, epoch: int, flush: Flush) -> None:
        self.tries += 1
        if self.away:
            raise StoreUnavailable("fake:1/db", "switched off")

    def close_epoch(self, epoch: int, known_until_us: int, reason: str) -> None:
        self.closed.append((epoch, reason))

    def samples(self) -> list[tuple[int, int, float, int]]:
        """(tag, time, value, quality) of all committed samples, in order of commit."""
        found = []
        for flush in list(self.flushes):
            for key, series in flush.batch.series.items():
                rows = zip(
                    series.ts_us.tolist(), series.values.tolist(), series.quality.tolist(), strict=True
                )
                found += [(key.tag_id, t, v, quality) for t, v, quality in rows]
        return found


class FakeTime:
    """A wall and a monotonic clock that a test moves."""

    def __init__(self) -> None:
        self.wall = 1_795_000_000_000_000_000
        self.monotonic = 5_000_000_000

    def advance(self, seconds: float) -> None:
        self.wall += int(seconds * 1e9)
        self.monotonic += int(seconds * 1e9)
