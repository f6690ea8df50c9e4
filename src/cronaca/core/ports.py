"""What the recorder knows of the world outside: small protocols, kept by the real thing and by fakes."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol, TypeVar, runtime_checkable

import numpy as np
from numpy.typing import NDArray

from cronaca.core.codec.batch import Batch, HistoryKey
from cronaca.core.loggers import OnChange, Periodic
from cronaca.core.model import Series, SourceState, Tag, ValueType, Window
from cronaca.core.outputs import Output, SafeRecord
from cronaca.core.quality import QualityArray
from cronaca.core.readings import Values
from cronaca.core.setup.whole import Setup

OutputT = TypeVar("OutputT", bound=Output)


class Clock(Protocol):
    """The recorder's time."""

    def now_us(self) -> int:
        """UTC now, in µs."""
        ...


class Driver(Protocol):
    """A connection to one polled device."""

    async def connect(self) -> None:
        """Opens the connection; raises SourceError."""
        ...

    async def read(self, tags: Sequence[Tag]) -> Values:
        """Reads the tags now. A tag the device refuses is Bad; raises SourceError when all is lost."""
        ...

    async def write(self, tag: Tag, value: float) -> None:
        """Writes a value; raises SourceError."""
        ...

    async def close(self) -> None:
        """Closes the connection; never raises."""
        ...


@runtime_checkable
class Explaining(Protocol):
    """A driver whose device may answer and still say that something is wrong with it."""

    @property
    def trouble(self) -> str:
        """What the device said of itself at the last reading, or nothing."""
        ...


@runtime_checkable
class Answering(Protocol):
    """A driver whose connection alone does not prove that the device behind it answers."""

    async def check_answers(self) -> None:
        """Asks the device for anything; raises SourceUnreachable when nobody answers."""
        ...


@dataclass(frozen=True, slots=True)
class Heard:
    """What a device that reports by itself said: samples as columns of one length, each with its own time,
    those of a tag in order of time. Without samples it is a sign of life. `torn`: the device had to drop
    samples of the tag before this one."""

    tag_ids: NDArray[np.int64]
    ts_us: NDArray[np.int64]
    bits: NDArray[np.int64]
    quality: QualityArray
    torn: NDArray[np.bool_]


@runtime_checkable
class ReportingDriver(Driver, Protocol):
    """A connection to a device that reports changes by itself and may remember its past."""

    async def follow(self, tags: Sequence[Tag]) -> None:
        """Asks for reports of these tags, and of no others; raises SourceError."""
        ...

    async def hear(self) -> Heard:
        """Waits for what the device says next; raises SourceError when it falls silent."""
        ...

    async def read_past(self, tag: Tag, window: Window) -> Series | None:
        """What the device remembers of a tag, both ends included; None when it remembers nothing of it by
        its nature. Raises SourceError."""
        ...


@dataclass(frozen=True, slots=True)
class LiveValues:
    """Present values of tags as columns of one length; `bits` are 64-bit values."""

    tag_ids: NDArray[np.int64]
    value_types: NDArray[np.int64]
    ts_us: NDArray[np.int64]
    bits: NDArray[np.int64]
    quality: QualityArray

    @classmethod
    def none(cls) -> LiveValues:
        """No values."""
        nothing = np.empty(0, np.int64)
        return cls(nothing, nothing, nothing, nothing, np.empty(0, np.uint16))


@dataclass(frozen=True, slots=True)
class LastKnown:
    """What was committed last, by whoever recorded before; `states` of stages, by name, each with the epoch
    under which it was left."""

    present: LiveValues
    states: Mapping[str, tuple[int, bytes]]

    @classmethod
    def none(cls) -> LastKnown:
        """Nothing was recorded before."""
        return cls(LiveValues.none(), {})

    def newest(self, states: Mapping[str, tuple[int, bytes]]) -> LastKnown:
        """With these states where they are newer: they waited on disk when the recorder before ended."""
        newer = {
            stage: state for stage, state in states.items() if state[0] >= self.states.get(stage, (0, b""))[0]
        }
        return LastKnown(self.present, {**self.states, **newer})

    def state_of(self, stage: str) -> bytes:
        """What a stage left; nothing when it left none."""
        return self.states.get(stage, (0, b""))[1]


