"""Jobs of the worker over the wire."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cronaca.api.schemas import Micros, Model, Uid
from cronaca.api.schemas.figures import FiguresIn
from cronaca.core.jobs import FileForm, JobState
from cronaca.core.samples import QualityChoice
from cronaca.services.jobs.asking import MOST_TAGS
from cronaca.services.sample_tables import MOST_TABLE_TAGS, Layout, RowOrder


class ExportJobIn(Model):
    """A file with all recorded samples of tags in [start_us, end_us)."""

    kind: Literal["export_samples"]
    tags: list[Uid] = Field(max_length=MOST_TAGS)
    start_us: Micros
    end_us: Micros
    form: FileForm = FileForm.CSV
    archives: dict[Uid, Annotated[str, Field(max_length=100)]] = Field({}, max_length=MOST_TAGS)
    """By tag, where another archive than the fitting one is to be read."""
    utc: bool = False
    """Times in UTC; by default in the plant's zone with their offset."""


class TableJobIn(Model):
    """A file with all rows of a table of samples, as GET /samples shows them, however many."""

    kind: Literal["export_table"]
    tags: list[Uid] = Field(max_length=MOST_TABLE_TAGS)
    start_us: Micros
    end_us: Micros
    form: FileForm = FileForm.CSV
    layout: Layout = Layout.SAMPLE
    step_us: int = Field(1_000_000, ge=1000, le=31 * 86_400_000_000)
    """Interval of the grid in µs."""
    between: Literal["held", "interpolated"] = "held"
    """Values between samples."""
    order: RowOrder = RowOrder.NEWEST
    value: str = Field("", max_length=100)
    """`> 80`, `80 to 90`, `!= 0`, or a text that a value contains."""
    quality: QualityChoice = QualityChoice.ANY
    archives: dict[Uid, Annotated[str, Field(max_length=100)]] = Field({}, max_length=MOST_TABLE_TAGS)
    """By tag, where another archive than the fitting one is to be read."""


class FiguresJobIn(Model):
    """A CSV file with figures, as POST /figures computes them, but of any number of samples. Windows are
    those of now."""

    kind: Literal["compute_figures"]
    figures: FiguresIn


JobIn = Annotated[ExportJobIn | TableJobIn | FiguresJobIn, Field(discriminator="kind")]


class ExportJobOut(Model):
    """What a file of samples holds; `is_table`: the rows of a table of samples."""

    is_table: bool
    tag_count: int
    start_us: Micros
    end_us: Micros
    form: FileForm


class FiguresJobOut(Model):
    """What a file of figures holds."""

    tag_count: int
    stats: list[str]


class JobOut(Model):
    """A job: `share` of the work is done, 0 to 1; `problem` says why it failed. A file can be fetched once
    the job is done, until the job is removed (a week after its end at the latest)."""

    uid: Uid
    kind: str
    export: ExportJobOut | None
    figures: FiguresJobOut | None
    """What is asked for, by its kind; none where another version has asked for what this one does not
    know."""
    name: str
    person: str
    state: JobState
    share: float
    problem: str
    created_us: Micros
    begun_us: Micros | None
    ended_us: Micros | None
    file_name: str
    file_bytes: int
