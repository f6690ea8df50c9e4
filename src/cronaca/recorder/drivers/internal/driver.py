"""Internal values as a source: what was written last is what is read."""

from __future__ import annotations

import asyncio
from collections.abc import Sequence

import numpy as np

from cronaca.core import quality as q
from cronaca.core.addresses.internal import checked_value, parse_internal_address
from cronaca.core.bits import to_bits
from cronaca.core.errors import InvalidInput, SourceRefused, SourceUnreachable, StoreError
from cronaca.core.model import Tag, ValueType
from cronaca.core.ports import KeptValues
from cronaca.core.readings import Values


class InternalValues:
    """The values of all internal tags of a recorder. They outlive the sources: no change of the set-up wipes
    one. A value of another type is none of the tag's."""

    def __init__(self, kept: KeptValues) -> None:
        self._kept = kept
        self._values: dict[int, tuple[ValueType, int]] = {}
        self._loaded = False

    async def load(self) -> None:
        """Brings back what was kept; raises SourceUnreachable while the database is away."""
        if self._loaded:
            return
        try:
            known = await asyncio.to_thread(self._kept.load)
        except StoreError as exc:
            raise SourceUnreachable("kept values cannot be read: the database is away") from exc
        self._values = {**known, **self._values}
        self._loaded = True

    def bits_of(self, tag: Tag) -> int | None:
        """The value as its 64 bits; None before there is one."""
        place = parse_internal_address(tag.address, tag.value_type)
        kind, bits = self._values.get(tag.tag_id, (None, 0))
        if kind is tag.value_type:
            return bits
        return None if place.initial is None else to_bits(place.initial, tag.value_type)

    async def write(self, tag: Tag, value: float) -> None:
        """Takes a value. One that is to be kept is taken only when it is safe. Raises SourceRefused,
        SourceUnreachable."""
        try:
            bits = to_bits(checked_value(value, tag.value_type), tag.value_type)
            place = parse_internal_address(tag.address, tag.value_type)
        except InvalidInput as exc:
            raise SourceRefused(str(exc)) from exc
        try:
            if place.keep:
                await asyncio.to_thread(self._kept.keep, tag.tag_id, tag.value_type, bits)
            else:
                await asyncio.to_thread(self._kept.forget, tag.tag_id)
        except StoreError as exc:
            raise SourceUnreachable("the value cannot be kept: the database is away") from exc
        self._values[tag.tag_id] = tag.value_type, bits


class InternalDriver:
    """Reads and writes internal values; a core.ports.Driver."""

    def __init__(self, values: InternalValues) -> None:
        self._values = values

    async def connect(self) -> None:
        """Brings back what was kept."""
        await self._values.load()

    async def read(self, tags: Sequence[Tag]) -> Values:
        """The values; a tag that has none yet is Bad, and so is one whose place cannot be used."""
        bits = np.zeros(len(tags), np.int64)
        quality = np.full(len(tags), q.BAD_WAITING_FOR_INITIAL_DATA, np.uint16)
        for i, tag in enumerate(tags):
            try:
                known = self._values.bits_of(tag)
            except InvalidInput:
                quality[i] = q.BAD_CONFIGURATION
                continue
            if known is not None:
                bits[i], quality[i] = known, q.GOOD
        return Values(bits, quality)

    async def write(self, tag: Tag, value: float) -> None:
        """Takes a value."""
        await self._values.write(tag, value)

    async def close(self) -> None:
        """Values stay."""
