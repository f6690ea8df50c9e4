"""The set-up over the wire. Durations in µs; a change names the revision of the object it has seen."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag

from cronaca.api.schemas import Micros, Model, Scalar, Uid
from cronaca.api.schemas.addresses import AddressModel, GeneratorAddressModel
from cronaca.api.schemas.loggers import MOST_AT_ONCE, RuleIn
from cronaca.core.model import Keeps, LoggerMode
from cronaca.core.setup.importing import OnClash

ValueTypeName = Literal["float", "integer", "boolean", "state", "text"]


class TagIn(Model):
    """A tag; `source` by uid."""

    name: str = Field(max_length=300)
    source: Uid
    address: AddressModel
    description: str = Field("", max_length=600)
    value_type: ValueTypeName = "float"
    unit: str = ""
    range_low: float = 0.0
    range_high: float = 100.0
    decimals: int = 1
    stepped: bool = False
    equipment: str = ""
    scan_us: int = 1_000_000
    colour: str = ""
    states: str = ""


class RecordedIn(Model):
    """A logger that records a tag."""

    logger: Uid
    name: str
    archive: str
    mode: LoggerMode
    text: str
    """The rule in words."""


class TagRowOut(TagIn):
    """A tag as it is set up."""

    uid: Uid
    revision: int
    recorded: list[RecordedIn]
    writable: bool
    """Whether values can be written to it."""


class ValueIn(Model):
    """A value to write."""

    value: float | int | bool


class TagRowPage(Model):
    """One page of tags."""

    total: int
    tags: list[TagRowOut]


class EquipmentOut(Model):
    """An equipment by its path, and how many tags belong to it."""

    path: str
    tags: int


class TagsIn(Model):
    """Tags to add: each one, or a series like the first (`{n}` in its name is the number)."""

    tags: list[TagIn] = Field(min_length=1, max_length=MOST_AT_ONCE)
    count: int = 1
    """More than 1: that many like the first one."""
    start: int = 1
    step: int | None = None
    """Registers from one to the next; none: the size of the value."""
    logger: Uid | None = None
    """Records them too."""
    temporary: bool = False
    """They go after a day, unless somebody keeps them, or a logger records them."""
    dry_run: bool = False


class TagsKept(Model):
    """Temporary tags that are to stay."""

    uids: list[Uid] = Field(min_length=1, max_length=MOST_AT_ONCE)


class TagsOut(Model):
    """Tags that were added, or would be."""

    uids: list[Uid]
    names: list[str]
    addresses: list[AddressModel]


class TagsChange(Model):
    """The same attributes for many tags."""

    uids: list[Uid] = Field(min_length=1, max_length=MOST_AT_ONCE)
    attributes: dict[str, Any]
    """Those of a tag that are to change."""
    revisions: dict[Uid, int] = Field(default_factory=dict)
    """The ones that were seen."""
    dry_run: bool = False


class FieldChangeOut(Model):
    """One attribute of a tag that changes."""

    name: str
    field: str
    before: Any
    after: Any


class ChangesOut(Model):
    """What changes, or would; of many the first 500."""

    tags: int
    changes: list[FieldChangeOut]


class TagsRemoval(Model):
    """Tags to remove; their history stays."""

    uids: list[Uid] = Field(min_length=1, max_length=MOST_AT_ONCE)
    revisions: dict[Uid, int] = Field(default_factory=dict)
    dry_run: bool = False


class RemovalOut(Model):
    """What a removal takes along."""

    tags: int
    loggers: list[str]
    """Those that lose members."""
    samples: int
    """Recorded ones that stay in the history."""
    calculated: list[str]
    """Calculated tags that need one of them, and will be Bad."""


class RefusalOut(Model):
    """A line of a file that cannot be used."""

    line: int
    field: str
    problem: str
    remedy: str


class ImportOut(Model):
    """What an import did, or would do: nothing is written as long as a line is refused."""

    written: bool
    added: int
    changed: int
    unchanged: int
    kept: int
    """Lines passed over because their name was taken."""
    clashes: int
    on_clash: OnClash
    new_names: list[str]
    """The first 200."""
    changes: list[FieldChangeOut]
    """The first 500."""
    refused: list[RefusalOut]
    """The first 200."""
    refused_count: int


class ArchiveSpecIn(Model):
    """A place where history is kept."""

    name: str = Field(max_length=200)
    keep_us: int | None = None
    keep_bytes: int | None = None
    thin: bool = False
    live_only: bool = False
    """Scratch work: emptied when a recorder starts."""
    directory: str = Field("", max_length=300)
    """Where its months lie on the host of the database; empty: with the database."""


class ArchiveIn(ArchiveSpecIn):
    """An archive as it is wanted."""

    revision: int | None = None


class ArchiveOut(ArchiveIn):
    """An archive, what it holds, and its price by what was recorded of late."""

    uid: Uid
    revision: int
    loggers: int
    samples: int
    bytes: int
    first_us: Micros | None
    last_us: Micros | None
    samples_per_day: float | None
    megabytes_per_year: float | None
    disk_state: str
    """ok, low, absent or unknown."""
    disk: str
    """Where it lies and what is free there, in words."""


class DoomedMonth(Model):
    """What retention deletes of one month."""

    start_us: Micros
    before_us: Micros
    samples: int
    bytes: int


class RetentionOut(Model):
    """What retention would delete now, to the sample; nothing is deleted by asking."""

    cut_us: Micros | None
    samples: int
    months: list[DoomedMonth]


class ChangeOut(Model):
    """A change of the set-up on record."""

    change_id: int
    kind: str
    uid: Uid
    name: str
    action: str
    created_us: Micros
    person: str
    before: dict[str, Any] | None
    after: dict[str, Any] | None


class StepPartOut(Model):
    """So many objects of a kind were added, changed or removed."""

    kind: str
    action: str
    count: int


class StepOut(Model):
    """All that one person changed at one moment; `first` is the first change of it."""

    first: ChangeOut
    parts: list[StepPartOut]


class FieldDifference(Model):
    """One field that differs."""

    name: str
    before: Any
    after: Any


class DifferenceOut(Model):
    """An object that a document adds or changes."""

    kind: str
    uid: str
    name: str
    action: str
    changes: list[FieldDifference]


class DocumentReport(Model):
    """What an imported set-up did, or would do."""

    written: bool
    differences: list[DifferenceOut]


class ShiftIn(Model):
    """One shift of the plant's day."""

    name: str = Field(min_length=1, max_length=50)
    start_minute: int = Field(ge=0, lt=1440)


