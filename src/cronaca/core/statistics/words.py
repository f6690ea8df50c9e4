"""What figures are called where people read them, and with how many digits they are written."""

from __future__ import annotations

from typing import Final

from cronaca.core.statistics.spec import Weight
from cronaca.core.statistics.texts import read_figure

LABELS: Final = {
    "Minimum": "Min", "Maximum": "Max", "Range": "Range", "TimeAverage2": "Time-weighted mean",
    "Average": "Mean of samples", "Deviation": "Time-weighted std dev",
    "StandardDeviationPopulation": "Std dev of samples", "Median": "Median", "Percentile": "Percentile",
    "Integral": "Integral", "Delta": "Difference", "Slope": "Slope", "Travel": "Travel", "Count": "Samples",
    "PercentGood": "% good", "Starts": "Starts", "RisingEdges": "Rising edges",
    "FallingEdges": "Falling edges", "DurationInStateNonZero": "Time on", "DurationInStateZero": "Time off",
    "OnTimeLongest": "Longest time on", "OnTimeShortest": "Shortest time on", "OnTimeMean": "Mean time on",
    "NumberOfTransitions": "Changes", "TimeInState": "Time in state", "StateEntries": "Entries into state",
    "StateLongest": "Longest time in state", "Interpolative": "Value at the start, interpolated",
    "TimeAverage": "Time-weighted mean, bad values bridged", "Total": "Total, bad values bridged",
    "Total2": "Total", "Minimum2": "Min with bounds", "Maximum2": "Max with bounds",
    "MinimumActualTime": "Min, first time", "MaximumActualTime": "Max, first time",
    "MinimumActualTime2": "Min with bounds, first time", "MaximumActualTime2": "Max with bounds, first time",
    "Range2": "Range with bounds", "Start": "First sample", "End": "Last sample",
    "StartBound": "Value at the start", "EndBound": "Value at the end",
    "DeltaBounds": "Difference with bounds", "DurationGood": "Time good", "DurationBad": "Time bad",
    "PercentBad": "% bad", "WorstQuality": "Worst quality",
    "WorstQuality2": "Worst quality with bounds", "AnnotationCount": "Notes",
    "StandardDeviationSample": "Std dev of samples (n − 1)", "VarianceSample": "Variance of samples (n − 1)",
    "VariancePopulation": "Variance of samples", "Variation": "Coefficient of variation",
    "RateOfChange": "Rate of change", "CountWhile": "Samples while a condition held",
    "Correlation": "Correlation", "Histogram": "Histogram", "TimeInStates": "Time in each state",
}  # fmt: skip
"""By name in the catalogue of figures: all of them."""
_AS_TAG: Final = frozenset({
    "Minimum", "Maximum", "Range", "Delta", "Travel", "Interpolative", "Minimum2", "Maximum2", "Range2",
    "MinimumActualTime", "MaximumActualTime", "MinimumActualTime2", "MaximumActualTime2", "Start", "End",
    "StartBound", "EndBound", "DeltaBounds",
})  # fmt: skip
_COUNTS: Final = (
    "Count", "Starts", "RisingEdges", "FallingEdges", "NumberOfTransitions", "StateEntries",
    "AnnotationCount", "CountWhile",
)  # fmt: skip
_SECONDS: Final = ("OnTimeLongest", "OnTimeShortest", "OnTimeMean", "TimeInState", "StateLongest")
_OWN_DIGITS: Final = {
    "Slope": 3, "RateOfChange": 3, "Correlation": 3, "PercentGood": 1, "PercentBad": 1, "Variation": 1,
    **dict.fromkeys(_COUNTS, 0), **dict.fromkeys(_SECONDS, 1),
}  # fmt: skip
_MILLISECONDS: Final = ("DurationInStateNonZero", "DurationInStateZero", "DurationGood", "DurationBad")
_NO_UNIT: Final = frozenset({"PercentGood", "PercentBad", *_COUNTS})


def label_of(stat: str) -> str:
    """The name of a figure for people, with the options that its text has: `Percentile 95`."""
    spec = read_figure(stat)
    words = [LABELS.get(spec.name, spec.name)]
    if spec.name == "Percentile":
        words.append(f"{spec.percent:g}")
    if spec.state is not None:
        words.append(str(spec.state))
    if spec.weight is Weight.SAMPLES:
        words.append("of samples")
    if spec.base is not None:
        base = spec.base.value
        words.append(f"over {base}s" if spec.name == "Integral" else f"per {base}")
    return " ".join(words)


def digits_of(stat: str, decimals: int) -> int:
    """With how many decimals a figure of a tag is written: two more than the tag's for means and the like."""
    name = read_figure(stat).name
    if name in _OWN_DIGITS:
        return _OWN_DIGITS[name]
    return decimals if name in _AS_TAG else min(decimals + 2, 12)


def written(stat: str, number: float, unit: str, decimals: int) -> tuple[float, str, str]:
    """A figure as it is written: the number in the unit shown, its text without unit, the unit. `unit`: that
    of the figure where it is known, else of its tag."""
    name = read_figure(stat).name
    if name in _MILLISECONDS:
        return number / 1000.0, f"{number / 1000.0:.1f}", "s"
    shown = "" if name in _NO_UNIT else "s" if name in _SECONDS else "%" if name == "Variation" else unit
    return number, f"{number:.{digits_of(stat, decimals)}f}", shown
