"""Fifty rounds of what tests/faults does a few times: recorders commit, spool, are late, die, fill in."""

from __future__ import annotations

import random

import pytest

from cronaca.db import Store
from tests.faults.test_holes import live_through

pytestmark = [pytest.mark.slow, pytest.mark.timeout(1200)]


@pytest.mark.parametrize("seed", range(1000, 1050))
def test_no_hole_without_a_reason(store: Store, seed: int) -> None:
    live_through(store, random.Random(seed), 40)
