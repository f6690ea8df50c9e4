"""The clock set twenty times by random steps."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from cronaca.db import Store
from tests.recorder.test_store_faults import record_over_steps

ROUNDS = 20


@pytest.mark.slow
async def test_twenty_random_steps_of_the_clock(store: Store, tmp_path: Path) -> None:
    chance = random.Random(5)
    sizes = [chance.choice([-1, 1]) * chance.choice([2, 30, 600, 3600, 86_400]) for _ in range(ROUNDS)]
    count, _ = await record_over_steps(store, tmp_path, sizes)
    assert count > 50
