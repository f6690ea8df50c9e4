"""Names are ordered as people count."""

from __future__ import annotations

import random

from cronaca.core.ordering import natural_key

IN_ORDER = [
    "2 bar",
    "10 bar",
    "line 1",
    "Line 2",
    "line 2a",
    "Line 10",
    "Line 10 Zone 2",
    "Line 10 Zone 11",
    "Zone",
]


def test_numbers_in_names_count_as_numbers_whatever_the_case() -> None:
    shuffled = random.Random(4).sample(IN_ORDER, len(IN_ORDER))
    assert sorted(shuffled, key=natural_key) == IN_ORDER
    assert natural_key("Zone 007")[1][1] == 7
