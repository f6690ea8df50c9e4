"""What a page can be told has changed, so that it reads anew what it shows and nothing else."""

from __future__ import annotations

from enum import StrEnum


class Topic(StrEnum):
    """Kinds of things that change. The names travel in the API and are kept in the database: they stay what
    they are. Those of the set-up are the kinds of its record of changes."""

    PLANT = "plant"
    SOURCE = "source"
    TAG = "tag"
    ARCHIVE = "archive"
    LOGGER = "logger"
    RUN_RULE = "run"
    EQUIPMENT_CLASS = "equipment_class"
    EQUIPMENT = "equipment"
    COVERAGE = "coverage"
    """Where tags are recorded, and the gaps."""
    HISTORY = "history"
    """Samples that were corrected, imported or filled in: not those that the recorder adds."""
    RECORDS = "records"
    RUNS = "runs"
    NOTES = "notes"
    SHEETS = "sheets"
    REPORTS = "reports"
    JOBS = "jobs"
