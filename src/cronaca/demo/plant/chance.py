"""Chance as a function of place and time: the same second of the same line draws the same numbers, however
many lines run beside each other and wherever a run begins. So a fortnight can be made in pieces side by
side, each warmed up over the end of the piece before it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
NORMALS: Final = 9
UNIFORMS: Final = 6
_BLOCK: Final = 600
_LOTS: Final = 20_000
"""More than three years of lots."""
_BEFORE_S: Final = 100_000.0
"""Lots begin this long before second 0."""


class Chance:
    """The draws of some lines: `seeds[i]` belongs to a line, `starts_s[i]` is the second it begins at."""

    def __init__(self, seeds: Sequence[int], starts_s: Sequence[int]) -> None:
        self._seeds = list(seeds)
        self._at = np.array(starts_s, np.int64)
        self._left = 0
        self._normals = np.empty((0, NORMALS, len(seeds)))
        self._uniforms = np.empty((0, UNIFORMS, len(seeds)))

    @property
    def at(self) -> NDArray[np.int64]:
        """The second that each line comes to next: with the seeds, all that the draws depend on."""
        return self._at

    def step(self) -> tuple[Floats, Floats]:
        """The standard normals (NORMALS x lines) and uniforms (UNIFORMS x lines) of the next step."""
        if self._left == 0:
            self._draw()
        place = len(self._normals) - self._left
        self._left -= 1
        self._at += 1
        return self._normals[place], self._uniforms[place]

    def _draw(self) -> None:
        into = int(self._at[0] % _BLOCK)
        normals, uniforms = [], []
        for seed, block in zip(self._seeds, (self._at // _BLOCK).tolist(), strict=True):
            rng = np.random.default_rng([seed, block + 1_000_000])
            normals.append(rng.standard_normal((_BLOCK, NORMALS)))
            uniforms.append(rng.random((_BLOCK, UNIFORMS)))
        # One step's numbers lie side by side.
        self._normals = np.ascontiguousarray(np.array(normals).transpose(1, 2, 0)[into:])
        self._uniforms = np.ascontiguousarray(np.array(uniforms).transpose(1, 2, 0)[into:])
        self._left = len(self._normals)


class Lots:
    """Which lot and product a line runs when: lots of 70 to 110 minutes."""

    def __init__(self, seed: int, first_lot: int) -> None:
        rng = np.random.default_rng([seed, 7])
        self._ends = np.cumsum(rng.uniform(4200, 6600, _LOTS)) - _BEFORE_S
        self._products = rng.integers(0, 3, _LOTS + 1)
        self._first_lot = first_lot

    def at(self, second: float) -> tuple[int, int, float]:
        """Lot, product, and the second at which the lot ends."""
        place = int(np.searchsorted(self._ends, second, side="right"))
        end = float(self._ends[place]) if place < _LOTS else np.inf
        return self._first_lot + place, int(self._products[place]), end
