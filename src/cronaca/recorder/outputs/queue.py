"""Samples on their way to the database: bounded, oldest dropped first, every drop counted and on record."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core.bits import column_of_bits
from cronaca.core.codec.batch import Batch, HistoryKey
from cronaca.core.model import Gap, GapReason, Series, ValueType
from cronaca.core.ports import CoverageMark, Record, RunMark
from cronaca.core.quality import QualityArray


@dataclass(frozen=True, slots=True)
class Chunk:
    """Samples as columns of one length: `histories` are positions in the queue's list of histories."""

    histories: NDArray[np.intp]
    ts_us: NDArray[np.int64]
    bits: NDArray[np.int64]
    quality: QualityArray


class SampleQueue:
    """Chunks between the sampling loop and the flusher."""

    def __init__(self, most_samples: int) -> None:
        self._histories: list[tuple[HistoryKey, ValueType]] = []
        self._positions: dict[HistoryKey, int] = {}
        self._most = most_samples
        self._lock = threading.Lock()
        self._chunks: deque[Chunk] = deque()
        self._queued = 0
        self._torn: tuple[int, int, int] | None = None
        self._gaps: list[Gap] = []
        self._coverage: list[CoverageMark] = []
        self._records: list[Record] = []
        self._runs: list[RunMark] = []
        self.dropped = 0

    @property
    def queued(self) -> int:
        """Samples that wait."""
        return self._queued

    def position_of(self, key: HistoryKey, value_type: ValueType) -> int:
        """The place of a history; one that is new gets the next."""
        with self._lock:
            if key not in self._positions:
                self._positions[key] = len(self._histories)
                self._histories.append((key, value_type))
            return self._positions[key]

    def put(self, chunk: Chunk) -> None:
        """Adds samples; drops the oldest when there are too many. Never blocks for long."""
        if not len(chunk.bits):
            return
        with self._lock:
            self._chunks.append(chunk)
            self._queued += len(chunk.bits)
            while self._queued > self._most and len(self._chunks) > 1:
                self._drop(self._chunks.popleft())

    def note_gap(self, gap: Gap) -> None:
        """Puts a gap on record with the next samples."""
        with self._lock:
            self._gaps.append(gap)

    def note_coverage(self, mark: CoverageMark) -> None:
        """Puts on record that something is recorded from now on, or is not."""
        with self._lock:
            self._coverage.append(mark)

    def note_record(self, record: Record) -> None:
        """Puts a record on its way."""
        with self._lock:
            self._records.append(record)

    def note_run(self, mark: RunMark) -> None:
        """Puts the beginning or end of a run on its way."""
        with self._lock:
            self._runs.append(mark)

    def take_runs(self) -> tuple[RunMark, ...]:
        """The beginnings and ends since the last call."""
        with self._lock:
            found, self._runs = tuple(self._runs), []
        return found

    def take_coverage(self) -> tuple[CoverageMark, ...]:
        """The marks since the last call."""
        with self._lock:
            found, self._coverage = tuple(self._coverage), []
        return found

    def take_records(self) -> tuple[Record, ...]:
        """The records since the last call."""
        with self._lock:
            found, self._records = tuple(self._records), []
        return found

    def drain(self) -> tuple[Batch, list[Gap]]:
        """All waiting samples by history, and the gaps noted or torn by drops."""
        with self._lock:
            chunks, self._chunks = list(self._chunks), deque()
            gaps, self._gaps = self._gaps, []
            torn, self._torn, self._queued = self._torn, None, 0
        return Batch(self._by_history(chunks)), gaps if torn is None else [*gaps, _overflow(*torn)]

    def _drop(self, chunk: Chunk) -> None:
        count = len(chunk.bits)
        self._queued -= count
        self.dropped += count
        start, end = int(chunk.ts_us.min()), int(chunk.ts_us.max())
        first, last, before = self._torn or (start, end, 0)
        self._torn = (min(first, start), max(last, end), before + count)

    def _by_history(self, chunks: Sequence[Chunk]) -> dict[HistoryKey, Series]:
        if not chunks:
            return {}
        which = np.concatenate([c.histories for c in chunks])
        order = np.argsort(which, kind="stable")
        which = which[order]
        ts = np.concatenate([c.ts_us for c in chunks])[order]
        bits = np.concatenate([c.bits for c in chunks])[order]
        quality = np.concatenate([c.quality for c in chunks])[order]
        edges = np.flatnonzero(np.diff(which)) + 1
        found = {}
        for start, end in zip(np.r_[0, edges].tolist(), np.r_[edges, len(which)].tolist(), strict=True):
            if start == end:
                continue
            key, kind = self._histories[which[start]]
            values = column_of_bits(bits[start:end], kind)
            found[key] = Series.of(kind, ts[start:end], values, quality[start:end])
        return found


def _overflow(first_us: int, last_us: int, count: int) -> Gap:
    detail = f"The database did not keep up; {count} samples of all tags were dropped."
    return Gap(first_us, last_us + 1, GapReason.QUEUE_OVERFLOW, detail)
