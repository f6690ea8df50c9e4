"""Figures of recorded values."""

from cronaca.services.figures.service import DOUBT_BELOW, MOST_READ, FigureService, resolved, value_of
from cronaca.services.figures.specs import (
    AS_SHOWN,
    Bin,
    ConfigurationSpec,
    Explained,
    ExplainSpec,
    FigureResult,
    FiguresFound,
    FigureSpec,
    FiguresSpec,
    FigureTable,
    FigureValue,
    ResolvedWindow,
    Scalar,
    SplitSpec,
    StateRow,
    TagFigures,
    WindowSpec,
)

__all__ = [
    "AS_SHOWN", "DOUBT_BELOW", "MOST_READ", "Bin", "ConfigurationSpec", "ExplainSpec", "Explained",
    "FigureResult", "FigureService", "FigureSpec", "FigureTable", "FigureValue", "FiguresFound",
    "FiguresSpec", "ResolvedWindow", "Scalar", "SplitSpec", "StateRow", "TagFigures", "WindowSpec",
    "resolved", "value_of",
]  # fmt: skip
