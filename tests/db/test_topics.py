"""Counts of changes: once for a transaction, and only when it is committed."""

from __future__ import annotations

import pytest

from cronaca.core.topics import Topic
from cronaca.db import Store
from cronaca.db.topics import read_counts


def counts(store: Store) -> dict[str, int]:
    with store.snapshot() as tx:
        return read_counts(tx)


def test_every_topic_is_there_from_the_beginning(store: Store) -> None:
    assert counts(store) == {topic.value: 1 for topic in Topic}


def test_a_transaction_counts_once_however_much_it_changes(store: Store) -> None:
    with store.transaction() as tx:
        for topic in (Topic.NOTES, Topic.RUNS, Topic.NOTES):
            tx.changes(topic)
    after = counts(store)
    assert (after["notes"], after["runs"], after["jobs"]) == (2, 2, 1)


def test_what_was_not_committed_has_not_changed(store: Store) -> None:
    with pytest.raises(RuntimeError, match="halfway"), store.transaction() as tx:
        tx.changes(Topic.NOTES)
        raise RuntimeError("halfway")
    assert counts(store)["notes"] == 1
