"""Which rule suits a signal, and why."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.model import MINUTE, SECOND, RuleKind, RuleSpec, Series

_FEW: Final = 20
_SIGMAS: Final = 4.0
"""White noise is outside of so many standard deviations once in 16,000 readings."""
_MAD_TO_SIGMA: Final = 1.4826
"""Of a normal distribution (Rousseeuw and Croux, JASA 88, 1993)."""
_CALM: Final = 0.02


@dataclass(frozen=True, slots=True)
class Advice:
    """A rule and the reason for it, in words."""

    rule: RuleSpec
    reason: str


def recommend(readings: Series, *, stepped: bool, decimals: int) -> Advice:
    """A rule for readings as they come. Noise is taken from second differences: what is left when level and
    trend are gone (their median absolute deviation over sqrt(6), for white noise)."""
    usable = ~q.is_bad(readings.quality)
    values = readings.values[usable].astype(np.float64)
    if len(values) < _FEW:
        return Advice(RuleSpec(), "There are too few readings to judge by: keep every change.")
    changes = float(np.mean(values[1:] != values[:-1]))
    if readings.value_type.discrete:
        return Advice(RuleSpec(), "A contact or state: each change counts, and nothing lies between them.")
    if stepped or changes < _CALM:
        return Advice(RuleSpec(), f"It changes in {changes:.1%} of its readings only: keep every change.")
    noise = _noise_of(values)
    step = 10.0**-decimals
    if noise < step / 4:
        rule = RuleSpec(kind=RuleKind.LINE, width=step / 2, longest_silence_us=10 * MINUTE)
        return Advice(
            rule, f"It has almost no noise: straight lines tell it within half of its last digit, {step:g}."
        )
    width = float(f"{max(_SIGMAS * noise, step):.2g}")
    rule = RuleSpec(kind=RuleKind.LINE, width=width, longest_silence_us=10 * MINUTE)
    reason = (
        f"Its noise has a standard deviation of about {noise:.2g}; a straight line within {width:g} keeps "
        "its course and leaves the noise out. What is within that width cannot be told afterwards."
    )
    if _has_spikes(values, noise):
        rule = RuleSpec(
            width=width, rate_limit_us=10 * SECOND, keep_extremes=True, longest_silence_us=10 * MINUTE
        )
        reason = (
            f"Its noise has a standard deviation of about {noise:.2g}, and it has spikes: a deadband of "
            f"{width:g} with a rate limit that keeps the extremes loses none of them."
        )
    return Advice(rule, reason)


def _noise_of(values: np.ndarray[tuple[int], np.dtype[np.float64]]) -> float:
    bends = values[2:] - 2 * values[1:-1] + values[:-2]
    return float(np.median(np.abs(bends - np.median(bends)))) * _MAD_TO_SIGMA / 6**0.5


def _has_spikes(values: np.ndarray[tuple[int], np.dtype[np.float64]], noise: float) -> bool:
    """A reading that stands far from both of its neighbours, to the same side."""
    back, on = values[1:-1] - values[:-2], values[1:-1] - values[2:]
    return bool(((np.minimum(np.abs(back), np.abs(on)) > 10 * noise) & (back * on > 0)).any())
