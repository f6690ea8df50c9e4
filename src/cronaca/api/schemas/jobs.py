"""Jobs of the worker over the wire."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cronaca.api.schemas import Micros, Model, Uid
from cronaca.api.schemas.figures import FiguresIn
from cronaca.core.jobs import FileForm, JobState
from cronaca.services.jobs.asking import MOST_TAGS


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


class FiguresJobIn(Model):
    """A CSV file with figures, as POST /figures computes them, but of any number of samples. Windows are
    those of now."""

    kind: Literal["compute_figures"]
    figures: FiguresIn


JobIn = Annotated[ExportJobIn | FiguresJobIn, Field(discriminator="kind")]


class ExportJobOut(Model):
    """What a file of samples holds."""

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
