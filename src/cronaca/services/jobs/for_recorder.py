"""What a recorder asks of the past: what was recorded before a statistic began, and the filling of gaps from
what devices remember. Both are done by the worker: a recorder has samples to take."""

from __future__ import annotations

import struct
import time
from typing import Final

from cronaca.core.access import Permission
from cronaca.core.codec.batch import Batch, HistoryKey, decode_batch, encode_batch
from cronaca.core.errors import CorruptPayload, InvalidInput
from cronaca.core.jobs import JobState, Queue
from cronaca.core.loggers import OnChange, Periodic
from cronaca.core.model import Series, ValueType, Window
from cronaca.core.ports import MissedReadings, Remembered
from cronaca.db import Store
from cronaca.history.read.lookup import StoreHistoryLookup
from cronaca.history.write.backfill import RECORDER, StoreBackfill
from cronaca.logbook import jobs
from cronaca.logbook.jobs import NewJob
from cronaca.services.jobs.runner import Doing, Handler, Outcome
from cronaca.services.jobs.specs import FillGap, JobSpec, Recall, Taker, to_text

_HEAD: Final = struct.Struct("<qB")
"""Of an answer: until when all is known, and the type of the values."""
_ANY: Final = HistoryKey(0, 0, 0)


class AskedHistoryLookup:
    """A HistoryLookup that has the worker look."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._asked: dict[tuple[int, Window], int] = {}

    def recall(self, tag_id: int, window: Window) -> Remembered | None:
        """What is recorded of a tag over a window; None as long as the worker has not answered. Raises
        StoreError, and InvalidInput where that is more than may be read."""
        asked = (tag_id, window)
        if asked not in self._asked:
            self._asked[asked] = _ask(self._store, Recall(tag_id, window.start_us, window.end_us))
        number = self._asked[asked]
        with self._store.snapshot() as tx:
            row = jobs.find_answer(tx, number)
        if row is not None and row[0] in (JobState.WAITING, JobState.RUNNING):
            return None
        del self._asked[asked]
        if row is None:  # it has become too old: asked anew
            return None
        self._store.run(lambda tx: jobs.forget_job(tx, number))
        state, problem, answer = row
        if state is not JobState.DONE or answer is None:
            raise InvalidInput(
                "window",
                "window-refused",
                "{value}",
                "Choose a shorter one.",
                value=problem or "the worker has no answer",
            )
        return _remembered(answer)


class AskedBackfill:
    """A BackfillSink that has the worker fill the gap."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def fill(self, missed: MissedReadings) -> None:
        """Puts the readings on record for the worker: whatever becomes of the recorder, the gap is filled.
        Raises StoreError."""
        takers = tuple(_taker(key, mode) for key, mode in missed.takers)
        spec = FillGap(missed.tag, missed.window.start_us, missed.window.end_us, takers)
        _ask(self._store, spec, encode_batch(Batch({_ANY: missed.readings})))


def handlers(store: Store) -> dict[str, Handler]:
    """What the worker does for recorders, by kind."""
    lookup, backfill = StoreHistoryLookup(store), StoreBackfill(store)

    def recall(doing: Doing) -> Outcome:
        spec = doing.spec
        if not isinstance(spec, Recall):
            raise TypeError(f"{spec.kind} is no recall")
        past = lookup.recall(spec.tag_id, Window(spec.start_us, spec.end_us))
        head = _HEAD.pack(past.known_until_us, past.series.value_type)
        return Outcome(head + encode_batch(Batch({_ANY: past.series})))

    def fill_gap(doing: Doing) -> Outcome:
        spec = doing.spec
        if not isinstance(spec, FillGap):
            raise TypeError(f"{spec.kind} fills no gap")
        readings = decode_batch(doing.payload or b"").series[_ANY]
        takers = tuple((taker.key, taker.mode) for taker in spec.takers)
        backfill.fill(MissedReadings(spec.tag, Window(spec.start_us, spec.end_us), readings, takers))
        return Outcome()

    return {Recall.kind: recall, FillGap.kind: fill_gap}


def _ask(store: Store, spec: JobSpec, payload: bytes | None = None) -> int:
    now_us = time.time_ns() // 1000
    new = NewJob(
        Queue.RECORDER, spec.kind, to_text(spec), RECORDER, Permission.VIEW.value, now_us, payload=payload
    )
    return store.run(lambda tx: jobs.add_job(tx, new))


def _taker(key: HistoryKey, mode: Periodic[int] | OnChange[int]) -> Taker:
    return Taker(key, mode) if isinstance(mode, Periodic) else Taker(key, on_change=mode)


def _remembered(answer: bytes) -> Remembered:
    if len(answer) < _HEAD.size:
        raise CorruptPayload("answer of the worker", "it is cut short")
    known_until_us, kind = _HEAD.unpack_from(answer)
    series = decode_batch(answer[_HEAD.size :]).series.get(_ANY)
    return Remembered(Series.empty(ValueType(kind)) if series is None else series, known_until_us)
