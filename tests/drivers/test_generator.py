"""The signal generator as a source."""

from __future__ import annotations

import json

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.bits import from_bits
from cronaca.core.errors import SourceRefused
from cronaca.core.model import SECOND, Tag, ValueType
from cronaca.recorder.drivers.generator import GeneratorDriver
from tests.support.builders import NOW, FixedClock, a_tag


def generated(tag_id: int, kind: ValueType = ValueType.FLOAT, **fields: object) -> Tag:
    return a_tag(f"signal {tag_id}", kind, tag_id=tag_id, address=json.dumps(fields))


async def test_each_tag_has_its_signal_in_its_own_type() -> None:
    clock = FixedClock(NOW - NOW % (60 * SECOND) + 45 * SECOND)
    driver = GeneratorDriver(clock)
    tags = [
        generated(1, shape="ramp", low=0, high=100, period_s=60),
        generated(2, ValueType.INTEGER, shape="ramp", low=0, high=10, period_s=60),
        generated(3, ValueType.BOOLEAN, shape="square", low=0, high=1, period_s=60),
    ]
    await driver.connect()
    reading = await driver.read(tags)
    values = [from_bits(int(b), t.value_type) for b, t in zip(reading.bits, tags, strict=True)]
    assert values == [75.0, 8, True]
    assert reading.quality.tolist() == [q.GOOD] * 3
    clock.time += 15 * SECOND
    assert from_bits(int((await driver.read(tags)).bits[0]), ValueType.FLOAT) == 0.0
    await driver.close()


async def test_a_place_that_cannot_be_used_makes_its_own_tag_bad_only() -> None:
    driver = GeneratorDriver(FixedClock())
    reading = await driver.read([generated(1, shape="spiral"), generated(2, shape="sine")])
    assert reading.quality.tolist() == [q.BAD_CONFIGURATION, q.GOOD]


async def test_tags_that_change_are_read_as_they_are_now() -> None:
    driver = GeneratorDriver(FixedClock(NOW - NOW % (60 * SECOND) + 30 * SECOND))
    for i in range(100):
        reading = await driver.read([generated(1, shape="ramp", low=i, high=i + 1, period_s=60)])
        assert reading.bits.view(np.float64).tolist() == [i + 0.5]


async def test_it_takes_no_value() -> None:
    with pytest.raises(SourceRefused):
        await GeneratorDriver(FixedClock()).write(generated(1, shape="sine"), 5)
