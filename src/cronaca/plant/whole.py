"""The whole set-up, as a recorder takes it up."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from cronaca.core.setup.whole import Setup
from cronaca.db.transaction import Transaction
from cronaca.plant import loggers, run_rules
from cronaca.plant.site import find_plant
from cronaca.plant.sources import list_sources
from cronaca.plant.tags import list_tags

_LIST_CREDENTIALS: Final = "SELECT source_id, secret FROM source_secret"


def read_setup(tx: Transaction) -> Setup:
    """All that the recorder needs."""
    secrets: dict[int, str] = dict(tx.fetch(_LIST_CREDENTIALS))
    sources = [replace(source, secret=secrets.get(source.source_id, "")) for source in list_sources(tx)]
    plant = find_plant(tx)
    zone = "UTC" if plant is None else plant.zone
    rules = tuple(run_rules.list_rules(tx))
    starts = () if plant is None else tuple(shift.start_minute for shift in plant.shifts)
    return Setup(tuple(sources), tuple(list_tags(tx)), tuple(loggers.list_loggers(tx)), zone, rules, starts)
