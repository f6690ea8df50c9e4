"""What people set up, and what makes them usable; checked before anything is written."""

from cronaca.core.setup.overlaps import check_overlaps
from cronaca.core.setup.series import named_series
from cronaca.core.setup.specs import ArchiveSpec, PlantSpec, RunRuleSpec, SourceSpec, TagSpec

__all__ = [
    "ArchiveSpec",
    "PlantSpec",
    "RunRuleSpec",
    "SourceSpec",
    "TagSpec",
    "check_overlaps",
    "named_series",
]
