"""What goes over the wire. Times are UTC microseconds as text: JSON numbers end at 2^53."""

from __future__ import annotations

from typing import Annotated, Final, Self

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from cronaca.core.edits import EditKind

Micros = Annotated[str, Field(pattern=r"^-?\d{1,18}$", description="UTC microseconds since 1970, as text")]
Uid = Annotated[str, Field(min_length=36, max_length=36, pattern=r"^[0-9a-f-]{36}$")]
Scalar = float | int | bool | str | None
EXACT: Final = 1 << 53
"""Whole numbers up to this are exact in JSON."""


def exact(value: Scalar) -> Scalar:
    """The same, whole numbers beyond 2^53 as text."""
    return str(value) if type(value) is int and abs(value) > EXACT else value


MicrosOut = Annotated[Micros, BeforeValidator(str)]
"""Of services, which count in integers."""
ScalarOut = Annotated[Scalar, BeforeValidator(exact)]


class Model(BaseModel):
    """Base of all schemas."""

    model_config = ConfigDict(extra="forbid", use_attribute_docstrings=True)

    @classmethod
    def from_object(cls, source: object) -> Self:
        """From what a service answers, by the same fields."""
        return cls.model_validate(source, from_attributes=True)


class FieldProblem(Model):
    """One field that cannot be used."""

    field: str
    code: str
    """Names what is wrong; it stays when the wording changes."""
    parameters: dict[str, str] = {}
    """The values within the two texts, for a message in another language."""
    problem: str
    remedy: str


class Problem(Model):
    """RFC 9457 problem details."""

    type: str
    title: str
    status: int
    detail: str
    parameters: dict[str, str] = {}
    """The values within `detail`, whose code is the type."""
    errors: list[FieldProblem] = []
    instance: str | None = None
    """Of what the server did not foresee: the number under which its log has it."""


class ShiftOut(Model):
    """One shift of the plant's day."""

    name: str
    start_minute: int
    """Minute of the local day at which it starts."""


class PlantOut(Model):
    """What holds for the whole plant."""

    name: str
    zone: str
    """IANA time zone."""
    first_weekday: int
    """ISO 8601: 1 Monday to 7 Sunday."""
    shifts: list[ShiftOut]


class RecordedByOut(Model):
    """One logger that records a tag."""

    logger: str
    archive: str
    mode: str
    interval_us: int


class TagOut(Model):
    """A tag and where it is recorded."""

    uid: Uid
    name: str
    description: str
    value_type: str
    unit: str
    range_low: float
    range_high: float
    decimals: int
    stepped: bool
    equipment: str
    source: str
    colour: str
    """The tag's own as #RRGGBB; empty: by the pen's number."""
    states: dict[str, str]
    """Names of the values of a state tag."""
    recorded: list[RecordedByOut]
    writable: bool
    """A value can be written to it."""
    temporary_until_us: Micros | None = None
    """It was added to be looked at, and goes then, unless it is kept."""


class TagPage(Model):
    """One page of tags."""

    total: int
    tags: list[TagOut]


class GapOut(Model):
    """A stretch without usable data, and why."""

    start_us: Micros
    end_us: Micros
    reason: str
    detail: str


class SeriesDetails(Model):
    """What a series is, without its samples."""

    tag: Uid
    value_type: str
    stepped: bool
    samples: int
    """Recorded samples in the window."""
    reduced: bool
    """True when samples were left out that would not change the picture."""
    bucket_us: int
    """Width of the rollup's buckets that the curve came from; 0 when it came from samples alone."""
    known_until_us: Micros
    recorded_since_us: Micros | None
    last_us: Micros | None
    """Of the newest sample of all, wherever the window lies."""
    archive: int = 0
    """Number of the archive that it was read from, as in the samples of the live link; 0: of none."""
    gaps: list[GapOut]


class DerivedPenIn(Model):
    """A pen that is made as it is looked at: from a formula over tags, or from a column of a logger's
    records."""

    id: Uid
    """What its series is called in the answer."""
    formula: str = Field("", max_length=2000)
    inputs: dict[str, Uid] = Field(default_factory=dict, max_length=20)
    logger: Uid | None = None
    column: int = Field(0, ge=0)


