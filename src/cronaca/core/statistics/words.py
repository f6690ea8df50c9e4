"""What figures are called where people read them, and with how many digits they are written."""

from __future__ import annotations

from typing import Final

LABELS: Final = {
    "Minimum": "Min", "Maximum": "Max", "Range": "Range", "TimeAverage2": "Time-weighted mean",
    "Average": "Mean of samples", "Deviation": "Time-weighted std dev",
    "StandardDeviationPopulation": "Std dev of samples", "Median": "Median",
    "Integral": "Integral", "Delta": "Difference", "Slope": "Slope", "Travel": "Travel", "Count": "Samples",
    "PercentGood": "% good", "Starts": "Starts", "RisingEdges": "Rising edges",
    "DurationInStateNonZero": "Time on",
}  # fmt: skip
_AS_TAG: Final = frozenset({"Minimum", "Maximum", "Range", "Delta", "Travel"})
_OWN_DIGITS: Final = {"Slope": 3, "Count": 0, "PercentGood": 1, "Starts": 0, "RisingEdges": 0}
_MILLISECONDS: Final = "DurationInStateNonZero"


def label_of(stat: str) -> str:
    """The name of a figure for people; its own where it has no other."""
    return LABELS.get(stat, stat)


def digits_of(stat: str, decimals: int) -> int:
    """With how many decimals a figure of a tag is written: two more than the tag's for means and the like."""
    if stat in _OWN_DIGITS:
        return _OWN_DIGITS[stat]
    return decimals if stat in _AS_TAG else min(decimals + 2, 12)


def written(stat: str, number: float, unit: str, decimals: int) -> tuple[float, str, str]:
    """A figure as it is written: the number in the unit shown, its text without unit, the unit."""
    if stat == _MILLISECONDS:
        return number / 1000.0, f"{number / 1000.0:.1f}", "s"
    shown = "" if stat == "PercentGood" else unit
    return number, f"{number:.{digits_of(stat, decimals)}f}", shown
