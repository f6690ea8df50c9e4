"""The signal generator as a source: values are functions of the time at which they are read."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.addresses.generator import SignalBank, parse_generator_address
from cronaca.core.errors import InvalidInput, SourceRefused
from cronaca.core.model import Tag, ValueType
from cronaca.core.ports import Clock
from cronaca.core.readings import Values

_MOST_BANKS: Final = 32
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class _Bank:
    """The signals of tags that are read together; a tag whose place cannot be used has none."""

    signals: SignalBank
    usable: NDArray[np.intp]
    is_float: NDArray[np.bool_]


class GeneratorDriver:
    """Makes up values; a core.ports.Driver that is always connected."""

    def __init__(self, clock: Clock) -> None:
        self._clock = clock
        self._banks: dict[object, _Bank] = {}

    async def connect(self) -> None:
        """There is nothing to connect to."""

    async def read(self, tags: Sequence[Tag]) -> Values:
        """The values now; a number that is no whole one is rounded for a tag of whole numbers."""
        bank = self._bank(tags)
        values = bank.signals.at(self._clock.now_us())
        bits = np.zeros(len(tags), np.int64)
        bits[bank.usable] = np.where(bank.is_float, values.view(np.int64), np.rint(values).astype(np.int64))
        quality = np.full(len(tags), q.BAD_CONFIGURATION, np.uint16)
        quality[bank.usable] = q.GOOD
        return Values(bits, quality)

    async def write(self, tag: Tag, value: float) -> None:
        """A generated signal takes no value."""
        raise SourceRefused(f"{tag.name} is generated; {value:g} cannot be written")

    async def close(self) -> None:
        """Nothing was opened."""

    def _bank(self, tags: Sequence[Tag]) -> _Bank:
        key = tuple(tag.address for tag in tags), tuple(tag.value_type for tag in tags)
        if key not in self._banks:
            if len(self._banks) >= _MOST_BANKS:
                self._banks.clear()  # those of tags as they were before are not asked for again
            self._banks[key] = _build(tags)
        return self._banks[key]


def _build(tags: Sequence[Tag]) -> _Bank:
    signals, usable = [], []
    for i, tag in enumerate(tags):
        try:
            signals.append(parse_generator_address(tag.address))
            usable.append(i)
        except InvalidInput as exc:
            _log.warning("Tag %s cannot be read: %s", tag.name, exc)
    is_float = [tags[i].value_type is ValueType.FLOAT for i in usable]
    return _Bank(SignalBank(signals), np.array(usable, np.intp), np.array(is_float, np.bool_))
