"""Outputs on their way to the database: bounded, oldest samples dropped first, every drop counted and on
record."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core.bits import column_of_bits
from cronaca.core.codec.batch import Batch, HistoryKey
from cronaca.core.model import Gap, GapReason, Series, ValueType
from cronaca.core.outputs import Output, StageState
from cronaca.core.quality import QualityArray


@dataclass(frozen=True, slots=True)
class Samples:
    """The output that there is most of: samples to record, as columns of one length. `histories` are
    positions in the queue's list of histories."""

    histories: NDArray[np.intp]
    ts_us: NDArray[np.int64]
    bits: NDArray[np.int64]
    quality: QualityArray

    def take(self, chosen: NDArray[np.bool_]) -> Samples:
        """The chosen ones."""
        return Samples(self.histories[chosen], self.ts_us[chosen], self.bits[chosen], self.quality[chosen])


class OutputQueue:
    """What stages leave, between the sampling loop and the flusher."""

    def __init__(self, most_samples: int) -> None:
        self._histories: list[tuple[HistoryKey, ValueType]] = []
        self._positions: dict[HistoryKey, int] = {}
        self._most = most_samples
        self._lock = threading.Lock()
        self._samples: deque[Samples] = deque()
        self._queued = 0
        self._torn: tuple[int, int, int] | None = None
        self._outputs: list[Output] = []
        self.dropped = 0

    @property
    def queued(self) -> int:
        """Samples that wait."""
        return self._queued

    def position_of(self, key: HistoryKey, value_type: ValueType) -> int:
        """The position of a history; one that is new gets the next."""
        with self._lock:
            if key not in self._positions:
                self._positions[key] = len(self._histories)
                self._histories.append((key, value_type))
            return self._positions[key]

    def put(self, output: Samples | Output) -> None:
        """Puts an output on its way; drops the oldest samples when there are too many. Never blocks for
        long."""
        with self._lock:
            if not isinstance(output, Samples):
                self._outputs.append(output)
            elif len(output.bits):
                self._samples.append(output)
                self._queued += len(output.bits)
                while self._queued > self._most and len(self._samples) > 1:
                    self._drop(self._samples.popleft())

    def drain(self) -> tuple[Batch, tuple[Output, ...]]:
        """All waiting samples by history, and the other outputs in the order in which they were left; with
        the gap that was torn by drops."""
        with self._lock:
            samples, self._samples = list(self._samples), deque()
            outputs, self._outputs = self._outputs, []
            torn, self._torn, self._queued = self._torn, None, 0
        if torn is not None:
            outputs.append(_overflow(*torn))
        return Batch(self._by_history(samples)), tuple(_without_old_states(outputs))

    def _drop(self, samples: Samples) -> None:
        count = len(samples.bits)
        self._queued -= count
        self.dropped += count
        start, end = int(samples.ts_us.min()), int(samples.ts_us.max())
        first, last, before = self._torn or (start, end, 0)
        self._torn = (min(first, start), max(last, end), before + count)

    def _by_history(self, samples: Sequence[Samples]) -> dict[HistoryKey, Series]:
        if not samples:
            return {}
        which = np.concatenate([part.histories for part in samples])
        order = np.argsort(which, kind="stable")
        which = which[order]
        ts = np.concatenate([part.ts_us for part in samples])[order]
        bits = np.concatenate([part.bits for part in samples])[order]
        quality = np.concatenate([part.quality for part in samples])[order]
        edges = np.flatnonzero(np.diff(which)) + 1
        by_key = {}
        for start, end in zip(np.r_[0, edges].tolist(), np.r_[edges, len(which)].tolist(), strict=True):
            if start == end:
                continue
            key, kind = self._histories[which[start]]
            values = column_of_bits(bits[start:end], kind)
            by_key[key] = Series.of(kind, ts[start:end], values, quality[start:end])
        return by_key


def _overflow(first_us: int, last_us: int, count: int) -> Gap:
    detail = f"The database did not keep up; {count} samples of all tags were dropped."
    return Gap(first_us, last_us + 1, GapReason.QUEUE_OVERFLOW, detail)


def _without_old_states(outputs: Sequence[Output]) -> Iterable[Output]:
    """Of each stage's states only the newest matters."""
    newest = {output.stage: i for i, output in enumerate(outputs) if isinstance(output, StageState)}
    for i, output in enumerate(outputs):
        if not isinstance(output, StageState) or newest[output.stage] == i:
            yield output
