"""Where in a signal generator a tag's value lies: a shape, and its values as a function of time alone.

The same time gives the same value in the recorder, in a rehearsal and after a restart.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from enum import StrEnum
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.errors import InvalidInput
from cronaca.core.model import SECOND, Times

_GOLDEN: Final = np.uint64(0x9E3779B97F4A7C15)
_MIX_1: Final = np.uint64(0xBF58476D1CE4E5B9)
_MIX_2: Final = np.uint64(0x94D049BB133111EB)
_OCTAVES: Final = 10
_REMEDY: Final = "Give shape, low, high, period_s and noise, for instance sine, 0, 100, 60, 0.5."


class Shape(StrEnum):
    """What a generated signal looks like."""

    RAMP = "ramp"
    SINE = "sine"
    SQUARE = "square"
    STEPS = "steps"
    RANDOM_WALK = "random_walk"
    NOISE = "noise"


@dataclass(frozen=True, slots=True)
class GeneratorAddress:
    """A signal between `low` and `high`; `noise` is the width of what is added to either side."""

    shape: Shape
    low: float = 0.0
    high: float = 100.0
    period_s: float = 60.0
    noise: float = 0.0
    seed: int = 0

    def to_json(self) -> str:
        """The form in which the set-up keeps it."""
        return json.dumps(asdict(self))

    def values(self, ts_us: Times) -> NDArray[np.float64]:
        """The signal at these times."""
        period_us, seed = np.full(len(ts_us), self.period_us), np.full(len(ts_us), self.seed)
        share = _share(self.shape, ts_us, period_us, seed)
        noise = _noise(ts_us, seed) * self.noise
        return np.asarray(self.low + (self.high - self.low) * share + noise, np.float64)

    @property
    def period_us(self) -> int:
        """The period in µs."""
        return round(self.period_s * SECOND)


class SignalBank:
    """Many generated signals at one time: what ten thousand tags need each second."""

    def __init__(self, signals: Sequence[GeneratorAddress]) -> None:
        self._places = {
            shape: np.array([i for i, signal in enumerate(signals) if signal.shape is shape], np.intp)
            for shape in {signal.shape for signal in signals}
        }
        self._period_us = np.array([signal.period_us for signal in signals], np.int64)
        self._seed = np.array([signal.seed for signal in signals], np.int64)
        self._low = np.array([signal.low for signal in signals])
        self._span = np.array([signal.high - signal.low for signal in signals])
        self._noise = np.array([signal.noise for signal in signals])

    def at(self, ts_us: int) -> NDArray[np.float64]:
        """The value of each signal, the same that it has alone."""
        times = np.full(len(self._seed), ts_us, np.int64)
        share = np.zeros(len(self._seed))
        for shape, places in self._places.items():
            share[places] = _share(shape, times[places], self._period_us[places], self._seed[places])
        noise = _noise(times, self._seed) * self._noise
        return np.asarray(self._low + self._span * share + noise, np.float64)


def _share(shape: Shape, ts_us: Times, period_us: Times, seed: Times) -> NDArray[np.float64]:
    """0 at the low end to 1 at the high end; a time, a period and a seed for each value."""
    phase: NDArray[np.float64] = (ts_us % period_us) / period_us
    if shape is Shape.RAMP:
        return phase
    if shape is Shape.SINE:
        return np.asarray(0.5 + 0.5 * np.sin(2 * np.pi * phase), np.float64)
    if shape is Shape.SQUARE:
        return (phase >= 0.5).astype(np.float64)
    if shape is Shape.STEPS:
        return _uniform(ts_us // period_us, seed)
    if shape is Shape.NOISE:
        return _uniform(ts_us, seed)
    return _wandering(ts_us, period_us, seed)


def _noise(ts_us: Times, seed: Times) -> NDArray[np.float64]:
    """Between -1 and 1."""
    return np.asarray(2 * _uniform(ts_us, seed + 1) - 1, np.float64)


def _uniform(numbers: Times, seed: Times) -> NDArray[np.float64]:
    """Numbers in [0, 1) that look random and depend on nothing but their place (SplitMix64: Steele, Lea,
    Flood, OOPSLA 2014)."""
    with np.errstate(over="ignore"):
        state = numbers.astype(np.uint64) + (seed % (1 << 32) + 1).astype(np.uint64) * _GOLDEN
        state = (state ^ (state >> np.uint64(30))) * _MIX_1
        state = (state ^ (state >> np.uint64(27))) * _MIX_2
        state ^= state >> np.uint64(31)
    result: NDArray[np.float64] = (state >> np.uint64(11)).astype(np.float64) * 2.0**-53
    return result


def _wandering(ts_us: Times, period_us: Times, seed: Times) -> NDArray[np.float64]:
    """A walk: noise of ever shorter periods, each half as strong and half as long as the one before."""
    total = np.zeros(len(ts_us))
    weight = 0.0
    for octave in range(_OCTAVES):
        width = np.maximum(period_us >> octave, 1)
        place, inside = ts_us // width, (ts_us % width) / width
        start, end = _uniform(place, seed + octave), _uniform(place + 1, seed + octave)
        total += (start + (end - start) * inside) * 0.5**octave
        weight += 0.5**octave
    result: NDArray[np.float64] = total / weight
    return result


def parse_generator_address(text: str) -> GeneratorAddress:
    """An address from its JSON form; raises InvalidInput."""
    try:
        given = json.loads(text)
        address = GeneratorAddress(
            Shape(given["shape"]),
            float(given.get("low", 0.0)),
            float(given.get("high", 100.0)),
            float(given.get("period_s", 60.0)),
            float(given.get("noise", 0.0)),
            int(given.get("seed", 0)),
        )
    except (KeyError, TypeError, ValueError, AttributeError) as exc:
        raise InvalidInput(
            "address",
            "not-generated-signal",
            "{text} is not a generated signal ({exc})",
            _REMEDY,
            text=text,
            exc=exc,
        ) from exc
    if not np.isfinite([address.low, address.high, address.noise]).all() or address.noise < 0:
        raise InvalidInput(
            "address", "ends-noise-no-usable", "its ends or its noise are no usable numbers", _REMEDY
        )
    if address.high <= address.low:
        raise InvalidInput("address", "high-end-not-above", "its high end is not above its low end", _REMEDY)
    if not 0.001 <= address.period_s <= 86_400 * 366:
        raise InvalidInput(
            "address",
            "period-unusable",
            "a period of {period_s} s cannot be used",
            "Give 0.001 or more.",
            period_s=address.period_s,
        )
    return address
