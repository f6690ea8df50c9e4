"""Between people and a running recorder: the set-up's revision, and requests with their answers."""

from __future__ import annotations

import json
from typing import Any, Final

from cronaca.core.groups import WHOLE_PLANT
from cronaca.core.ports import HistoryOf, News, Request
from cronaca.core.requests import RecorderRequest, to_text
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.logbook.records import ensure_tables
from cronaca.plant import histories
from cronaca.plant.whole import read_setup

_REVISION: Final = "SELECT revision FROM setup_state WHERE setup_id = 1"
_ASK: Final = """
INSERT INTO recorder_request (group_id, person, kind, content, asked_at)
VALUES (%(group_id)s, %(person)s, %(kind)s, %(content)s, UTC_TIMESTAMP(6))
"""
_WAITING: Final = """
SELECT request_id, kind, content FROM recorder_request
WHERE NOT taken AND group_id = %(group_id)s AND asked_at > UTC_TIMESTAMP(6) - INTERVAL 30 SECOND
ORDER BY request_id LIMIT 20
"""
_TAKE: Final = "UPDATE recorder_request SET taken = TRUE WHERE request_id IN %(numbers)s"
_ANSWER: Final = (
    "UPDATE recorder_request SET answer = %(content)s, content = '{}' WHERE request_id = %(number)s"
)
_FIND_ANSWER: Final = "SELECT answer FROM recorder_request WHERE request_id = %(number)s"
_WITHDRAW: Final = "DELETE FROM recorder_request WHERE request_id = %(number)s"
_FORGET: Final = "DELETE FROM recorder_request WHERE asked_at < UTC_TIMESTAMP(6) - INTERVAL 1 HOUR"


def get_revision(tx: Transaction) -> int:
    """The number of the newest change of the set-up."""
    row = tx.fetch_one(_REVISION)
    return 0 if row is None else int(row[0])


def read_histories(tx: Transaction) -> HistoryOf:
    """The open history of each (archive, tag)."""
    return {(h.key.archive_id, h.key.tag_id): (h.key, h.value_type) for h in histories.list_histories(tx)}


def read_news(tx: Transaction) -> News:
    """The set-up as it is."""
    return News(get_revision(tx), read_setup(tx), read_histories(tx))


def ask(tx: Transaction, person: str, request: RecorderRequest, group: int = WHOLE_PLANT) -> int:
    """Puts a person's request to the recorder of a group; returns its number. Old ones are forgotten."""
    tx.execute(_FORGET)
    return tx.insert(_ASK, group_id=group, person=person, kind=request.kind, content=to_text(request))


def find_answer(tx: Transaction, number: int) -> dict[str, Any] | None:
    """The answer to a request, or None while there is none."""
    row = tx.fetch_one(_FIND_ANSWER, number=number)
    return None if row is None or row[0] is None else dict(json.loads(row[0]))


def withdraw(tx: Transaction, number: int) -> None:
    """Forgets a request: it was answered, or nobody waits for it any more."""
    tx.execute(_WITHDRAW, number=number)


class StoreControl:
    """A core.ports.Control on a store."""

    def __init__(self, store: Store, group: int = WHOLE_PLANT) -> None:
        """Of the recorder of one recording group."""
        self._store = store
        self._group = group

    def look(self, revision: int) -> News:
        """What is new to one who has this revision; requests are handed out once."""
        with self._store.snapshot() as tx:
            waiting = tx.fetch(_WAITING, group_id=self._group)
            changed = get_revision(tx) != revision
        if changed:
            ensure_tables(self._store)  # before the recorder takes what is to go into them
        with self._store.snapshot() as tx:
            news = read_news(tx) if changed else News(revision)
        requests = tuple(Request(*row) for row in waiting)
        if requests:
            self._store.run(lambda tx: tx.execute(_TAKE, numbers=[r.number for r in requests]))
        return News(news.revision, news.setup, news.histories, requests)

    def answer(self, number: int, content: str) -> None:
        """Answers a request."""
        self._store.run(lambda tx: tx.execute(_ANSWER, number=number, content=content))
