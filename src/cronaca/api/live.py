"""Following the journal and the present values, for all WebSocket clients of this server at once."""

from __future__ import annotations

import asyncio
import logging
from dataclasses import dataclass, field
from typing import Any, Final

from cronaca.api import schemas, wire
from cronaca.core.codec import Batch
from cronaca.core.errors import CronacaError
from cronaca.core.model import Tag, ValueType
from cronaca.core.ports import LiveValues
from cronaca.store import Store, current, epochs, journal
from cronaca.store.journal import JournalKey

PERIOD_S: Final = 0.2
_LONGEST_PAUSE_S: Final = 1.0
MOST_ROWS: Final = 200
MOST_RESUMED: Final = 1_200
RECENT_ROWS: Final = 60
_QUEUE: Final = 200
_log = logging.getLogger(__name__)
Message = dict[str, Any]


@dataclass(slots=True)
class Client:
    """One connection: which tags it wants, and what waits to be sent."""

    tags: dict[int, Tag]
    outbox: asyncio.Queue[Message] = field(default_factory=lambda: asyncio.Queue(_QUEUE))

    def offer(self, message: Message) -> None:
        """Queues a message; a client too slow to take it loses the backlog and is told to read anew."""
        if self.outbox.full():
            while not self.outbox.empty():
                self.outbox.get_nowait()
            self.outbox.put_nowait({"type": "resync", "cursor": message.get("cursor")})
        self.outbox.put_nowait(message)


@dataclass(frozen=True, slots=True)
class _News:
    """What one look at the database brought."""

    rows: list[tuple[JournalKey, Batch]]
    values: LiveValues
    known_until_us: int
    first: bool
    """The first look: it begins with the newest row."""


class LiveHub:
    """One task that looks at the database a few times a second and hands the news to every client."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._clients: list[Client] = []
        self._journal: JournalKey | None = None
        self._current = (0, 0)
        self._values: dict[int, tuple[int, schemas.Scalar, int]] = {}
        self._known_until_us = 0
        self._database_up = True

    def add(self, client: Client) -> JournalKey | None:
        """Registers a client: from now on it gets all samples behind the returned key."""
        self._clients.append(client)
        client.offer(self._values_message(client, set(self._values)))
        if not self._database_up:
            client.offer(_database_message(False))
        return self._journal

    def remove(self, client: Client) -> None:
        """Forgets a client."""
        self._clients.remove(client)

    async def run(self) -> None:
        """Follows until cancelled; while the database is away, says so and goes on trying."""
        pause = PERIOD_S
        while True:
            try:
                news = await asyncio.to_thread(self._look)
            except CronacaError as exc:
                # A row that cannot be read must not end the follower unseen: it tries again, and says so.
                if self._database_up:
                    _log.warning("Following waits: %s", exc)
                self._say_database(False)
                pause = min(2 * pause, _LONGEST_PAUSE_S)
            else:
                self._say_database(True)
                self._hand_out(news)
                pause = PERIOD_S
            await asyncio.sleep(pause)

    def read_missed(self, client: Client, after: JournalKey, until: JournalKey | None) -> Message | None:
        """The samples a client missed between two keys; None when they are no longer in the journal."""
        with self._store.snapshot() as tx:
            ends = journal.find_ends(tx)
            if ends is None or until is None or after > until:
                return None
            first = ends[0]
            # The row behind `after` must still be there, or `after` must be the newest row.
            if first > after and not (first.epoch == after.epoch and first.seq == after.seq + 1):
                return None
            rows = journal.read_after(tx, after, MOST_RESUMED + 1)
        rows = [(key, batch) for key, batch in rows if key <= until]
        if len(rows) > MOST_RESUMED:
            return None
        return _samples_message(client, rows, until, self._known_until_us)

    def read_recent(self, client: Client, until: JournalKey | None) -> Message | None:
        """What came in just before a client joined: a curve that was read meanwhile joins on without a hole.

        None while this follower has not begun; its first look then tells all clients to read anew.
        """
        if until is None:
            return None
        with self._store.snapshot() as tx:
            after = JournalKey(until.epoch, max(until.seq - RECENT_ROWS, 0))
            rows = [(k, batch) for k, batch in journal.read_after(tx, after, RECENT_ROWS) if k <= until]
            since_us = journal.find_received(tx, rows[0][0]) if rows else None
        known_us = self._known_until_us
        return _samples_message(client, rows, until, known_us) | {
            "since_us": str(known_us if since_us is None else since_us)
        }

    def _look(self) -> _News:
        with self._store.snapshot() as tx:
            first = self._journal is None
            if self._journal is None:
                ends = journal.find_ends(tx)
                self._journal = JournalKey(0, 0) if ends is None else ends[1]
            rows = journal.read_after(tx, self._journal, MOST_ROWS)
            self._current, values = current.read_current(tx, self._current)
            last = epochs.find_last_epoch(tx)
        return _News(rows, values, 0 if last is None else last.known_until_us, first)

    def _hand_out(self, news: _News) -> None:
        changed = self._take_values(news.values)
        moved = bool(news.rows) or news.known_until_us != self._known_until_us
        self._known_until_us = news.known_until_us
        if news.rows:
            self._journal = news.rows[-1][0]
        for client in list(self._clients):
            if news.first:
                client.offer({"type": "resync", "cursor": None})
            mine = changed & set(client.tags)
            if mine:
                client.offer(self._values_message(client, mine))
            if moved and self._journal is not None:
                client.offer(_samples_message(client, news.rows, self._journal, self._known_until_us))

    def _take_values(self, live: LiveValues) -> set[int]:
        """Keeps the newest value of each tag; returns the tags whose value or quality is new."""
        changed = set()
        columns = zip(live.tag_ids.tolist(), live.value_types.tolist(), live.ts_us.tolist(), strict=True)
        for i, (tag_id, kind, ts_us) in enumerate(columns):
            quality = int(live.quality[i])
            found = (ts_us, wire.bits(live.bits, i, ValueType(kind), quality), quality)
            if self._values.get(tag_id) != found:
                self._values[tag_id] = found
                changed.add(tag_id)
        return changed

    def _values_message(self, client: Client, tag_ids: set[int]) -> Message:
        items = [(tag, self._values[i]) for i, tag in client.tags.items() if i in tag_ids]
        values = [{"tag": tag.uid, "t_us": str(t), "v": v, "q": q} for tag, (t, v, q) in items]
        return {"type": "values", "values": values}

    def _say_database(self, up: bool) -> None:
        if up is not self._database_up:
            self._database_up = up
            for client in self._clients:
                client.offer(_database_message(up))


def _database_message(up: bool) -> Message:
    return {"type": "database", "up": up}


def _samples_message(
    client: Client, rows: list[tuple[JournalKey, Batch]], cursor: JournalKey, known_until_us: int
) -> Message:
    found: dict[str, list[Message]] = {}
    for _, batch in rows:
        for key, series in batch.series.items():
            tag = client.tags.get(key.tag_id)
            if tag is not None:
                part = {
                    "t_us": wire.micros(series.ts_us),
                    "v": wire.values(series),
                    "q": series.quality.tolist(),
                }
                found.setdefault(tag.uid, []).append(part)
    series_out = [
        {"tag": uid, **{name: [x for part in parts for x in part[name]] for name in ("t_us", "v", "q")}}
        for uid, parts in found.items()
    ]
    return {
        "type": "samples",
        "cursor": f"{cursor.epoch}:{cursor.seq}",
        "known_until_us": str(known_until_us),
        "series": series_out,
    }