@dataclass(frozen=True, slots=True)
class SourceReport:
    """How a source is doing."""

    source_id: int
    state: SourceState
    since_us: int
    detail: str


@dataclass(frozen=True, slots=True)
class LoggerReport:
    """How a logger is doing. `state` is recording, stopped, inhibited, paused or waiting (for its trigger),
    `why` the kind of its reason (core/addresses/system.py); `kept` counts samples since the recorder
    began."""

    logger_id: int
    state: str
    reason: str
    members: int
    kept: int
    samples_per_second: float
    why: str = "none"


@dataclass(frozen=True, slots=True)
class QuarantineReport:
    """Something that the database refused and that was put into the quarantine on disk."""

    at_us: int
    what: str
    tag_ids: tuple[int, ...]
    reason: str


@dataclass(frozen=True, slots=True)
class RecorderReport:
    """How the recorder is doing, written with each flush."""

    samples_per_second: float
    queued_samples: int
    dropped_samples: int
    late_scans: int
    last_flush_ms: float
    sources: tuple[SourceReport, ...]
    loggers: tuple[LoggerReport, ...] = ()
    revision: int = 0
    """The set-up that is at work."""
    spooled_samples: int = 0
    spool_bytes: int = 0
    """What waits on disk while the database is away; the samples are among those queued."""
    niceness: int = 0
    """Priority of the recorder's process: below 0 it is preferred."""
    quarantined: int = 0
    """Files in the quarantine, and the newest of them."""
    quarantine: tuple[QuarantineReport, ...] = ()
    faults: tuple[str, ...] = ()
    """What failed inside the recorder and was begun anew."""


@dataclass(slots=True)
class StatusBoard:
    """How the recorder is doing, for those who ask inside its process; replaced whole, never changed."""

    report: RecorderReport | None = None
    zone: str = "UTC"
    sources: Mapping[int, str] = field(default_factory=dict)
    loggers: Mapping[int, str] = field(default_factory=dict)
    """Uids by number."""


@dataclass(frozen=True, slots=True)
class Flush:
    """All that one commit of the recorder carries."""

    epoch: int
    seq: int
    known_until_us: int
    received_us: int
    batch: Batch
    live: LiveValues
    outputs: tuple[Output, ...]
    report: RecorderReport
    since_us: int | None = None
    """Until when the flush before this one knew: what lies between is what this one tells. None: not known
    (a flush that an older version has left in the spool)."""
    sources_known: tuple[tuple[int, int], ...] = ()
    """Of each source, until when its samples are committed by this flush."""

    def of(self, kind: type[OutputT]) -> tuple[OutputT, ...]:
        """Its outputs of one kind, in the order in which they were left."""
        return tuple(output for output in self.outputs if isinstance(output, kind))


HistoryOf = Mapping[tuple[int, int], tuple[HistoryKey, ValueType]]
"""The open history of each (archive, tag)."""


@dataclass(frozen=True, slots=True)
class Request:
    """Something asked of the recorder, as core/requests.py writes it."""

    number: int
    kind: str
    content: str


@dataclass(frozen=True, slots=True)
class News:
    """What happened outside since a look: the newest set-up when it has changed, and what is asked."""

    revision: int
    setup: Setup | None = None
    histories: HistoryOf | None = None
    requests: tuple[Request, ...] = ()


class Control(Protocol):
    """Where people change the set-up and ask for things."""

    def look(self, revision: int) -> News:
        """What is new to one who has this revision. Raises StoreError."""
        ...

    def answer(self, number: int, content: str) -> None:
        """Answers a request, with JSON. Raises StoreError."""
        ...


class SetupKeeper(Protocol):
    """Where the set-up at work is kept beside the recorder, for a start without the database."""

    def keep(self, epoch: int, setup: Setup, histories: HistoryOf) -> None:
        """Keeps it in place of the one before. Raises OSError."""
        ...


class KeptValues(Protocol):
    """Where values of internal tags survive a restart. All raise StoreError."""

    def load(self) -> dict[int, tuple[ValueType, int]]:
        """Type and 64 bits of each kept value, by tag."""
        ...

    def keep(self, tag_id: int, value_type: ValueType, bits: int) -> None:
        """Keeps a value in place of the one before."""
        ...

    def forget(self, tag_id: int) -> None:
        """Nothing is kept of this tag any more."""
        ...


