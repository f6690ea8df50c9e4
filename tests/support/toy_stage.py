"""A stage that leaves something new: each new highest value of a tag. What a new stage takes is all here."""

from __future__ import annotations

import struct
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from cronaca.core.bits import from_bits
from cronaca.core.model import ValueType
from cronaca.core.outputs import SafeRecord
from cronaca.core.ports import LastKnown
from cronaca.core.readings import Readings
from cronaca.core.setup.whole import Setup
from cronaca.recorder.stages.stage import Stage, StageContext
from cronaca.services.outputs import Storing


@dataclass(frozen=True, slots=True)
class Peak:
    kind: ClassVar[str] = "peak"
    outlives_samples: ClassVar[bool] = False

    tag_ids: tuple[int, ...]
    at_us: int
    value: float


class Peaks(Stage):
    name = "peaks"

    def __init__(self, tag_id: int) -> None:
        self._tag_id, self._highest = tag_id, float("-inf")

    def follow(self, setup: Setup, context: StageContext, now_us: int) -> Sequence[Readings]:
        self._context = context
        return ()

    def wakes_on(self) -> Sequence[int]:
        return (self._tag_id,)

    def on(self, readings: Readings) -> None:
        row = readings.find(self._context.live.slots[self._tag_id])
        if row is None or (value := from_bits(int(readings.bits[row]), ValueType.FLOAT)) <= self._highest:
            return
        self._highest = value
        self._context.emit(Peak((self._tag_id,), int(readings.ts_us[row]), value))

    def snapshot(self) -> bytes:
        return struct.pack("<d", self._highest)

    def restore(self, last: LastKnown) -> None:
        if state := last.state_of(self.name):
            (self._highest,) = struct.unpack("<d", state)


def store_peaks(to: Storing, peaks: Sequence[Peak]) -> Sequence[SafeRecord]:
    to.tx.execute_many("INSERT INTO toy_peak VALUES (%s, %s)", [(p.at_us, p.value) for p in peaks])
    return ()
