"""The signal generator as a source: values are functions of the time at which they are read."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from cronaca.core import quality as q
from cronaca.core.addresses.generator import parse_generator_address
from cronaca.core.bits import to_bits
from cronaca.core.errors import SourceRefused
from cronaca.core.model import Tag, ValueType
from cronaca.core.ports import Clock, Reading


class GeneratorDriver:
    """Makes up values; a core.ports.Driver that is always connected."""

    def __init__(self, clock: Clock) -> None:
        self._clock = clock

    async def connect(self) -> None:
        """There is nothing to connect to."""

    async def read(self, tags: Sequence[Tag]) -> Reading:
        """The values now; a number that is no whole one is rounded for a tag of whole numbers."""
        now = np.array([self._clock.now_us()])
        bits = []
        for tag in tags:
            value = float(parse_generator_address(tag.address).values(now)[0])
            bits.append(to_bits(value if tag.value_type is ValueType.FLOAT else round(value), tag.value_type))
        return Reading(np.array(bits, np.int64), np.full(len(tags), q.GOOD, np.uint16))

    async def write(self, tag: Tag, value: float) -> None:
        """A generated signal takes no value."""
        raise SourceRefused(f"{tag.name} is generated; {value:g} cannot be written")

    async def close(self) -> None:
        """Nothing was opened."""
