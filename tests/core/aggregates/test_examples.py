"""The example of docs/aggregates.md is what the code computes."""

from __future__ import annotations

from pathlib import Path

import pytest

from cronaca.core import quality as q
from cronaca.core.aggregates import AGGREGATES, Samples, by_duration, process, status
from cronaca.core.model import SECOND, Series, ValueType

T0 = 1_767_268_800 * SECOND
ROWS = ((0, 60, q.GOOD), (10, 62, q.GOOD), (20, 0, q.BAD_SENSOR_FAILURE), (30, 66, q.GOOD),
        (40, 65, q.UNCERTAIN), (50, 64, q.GOOD))  # fmt: skip
EXAMPLE = Samples(
    Series.of(
        ValueType.FLOAT,
        [T0 + t * SECOND for t, _, _ in ROWS],
        [v for _, v, _ in ROWS],
        [c for _, _, c in ROWS],
    ),
    None,
    T0 + 60 * SECOND,
)


def documented() -> dict[str, tuple[str, str]]:
    text = (Path(__file__).parents[3] / "docs" / "aggregates.md").read_text()
    rows = [
        [cell.strip() for cell in line.strip("|").split("|")]
        for line in text.splitlines()
        if line.startswith("|")
    ]
    return {row[0]: (row[2], row[3]) for row in rows if row[0] in AGGREGATES and len(row) == 4}


@pytest.mark.parametrize("name", AGGREGATES)
def test_the_documented_example(name: str) -> None:
    found = process(name, EXAMPLE, by_duration(T0 + 5 * SECOND, T0 + 55 * SECOND))
    value = found.value(0)
    assert value is not None
    shown = status.code_name(int(value)) if AGGREGATES[name].result == "status" else f"{value:.6g}"
    assert documented()[name] == (shown, f"{int(found.codes[0]):08X}")
