"""Jobs of the worker: who waits for them, and how far they are."""

from __future__ import annotations

from enum import StrEnum


class Queue(StrEnum):
    """Who waits for a job. Each queue has a thread of its own, so that a long export delays no recorder."""

    RECORDER = "recorder"
    PEOPLE = "people"


class JobState(StrEnum):
    """How far a job is."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


class FileForm(StrEnum):
    """The format of a file of samples. A workbook holds about a million rows."""

    CSV = "csv"
    XLSX = "xlsx"
    PARQUET = "parquet"