@dataclass(frozen=True, slots=True)
class MissedReadings:
    """What a device remembers of an outage. The readings may begin before the window, with what was known
    when the outage began; `takers` are the histories that get of them what the mode of their logger keeps."""

    tag: Tag
    window: Window
    readings: Series
    takers: tuple[tuple[HistoryKey, Periodic[int] | OnChange[int]], ...]


@dataclass(frozen=True, slots=True)
class Remembered:
    """What is recorded of a tag over a window, its holes marked, and until when that is all."""

    series: Series
    known_until_us: int


class HistoryLookup(Protocol):
    """Where the recorder looks up what was recorded before."""

    def recall(self, tag_id: int, window: Window) -> Remembered | None:
        """Nothing of a tag that is not recorded; None while it is being looked up: ask again. Raises
        StoreError, and InvalidInput where it cannot be read."""
        ...


class BackfillSink(Protocol):
    """Where the past of an outage is put in its place."""

    def fill(self, missed: MissedReadings) -> None:
        """Sees to it that what stands for the outage is taken out and what loggers would have kept is added.
        Raises StoreError."""
        ...


class SampleSink(Protocol):
    """Where the recorder's samples are kept safe."""

    def open_epoch(self, holder: str, now_us: int) -> int | None:
        """A new epoch, or None while another recorder's lease runs."""
        ...

    def begin_epoch(self, epoch: int, now_us: int) -> None:
        """Its recorder begins to record only now: the gap before it lasts until then. Raises as `commit`."""
        ...

    def commit(self, flush: Flush) -> tuple[SafeRecord, ...]:
        """Keeps the flush and numbers its records; repeating one is harmless. Raises StoreUnavailable and
        StoreConflict (later it may succeed), StoreRejected (the same flush never will), LeaseLost."""
        ...

    def fill(self, epoch: int, flush: Flush) -> tuple[SafeRecord, ...]:
        """Keeps the records of an earlier epoch's flush, and what it holds of time that is not covered;
        `epoch` is the running one, under whose lease this is done. Repeating is harmless. Raises as
        `commit`."""
        ...

    def probe(self, epoch: int, flush: Flush) -> None:
        """Does what `commit` (or `fill`, for the flush of another epoch) would do, and takes it back. Raises
        as they do: this is how the part of a flush that is refused is found."""
        ...

    def close_epoch(self, epoch: int, known_until_us: int, reason: str) -> None:
        """Ends the epoch on purpose."""
        ...


class Compaction(Protocol):
    """The work of the worker, one bounded step at a time."""

    def compact_step(self) -> int:
        """Moves some journal rows into segments; returns how many rows, 0 when there is nothing to do."""
        ...


class SummaryBuilder(Protocol):
    """The work of summing up what is over, in slices."""

    @property
    def problem(self) -> str:
        """What cannot be summed up at present, and why; empty when all can. The rest is."""
        ...

    def build_some(self, seconds: float, stop: Callable[[], bool]) -> int:
        """Builds for at most about so long; returns how many pieces were done, 0 when nothing is left."""
        ...


class Background(Protocol):
    """Where a process in the background says how its work goes."""

    def say(self, *, failing: bool, detail: str = "") -> None:
        """Puts it on record, for the health of the plant. Raises StoreError."""
        ...


class ReportMaker(Protocol):
    """The work of making reports of what is over."""

    def make_due(self, beat: Callable[[], None]) -> int:
        """Makes what is due, and calls `beat` before each; how many were made."""
        ...


class JobQueue(Protocol):
    """Jobs that wait for the worker, one after the other."""

    @property
    def name(self) -> str:
        """Whose jobs they are."""
        ...

    @property
    def failures(self) -> Mapping[str, str]:
        """What is to be said in health, by kind of job."""
        ...

    def run_next(self) -> bool:
        """Does the next job; returns whether there was one. Raises StoreError."""
        ...


class Housekeeping(Protocol):
    """Work that is due now and then."""

    def run_all(self) -> object:
        """Does what is due."""
        ...
