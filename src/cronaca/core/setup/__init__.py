"""Facts that people set up, and what makes them usable; checked before anything is written."""

from cronaca.core.setup.facts import ArchiveFacts, PlantFacts, RunRuleFacts, SourceFacts, TagFacts
from cronaca.core.setup.overlaps import check_overlaps
from cronaca.core.setup.series import named_series

__all__ = [
    "ArchiveFacts",
    "PlantFacts",
    "RunRuleFacts",
    "SourceFacts",
    "TagFacts",
    "check_overlaps",
    "named_series",
]
