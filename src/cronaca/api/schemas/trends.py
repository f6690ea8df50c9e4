"""Sheets, notes and windows over the wire."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from cronaca.api.schemas import Micros, Model, Uid
from cronaca.core.trends import WIDEST
from cronaca.exchange.shown import Form

SheetPage = Literal["trends", "statistics", "samples"]


class SheetIn(Model):
    """A sheet to save; `view` is the query of the link that shows it."""

    page: SheetPage = "trends"

    name: str = Field(max_length=200)
    folder: str = Field("", max_length=200)
    view: str = Field(max_length=20_000)
    own: bool = False
    """Seen by nobody but the person who saves it."""
    revision: int | None = None


class SheetOut(SheetIn):
    """A saved sheet."""

    uid: Uid
    revision: int
    person: str
    created_us: Micros


class NoteIn(Model):
    """A note on a moment or a stretch, of one tag or of all."""

    start_us: Micros
    end_us: Micros | None = None
    tag: Uid | None = None
    text: str = Field(max_length=4000)


class NoteText(Model):
    """What a note says from now on."""

    text: str = Field(max_length=4000)


class NoteOut(NoteIn):
    """A pinned note."""

    uid: Uid
    tag_name: str | None
    person: str
    created_us: Micros


class EarlierOut(Model):
    """What a note said before."""

    text: str
    person: str
    created_us: Micros


class SistersOf(Model):
    """Tags of one equipment."""

    tags: list[Uid] = Field(min_length=1, max_length=64)


class SistersIn(SistersOf):
    """And the equipment whose tags are wanted in their place."""

    equipment: str = Field(max_length=200)


class SistersOut(Model):
    """For each tag its sister, or none."""

    sisters: list[Uid | None]


class SisterEquipmentOut(Model):
    """Equipment that has tags of the same names, and how many of those that were asked for."""

    equipment: str
    tags: int


class ExportQuery(Model):
    """Samples to write to a file."""

    tag: list[Uid] = Field(min_length=1, max_length=64)
    start: int
    end: int
    """UTC microseconds since 1970."""
    form: Form = Form.CSV
    archive: list[str] = Field(default_factory=list, max_length=64)
    """tag:archive (uid and name), where not the fitting one."""
    what: Literal["recorded", "shown"] = "recorded"
    width: int = Field(1000, ge=1, le=WIDEST)
    """Pixel columns of what is shown."""
    utc: bool = False
    """Times in UTC instead of the plant's zone."""
