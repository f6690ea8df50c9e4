"""Facts that people set up, and what makes them usable; checked before anything is written."""

from cronaca.core.setup.facts import (
    ArchiveFacts,
    LoggerFacts,
    PlantFacts,
    RunRuleFacts,
    SourceFacts,
    TagFacts,
    TriggerFacts,
    WhenFacts,
)
from cronaca.core.setup.overlaps import check_overlaps
from cronaca.core.setup.series import named_series

__all__ = [
    "ArchiveFacts",
    "LoggerFacts",
    "PlantFacts",
    "RunRuleFacts",
    "SourceFacts",
    "TagFacts",
    "TriggerFacts",
    "WhenFacts",
    "check_overlaps",
    "named_series",
]
