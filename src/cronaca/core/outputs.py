"""What the recorder's stages leave beside samples: a union of small frozen types, each with its kind's name.

One codec serves all of them: msgspec reads and writes an output by its type, so that a new kind is a class,
a row in KINDS and a handler where outputs are stored. On disk an output is `[kind, {field: value}]`.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, Final, Protocol

import msgspec
import numpy as np

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Gap, GapReason


class Output(Protocol):
    """Something that a stage has found out, on its way to the database."""

    kind: ClassVar[str]
    """Its name on disk: never changed, never used again for something else."""
    outlives_samples: ClassVar[bool]
    """Whether it is kept when the samples that it came with have to be dropped."""

    @property
    def tag_ids(self) -> tuple[int, ...]:
        """The tags that it is of; none: of all, or of none in particular."""
        ...


@dataclass(frozen=True, slots=True)
class CoverageMark:
    """From `at_us` on these histories are recorded (no reason), or are not, and why."""

    kind: ClassVar[str] = "coverage"
    outlives_samples: ClassVar[bool] = True

    keys: tuple[HistoryKey, ...]
    at_us: int
    reason: GapReason | None

    @property
    def tag_ids(self) -> tuple[int, ...]:
        """The tags of its histories."""
        return tuple(key.tag_id for key in self.keys)


@dataclass(frozen=True, slots=True)
class RunAttribute:
    """What a tag was when a run began or ended: 64-bit value and quality."""

    tag_id: int
    value_type: int
    bits: int
    quality: int


@dataclass(frozen=True, slots=True)
class RunMark:
    """A run begins (and has a name), or the one that its rule has begun ends."""

    kind: ClassVar[str] = "run"
    outlives_samples: ClassVar[bool] = False

    rule_id: int
    origin: str
    at_us: int
    begins: bool
    name: str
    attributes: tuple[RunAttribute, ...]

    @property
    def tag_ids(self) -> tuple[int, ...]:
        """The tags of its attributes."""
        return tuple(attribute.tag_id for attribute in self.attributes)


@dataclass(frozen=True, slots=True)
class Record:
    """What a triggered logger took at one instant: 64-bit values and qualities of its tags."""

    kind: ClassVar[str] = "record"
    outlives_samples: ClassVar[bool] = False

    logger_id: int
    ts_us: int
    reason: str
    tag_ids: tuple[int, ...]
    bits: tuple[int, ...]
    quality: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class StageState:
    """What a stage needs to know when its recorder begins again; it replaces the state before."""

    kind: ClassVar[str] = "stage_state"
    outlives_samples: ClassVar[bool] = True
    tag_ids: ClassVar[tuple[int, ...]] = ()

    stage: str
    state: bytes


RECENT_ROW: Final = np.dtype(
    [("tag", "<i4"), ("type", "u1"), ("ts", "<i8"), ("bits", "<i8"), ("quality", "<u2")]
)
"""A reading of an unrecorded tag: its number and type, UTC µs, 64-bit value, quality."""


@dataclass(frozen=True, slots=True)
class RecentReadings:
    """What unrecorded tags were: rows of `RECENT_ROW`. After some minutes nobody wants it any more."""

    kind: ClassVar[str] = "recent"
    outlives_samples: ClassVar[bool] = False

    rows: bytes

    @property
    def tag_ids(self) -> tuple[int, ...]:
        """The tags of its rows."""
        return tuple(np.unique(np.frombuffer(self.rows, RECENT_ROW)["tag"]).tolist())


@dataclass(frozen=True, slots=True)
class SafeRecord:
    """A record that is committed, and its number among those of its logger."""

    logger_id: int
    ts_us: int
    number: int


KINDS: Final[Mapping[str, type[Output]]] = {
    one.kind: one for one in (Gap, CoverageMark, RunMark, Record, StageState, RecentReadings)
}
"""The outputs of the recorder's own stages."""


def to_plain(outputs: Iterable[Output]) -> list[Any]:
    """Outputs as lists, texts and numbers, for JSON."""
    return [[output.kind, msgspec.to_builtins(output)] for output in outputs]


def from_plain(plain: Sequence[Any], kinds: Mapping[str, type[Output]] = KINDS) -> tuple[Output, ...]:
    """Outputs from what `to_plain` made of them. Raises CorruptPayload for a kind or content that is none."""
    try:
        return tuple(msgspec.convert(content, kinds[kind]) for kind, content in plain)
    except (msgspec.ValidationError, KeyError, TypeError, ValueError) as exc:
        raise CorruptPayload("output", f"its content is not known to this program ({exc})") from exc