class DerivedIn(Model):
    """Made pens to draw over a window."""

    pens: list[DerivedPenIn] = Field(min_length=1, max_length=32)
    start_us: Micros
    end_us: Micros
    width: int = Field(1000, ge=1, le=8192)


class SeriesOut(SeriesDetails):
    """A series: times, values and qualities are columns of one length; Bad has no value."""

    t_us: list[Micros]
    v: list[Scalar]
    q: list[int]


class CurvesOut(Model):
    """Series of several tags over one window, seen at one instant of the database."""

    start_us: Micros
    end_us: Micros
    width: int
    series: list[SeriesOut]


class RawOut(SeriesOut):
    """Recorded samples, exact; integers beyond 2^53 as text."""

    next_start_us: Micros | None
    """Where the next page starts; null on the last one."""


class ReadingOut(Model):
    """A tag's value at an instant."""

    tag: Uid
    at_us: Micros
    value: Scalar
    quality: int
    quality_text: str
    how: str
    """recorded, interpolated, held or none."""
    sample_us: Micros | None
    """Time of the sample at or before the instant."""


class SourceHealth(Model):
    """How a source is doing."""

    uid: Uid
    name: str
    state: str
    since_us: Micros | None


class RecorderHealth(Model):
    """How the recorder is doing."""

    state: str
    """running, late, stopped, lost or never_started."""
    epoch: int | None
    since_us: Micros | None
    known_until_us: Micros | None
    last_flush_age_ms: float | None
    last_flush_ms: float | None
    samples_per_second: float | None
    queued_samples: int | None
    dropped_samples: int | None
    late_scans: int | None
    quarantined: int | None = None
    """Parts of what was recorded that the database refused; they are on the recorder's disk."""
    niceness: int | None = None
    """Priority of its process by the operating system: below 0 it is preferred."""
    faults: int = 0
    """How much failed inside the recorder and is set aside or was begun anew."""


class WorkerHealth(Model):
    """How the worker is doing."""

    state: str
    """running, failing, silent or never_started."""


class Alive(Model):
    """A sign of life of this server alone."""

    now_us: Micros


class DatabaseHealth(Model):
    """Whether the database answers."""

    state: str
    detail: str
    journal_rows: int | None
    journal_samples: int | None


class DiskHealth(Model):
    """The disk that an archive lies on."""

    archive: str
    state: str
    """ok, low, absent or unknown."""
    free_bytes: int | None
    total_bytes: int | None


class Health(Model):
    """The whole at a glance, for everybody: no addresses, no paths, no texts of errors, which may hold such.
    The recorder page has the reasons."""

    status: str
    """ok, degraded or down."""
    now_us: Micros
    database: DatabaseHealth
    recorder: RecorderHealth | None
    sources: list[SourceHealth]
    disks: list[DiskHealth] = []
    worker: WorkerHealth | None = None
    faults: list[str] = []
    """Names of tasks of this server that failed a moment ago and were begun anew."""


class SampleIn(Model):
    """One sample; no value when Bad. Integers beyond 2^53 as text."""

    t_us: Micros
    v: Scalar = None
    q: int = Field(0, ge=0, le=0xFFFF)


class EditIn(Model):
    """A correction of one tag's history."""

    tag: Uid
    kind: EditKind
    reason: str = Field(min_length=1, max_length=500)
    samples: list[SampleIn] = Field([], max_length=100_000)
    """In order of time; none for a deletion."""
    start_us: Micros | None = None
    """Of a deletion."""
    end_us: Micros | None = None
    """Of a deletion, exclusive."""


class EditOut(Model):
    """A correction on record."""

    edit_id: int
    kind: EditKind
    start_us: Micros
    end_us: Micros
    created_us: Micros
    person: str
    reason: str
    written: int
    """Samples written."""
    replaced: int
    """Samples replaced or removed; they are kept as modified history."""


class ModifiedOut(EditOut):
    """A correction with what stood there before."""

    t_us: list[Micros]
    v: list[Scalar]
    q: list[int]


class CoverageOut(Model):
    """What is known of a tag's history over a window."""

    tag: Uid
    known_until_us: Micros
    recorded_since_us: Micros | None
    covered: list[list[Micros]]
    """Stretches [start, end] in which the tag was recorded."""
    gaps: list[GapOut]
