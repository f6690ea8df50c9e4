"""What the worker is asked to do: a union of small frozen types, each with the name of its kind.

A new kind is a class and a row in KINDS, and a handler beside the others.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import ClassVar, Final

from cronaca.core import tagged
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.jobs import FileForm
from cronaca.core.loggers import OnChange, Periodic
from cronaca.core.model import Tag
from cronaca.core.samples import QualityChoice
from cronaca.services.figures.specs import FiguresSpec
from cronaca.services.sample_tables import Layout, RowOrder


@dataclass(frozen=True, slots=True)
class Recall:
    """What is recorded of a tag in [start_us, end_us), for a statistic that begins with it."""

    kind: ClassVar[str] = "recall"

    tag_id: int
    start_us: int
    end_us: int


@dataclass(frozen=True, slots=True)
class Taker:
    """A history that gets samples of an outage, by the mode of its logger: one of the two is given."""

    key: HistoryKey
    periodic: Periodic[int] | None = None
    on_change: OnChange[int] | None = None

    @property
    def mode(self) -> Periodic[int] | OnChange[int]:
        """The mode of its logger."""
        mode = self.periodic or self.on_change
        if mode is None:
            raise TypeError("a taker has no mode")
        return mode


@dataclass(frozen=True, slots=True)
class FillGap:
    """A device remembers what was missed of a tag in [start_us, end_us); its readings travel with the job."""

    kind: ClassVar[str] = "fill_gap"

    tag: Tag
    start_us: int
    end_us: int
    takers: tuple[Taker, ...]


@dataclass(frozen=True, slots=True)
class ExportSamples:
    """A file with all recorded samples of some tags (by uid) in [start_us, end_us). `archives`: by tag, where
    not the fitting one; times are local with their offset, or in UTC."""

    kind: ClassVar[str] = "export_samples"

    tags: tuple[str, ...]
    start_us: int
    end_us: int
    form: FileForm = FileForm.CSV
    archives: Mapping[str, str] = field(default_factory=dict)
    utc: bool = False


@dataclass(frozen=True, slots=True)
class ExportTable:
    """A file with all rows of a table of samples, of tags (by uid) in [start_us, end_us). `archives`: by tag,
    where not the fitting one; `value`: what was typed to see some values only."""

    kind: ClassVar[str] = "export_table"

    tags: tuple[str, ...]
    start_us: int
    end_us: int
    form: FileForm = FileForm.CSV
    layout: Layout = Layout.SAMPLE
    step_us: int = 1_000_000
    interpolated: bool = False
    order: RowOrder = RowOrder.NEWEST
    value: str = ""
    quality: QualityChoice = QualityChoice.ANY
    archives: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class ComputeFigures:
    """A file with figures of tags, of any number of samples."""

    kind: ClassVar[str] = "compute_figures"

    figures: FiguresSpec


JobSpec = Recall | FillGap | ExportSamples | ExportTable | ComputeFigures
KINDS: Final[Mapping[str, type[JobSpec]]] = {
    kind.kind: kind for kind in (Recall, FillGap, ExportSamples, ExportTable, ComputeFigures)
}


def to_text(spec: JobSpec) -> str:
    """As it is stored, beside its kind."""
    return tagged.to_text(spec)


def from_text(kind: str, text: str) -> JobSpec:
    """What `to_text` has made. Raises CorruptPayload for a kind or content that is none."""
    return tagged.from_text(KINDS, kind, text, "job", "worker")