class PlantIn(Model):
    """What holds for the whole plant."""

    name: str = Field(min_length=1, max_length=100)
    zone: str
    first_weekday: int = Field(ge=1, le=7)
    shifts: list[ShiftIn] = Field([], max_length=12)


class ClockRuleIn(Model):
    """What a logger by the clock keeps, to be tried beside rules on change."""

    kind: Literal["periodic"]
    interval_us: int
    phase_us: int = 0
    keeps: Keeps = Keeps.VALUE


def _tried_kind(rule: object) -> str:
    kind = rule.get("kind") if isinstance(rule, dict) else getattr(rule, "kind", None)
    return LoggerMode.PERIODIC if kind == LoggerMode.PERIODIC else LoggerMode.ON_CHANGE


TriedRule = Annotated[
    Annotated[ClockRuleIn, Tag(LoggerMode.PERIODIC)] | Annotated[RuleIn, Tag(LoggerMode.ON_CHANGE)],
    Discriminator(_tried_kind),
]


class RehearseIn(Model):
    """Rules to try on one signal: recorded history of a tag, a generated signal, or a CSV text."""

    tag: Uid | None = None
    start_us: Micros | None = None
    end_us: Micros | None = None
    generator: GeneratorAddressModel | None = None
    csv: str | None = Field(None, max_length=30_000_000)
    stepped: bool = False
    """Of a generated signal or a CSV text."""
    rules: list[TriedRule] = Field(min_length=1, max_length=3)
    width: int = Field(800, ge=50, le=4000)
    """Columns of the curves."""


class CurveOut(Model):
    """Samples to draw; a Bad one has no value."""

    t_us: list[Micros]
    v: list[Scalar]


class RehearsalOut(Model):
    """What one rule makes of the readings."""

    kept: int
    share: float
    largest_error: float
    rms_error: float
    missed_edges: int
    missed_us: list[Micros]
    """When: the first 500."""
    samples_per_day: float
    bytes_per_sample: float
    megabytes_per_year: float
    curve: CurveOut


class AdviceOut(Model):
    """A rule that suits the signal, and why."""

    rule: RuleIn
    reason: str


class RehearseOut(Model):
    """All readings, and what each rule would keep of them."""

    start_us: Micros
    end_us: Micros
    readings: int
    note: str
    """What to know of the readings."""
    readings_curve: CurveOut
    rehearsals: list[RehearsalOut]
    advice: AdviceOut
    stepped: bool
    """Values are held between samples."""
