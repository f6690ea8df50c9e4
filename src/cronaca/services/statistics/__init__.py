"""Figures beside what is normal for them: sheets, control charts, drill-down, scatter, stretches."""

from cronaca.services.statistics.drilldown import DrilldownService
from cronaca.services.statistics.scatter import ScatterService
from cronaca.services.statistics.sheet import StatisticsService
from cronaca.services.statistics.stretches import StretchesService

__all__ = ["DrilldownService", "ScatterService", "StatisticsService", "StretchesService"]
