"""The recorder page over the wire: what is at work, and what went wrong."""

from __future__ import annotations

from cronaca.api.schemas import Micros, Model, Uid


class WorkingSource(Model):
    """How a source is doing."""

    uid: Uid
    name: str
    protocol: str
    state: str
    since_us: Micros | None
    detail: str
    tags: int


class WorkingLogger(Model):
    """How a logger is doing."""

    uid: Uid
    name: str
    archive: str
    text: str
    state: str
    reason: str
    members: int
    kept: int | None
    samples_per_second: float | None


class WorkerState(Model):
    """How the worker is doing."""

    state: str
    """running, failing, silent or never_started."""
    detail: str
    """Why it fails; empty while it runs."""


class WorkingDisk(Model):
    """Where an archive lies."""

    archive: str
    state: str
    """ok, low, absent or unknown."""
    text: str


class QuarantinedOut(Model):
    """Something that the database refused; it is in the quarantine on the recorder's disk."""

    at_us: Micros
    what: str
    tags: list[str]
    """Names of the tags it belongs to."""
    reason: str


class WorkingGap(Model):
    """A gap on record: of all tags, or of some of them."""

    start_us: Micros
    end_us: Micros
    reason: str
    detail: str
    tags: int
    """How many tags have it; 0: all."""
    tag: str
    """Name of one of them."""


class RecorderMinuteOut(Model):
    """How the recorder did in one minute; without a recorder nothing but its gaps is known."""

    start_us: Micros
    samples_per_second: float | None
    late_scans: int | None
    behind_ms: float | None
    """The longest that what was committed lay behind the clock."""
    gaps: int
    """Gaps on record that touch it."""


class RecorderOut(Model):
    """The recorder at a glance."""

    state: str
    since_us: Micros | None
    revision: int | None
    """Of the set-up that is at work; none: nothing runs."""
    newest_revision: int
    known_until_us: Micros | None
    samples_per_second: float | None
    queued_samples: int | None
    dropped_samples: int | None
    late_scans: int | None
    last_flush_ms: float | None
    journal_samples: int
    spooled_samples: int | None
    spool_bytes: int | None
    """What waits on disk while the database is away."""
    disks: list[WorkingDisk]
    sources: list[WorkingSource]
    loggers: list[WorkingLogger]
    gaps: list[WorkingGap]
    quarantined: int
    quarantine: list[QuarantinedOut]
    """The newest of them first."""
    faults: list[str]
    """What failed inside the recorder or this server, and is set aside or was begun anew."""
    worker: WorkerState
