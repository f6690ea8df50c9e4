"""Temporary tags go when their time is over, unless they are kept, recorded or used."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace

from cronaca.core.access import Permission
from cronaca.core.addresses.names import CALCULATED
from cronaca.core.model import ValueType
from cronaca.core.setup import SourceSpec, TagSpec
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.plant import loggers, sources, tag_changes, tags, temporary
from cronaca.plant.changes import By
from cronaca.plant.temporary import KEPT_US
from cronaca.services.temporary import TemporaryTags
from tests.support.builders import NOW, a_tag, plant_with

BY = By("Ada", NOW)


@dataclass
class Clock:
    us: int

    def now_us(self) -> int:
        return self.us


def add(store: Store, *names: str) -> list[str]:
    """Temporary internal tags; their uids."""
    plant_with(store, [a_tag("t")])

    def work(tx: Transaction) -> list[str]:
        source = sources.add_source(tx, SourceSpec("Waves", "internal"), BY)
        address = json.dumps({"initial": 1})
        uids = tag_changes.add_tags(tx, [TagSpec(name=n, source=source, address=address) for n in names], BY)
        temporary.put_temporary(tx, uids, BY)
        return uids

    return store.run(work)


def remove(store: Store, now_us: int, *, may: bool = True) -> set[str]:
    """Names of the tags that are there afterwards."""
    asked: list[tuple[str, Permission]] = []

    def may_still(person: str, permission: Permission) -> bool:
        asked.append((person, permission))
        return may

    TemporaryTags(store, Clock(now_us), may_still).run_all()
    assert set(asked) <= {("Ada", Permission.CONFIGURE)}, "with the rights of who added them"
    with store.snapshot() as tx:
        return {row.spec.name for row in tags.list_rows(tx)}


def test_they_go_after_a_day_and_not_before(store: Store) -> None:
    add(store, "a", "b")
    assert remove(store, NOW + KEPT_US - 1) == {"t", "a", "b"}
    assert remove(store, NOW + KEPT_US, may=False) == {"t", "a", "b"}, "who added them may not any more"
    assert remove(store, NOW + KEPT_US) == {"t"}


def test_what_is_kept_recorded_or_used_stays_and_is_temporary_no_more(store: Store) -> None:
    kept, recorded, used, _ = add(store, "kept", "recorded", "used", "left")

    def work(tx: Transaction) -> None:
        temporary.keep(tx, [kept])
        (row, *_) = loggers.list_rows(tx)
        loggers.change_logger(
            tx, row.uid, replace(row.spec, tags=(*row.spec.tags, recorded)), BY, row.revision
        )
        source = sources.add_source(tx, SourceSpec("Sums", CALCULATED), BY)
        address = json.dumps({"formula": "a + 1", "inputs": {"a": used}})
        tag_changes.add_tags(
            tx, [TagSpec(name="sum", source=source, address=address, value_type=ValueType.FLOAT)], BY
        )

    store.run(work)
    there = {"t", "kept", "recorded", "used", "sum"}
    assert remove(store, NOW + KEPT_US) == there
    with store.snapshot() as tx:
        assert temporary.list_temporary(tx) == {}
    assert remove(store, NOW + 9 * KEPT_US) == there
