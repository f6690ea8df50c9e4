"""Figures: aggregates and statistics by name, computed together, and explained."""

from cronaca.core.figures.catalogue import (
    Entry,
    Figure,
    Table,
    all_figures,
    check,
    compute,
    find_figure,
    merges,
    unit_of,
    with_base,
)
from cronaca.core.figures.explain import Explanation, Path, explain

__all__ = [
    "Entry",
    "Explanation",
    "Figure",
    "Path",
    "Table",
    "all_figures",
    "check",
    "compute",
    "explain",
    "find_figure",
    "merges",
    "unit_of",
    "with_base",
]
