"""A change of an equipment class with 500 pieces: one transaction, at most 30 s.

    python -m bench.equipment

Beside it: the same change written tag by tag, each as one edit of its own, over a twentieth of the pieces.
"""

from __future__ import annotations

import tempfile
import time
from dataclasses import replace
from pathlib import Path

from cronaca.core.equipment import ClassSpec, Gathered
from cronaca.core.model import SECOND
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.demo.seed import seed, seed_calculated, seed_records, seed_runs
from cronaca.plant import equipment_changes, tag_changes, tags
from cronaca.plant.changes import By

PIECES = 500
NOW = 1_800_000_000 * SECOND
BY = By("bench", NOW)
CLASS = "11111111-0000-0000-0000-000000000000"


def gathered(store: Store) -> Gathered:
    """The demo's class of four lines."""
    seed(store, 1502, NOW, 4, 4840)
    seed_records(store, NOW, 4)
    seed_runs(store, NOW, 4)
    seed_calculated(store, NOW, 4)
    with store.transaction() as tx:
        return equipment_changes.gather_kind(tx, "Drying line", "Line")


def add_pieces(store: Store, found: Gathered) -> float:
    """Seconds to add the class with its 500 pieces."""
    begun = time.perf_counter()
    first = found.equipment["Line 1"]
    specs = enumerate(found.equipment.values())
    equipment = {f"{i:08d}-0000-0000-0000-00000000000c": spec for i, spec in specs}
    equipment |= {
        f"{i:08d}-0000-0000-0000-00000000000d": replace(first, name=f"Line {i}", objects={}, overrides={})
        for i in range(len(equipment) + 1, PIECES + 1)
    }
    # All read the same addresses of one controller: a second tag in the same place is no conflict.
    with store.transaction() as tx:
        equipment_changes.put_class(tx, CLASS, found.facts, BY, equipment=equipment)
    return time.perf_counter() - begun


def change(store: Store, facts: ClassSpec) -> float:
    """Seconds to change a fact of one member for all pieces."""
    begun = time.perf_counter()
    with store.transaction() as tx:
        equipment_changes.put_class(tx, CLASS, facts, BY)
    return time.perf_counter() - begun


def one_by_one(store: Store, key: str) -> float:
    """Seconds for as many edits of one tag each, reckoned from a twentieth."""
    with store.snapshot() as tx:
        rows = [row for row in tags.list_rows(tx) if row.facts.name.endswith(key)][: PIECES // 20]
    begun = time.perf_counter()
    for row in rows:
        with store.transaction() as tx:
            tag_changes.change_tags(
                tx, {row.uid: replace(row.facts, range_high=row.facts.range_high + 1)}, BY
            )
    return (time.perf_counter() - begun) * 20


def main() -> None:
    """Runs it on a private database and prints a table."""
    with tempfile.TemporaryDirectory() as folder:
        server = PrivateServer(Path(folder) / "db")
        store = Store(server.start())
        try:
            migrate(store)
            found = gathered(store)
            members = len(found.facts.members)
            print(f"{PIECES} pieces with {members} tags each added: {add_pieces(store, found):.1f} s")
            key = "Zone 1 air temperature"
            wider = replace(
                found.facts,
                members=tuple(
                    replace(m, facts={**m.facts, "range_high": 95.0}) if m.key == key else m
                    for m in found.facts.members
                ),
            )
            print(f"a range of one member changed: {change(store, wider):.1f} s")
            every = replace(
                wider, members=tuple(replace(m, facts={**m.facts, "decimals": 3}) for m in wider.members)
            )
            print(f"a fact of every member changed: {change(store, every):.1f} s")
            slower = replace(
                every,
                loggers=tuple(
                    replace(p, facts={**p.facts, "interval_us": 2 * SECOND}) if p.key == "every second" else p
                    for p in every.loggers
                ),
            )
            print(f"an interval of a logger changed: {change(store, slower):.1f} s")
            print(f"the range tag by tag, reckoned from {PIECES // 20}: {one_by_one(store, key):.1f} s")
        finally:
            store.close()
            server.stop()


if __name__ == "__main__":
    main()
