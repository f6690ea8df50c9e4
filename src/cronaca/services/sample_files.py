"""The recorded samples of tags as a file for people: each tag from the archive that a trend reads."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Final

from cronaca.core.model import Series, Tag, ValueType, Window
from cronaca.db import Store
from cronaca.exchange.shown import Shown
from cronaca.history.read.series import SeriesReader
from cronaca.logbook.texts import texts_of
from cronaca.services import cancelling

STRETCH: Final = 200_000
"""About so many samples are read at a time."""


def recorded_parts(
    reader: SeriesReader, tags: Sequence[Tag], counts: Sequence[int], window: Window,
    archives: Mapping[int, int], tell: Callable[[float], None] = lambda _: None,
) -> Iterator[Shown]:  # fmt: skip
    """The recorded samples tag by tag, a stretch at a time: memory holds one stretch. `counts`: about how
    many samples each tag has; `archives`: by tag, where not the fitting one; `tell` hears the share that is
    done."""
    for i, (tag, count) in enumerate(zip(tags, counts, strict=True)):
        stretches = max(1, -(-count // STRETCH))
        length_us = -(-window.length_us // stretches)
        for start_us in range(window.start_us, window.end_us, length_us):
            cancelling.go_on()
            tell((i + (start_us - window.start_us) / window.length_us) / len(tags))
            stretch = Window(start_us, min(start_us + length_us, window.end_us))
            (answer,) = reader.read_many([tag.tag_id], stretch, archives)
            yield Shown(tag.name, tag.unit, inside(answer.recorded, stretch))


def inside(series: Series, window: Window) -> Series:
    """The samples of the window."""
    return series.take((series.ts_us >= window.start_us) & (series.ts_us < window.end_us))


def texts_in(store: Store) -> Callable[[Series], Mapping[int, str]]:
    """Gives the texts that the codes of a text tag's samples stand for."""

    def texts(series: Series) -> Mapping[int, str]:
        if series.value_type is not ValueType.TEXT:
            return {}
        with store.snapshot() as tx:
            return texts_of(tx, series.values.tolist())

    return texts
