"""The example historians of IEC 62541-13 (OPC UA Part 13), Annex A, from memory, and their result tables."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.aggregates import Configuration, Samples, status
from cronaca.core.model import SECOND, Series, ValueType

START: Final = 1_767_268_800 * SECOND
"""12:00:00 on 1 January 2026; the standard names no date that matters."""
GOOD, BAD, UNC = q.GOOD, q.BAD, q.UNCERTAIN
_ONE: Final = ((10, 10, GOOD), (20, 20, GOOD), (30, 30, GOOD), (40, 0, BAD), (50, 50, GOOD), (60, 60, GOOD),
               (70, 70, UNC), (80, 80, GOOD), (90, 90, GOOD))  # fmt: skip
_TWO: Final = ((2, 10, GOOD), (25, 20, GOOD), (28, 25, GOOD), (39, 30, GOOD), (42, 0, BAD), (48, 40, GOOD),
               (52, 50, GOOD), (72, 60, GOOD), (77, 70, UNC), (83, 70, GOOD), (86, 80, GOOD),
               (90, 90, GOOD))  # fmt: skip
_FOUR: Final = ((2, 1), (25, 0), (28, 1), (39, 1), (42, 0), (48, 1), (52, 0), (72, 0), (77, 1), (83, 1),
                (86, 0), (90, 1))  # fmt: skip


def _history(rows: tuple[tuple[int, float, int], ...], kind: ValueType = ValueType.FLOAT) -> Samples:
    times, values, quality = zip(*rows, strict=True)
    return Samples(Series.of(kind, [START + t * SECOND for t in times], values, quality))


HISTORIAN_1: Final = _history(_ONE)
HISTORIAN_2: Final = _history(_TWO)
HISTORIAN_4: Final = _history(
    tuple((t, v, quality) for (t, v), (_, _, quality) in zip(_FOUR, _TWO, strict=True)), ValueType.BOOLEAN
)
CONFIGURATION_1: Final = Configuration(treat_uncertain_as_bad=False)
CONFIGURATION_2: Final = Configuration()
CONFIGURATION_3: Final = Configuration(stepped=True, percent_good=50, percent_bad=50)
CONFIGURATION_4: Final = Configuration(stepped=True)

_BITS = {"C": status.CALCULATED, "I": status.INTERPOLATED, "P": status.PARTIAL, "M": status.MULTI_VALUE}
_CODES = {"Good": 0, "Unc": q.UNCERTAIN_DATA_SUB_NORMAL << 16, "Uncertain": UNC << 16, "Bad": BAD << 16,
          "BadNoData": q.BAD_NO_DATA << 16}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Cell:
    """One result of a table."""

    value: str
    status: str
    at_us: int | None
    bits: int

    @classmethod
    def parse(cls, text: str) -> Cell:
        at = None
        if text.startswith("@"):
            time, text = text[1:].split(" ", 1)
            minute, second = time.split(":")
            at = START + int(minute) * 60 * SECOND + round(float(second) * SECOND)
        value, found = text.split(" ")
        word, *bits = found.split(",")
        return cls(value, word, at, sum(_BITS[b] for b in bits))

    def agrees(self, value: float | None, code: int, ts_us: int, *, is_status: bool) -> bool:
        """Whether a result is the cell's: value to four digits, severity, bits, time where it is given."""
        if self.at_us is not None and self.at_us != ts_us:
            return False
        if (code & 0x1F) != self.bits or (code >> 30) != (_CODES[self.status] >> 30):
            return False
        if self.status == "BadNoData" and code != _CODES["BadNoData"]:
            return False
        if self.value == "-":
            return value is None
        if is_status:
            return value is not None and int(value) == _CODES[self.value]
        return value is not None and bool(np.isclose(value, float(self.value), rtol=0, atol=5e-5))


@dataclass(frozen=True, slots=True)
class Row:
    """The results for one interval."""

    start: str
    one: Cell
    two: Cell

    def cell(self, historian: int) -> Cell:
        return self.one if historian == 1 else self.two


@dataclass(frozen=True, slots=True)
class Table:
    """One aggregate's results for historians 1 and 2."""

    aggregate: str
    interval_us: int
    rows: tuple[Row, ...]


def read_tables() -> list[Table]:
    """All tables of the file beside this module."""
    text = (Path(__file__).parent / "annex_a.txt").read_text()
    found = []
    for block in text.split("\n[")[1:]:
        head, *lines = block.strip().splitlines()
        name, seconds = head.rstrip("]").split(" ")
        rows = [line.split(" | ") for line in lines if line]
        cells = tuple(Row(t, Cell.parse(a), Cell.parse(b)) for t, a, b in rows)
        found.append(Table(name, int(seconds) * SECOND, cells))
    return found
