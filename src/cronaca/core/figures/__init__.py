"""Figures: aggregates and statistics by name, computed together, and explained."""

from cronaca.core.figures.catalogue import Figure, Table, check, compute, find_figure, merges, needs_other
from cronaca.core.figures.explain import Explanation, Path, explain

__all__ = [
    "Explanation",
    "Figure",
    "Path",
    "Table",
    "check",
    "compute",
    "explain",
    "find_figure",
    "merges",
    "needs_other",
]
