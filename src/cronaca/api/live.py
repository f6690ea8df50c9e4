"""Following the journal and the present values, for all WebSocket clients of this server at once.

One task looks at the database a few times a second, in a thread of its own. What it brings is packed once for
each history, however many clients want it; a client is told which parts are its own. Present values are kept
here by tag: a client that is slow gets the newest one later, and never loses it. The same holds for states of
the whole (health) and for counts of what was changed, of which a client follows the topics it names.
"""

from __future__ import annotations

import asyncio
import logging
from collections import deque
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, field, replace
from typing import Any, Final, NamedTuple

import orjson

from cronaca.api import schemas, wire
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import CronacaError
from cronaca.core.model import SECOND, Series, Tag, ValueType, concatenate
from cronaca.core.ports import LiveValues
from cronaca.db import Store
from cronaca.db.topics import read_counts
from cronaca.history.tables import current, epochs, journal
from cronaca.history.tables.journal import JournalKey, Row

PERIOD_S: Final = 0.2
_LONGEST_PAUSE_S: Final = 1.0
MOST_ROWS: Final = 200
MOST_RESUMED: Final = 1_200
RECENT_ROWS: Final = 60
MOST_BACKLOG: Final = 200
"""Looks that wait for a client; one that is slower reads its curves anew."""
_AHEAD_US: Final = SECOND
"""A source this far ahead of the slowest one is told by itself."""
_log = logging.getLogger(__name__)
Message = dict[str, Any]


class Packed(NamedTuple):
    """Samples of one history as the inside of a JSON object: all of it but the tag."""

    tag_id: int
    text: bytes


@dataclass(frozen=True, slots=True)
class Look:
    """What one look at the journal brought, packed once for all clients."""

    cursor: JournalKey
    known_until_us: int
    parts: tuple[Packed, ...]
    sources_known: Mapping[int, int]


@dataclass(frozen=True, slots=True)
class Subscription:
    """What a client follows. `tags`: samples and present values; `value_tags`: present values alone;
    `states`: states of the whole, by name; `changes`: what was changed."""

    tags: Mapping[int, Tag] = field(default_factory=dict)
    value_tags: Mapping[int, Tag] = field(default_factory=dict)
    states: frozenset[str] = frozenset()
    changes: bool = False

    def tag_of_value(self, tag_id: int) -> Tag | None:
        """The tag of that number, if its present value is followed."""
        return self.tags.get(tag_id) or self.value_tags.get(tag_id)


_NOTHING: Final = Subscription()


@dataclass(slots=True, eq=False)
class Client:
    """One connection: what it follows, and what it has not been told yet."""

    subscription: Subscription
    values: set[int] = field(default_factory=set)
    """Tags whose present value is to be told."""
    states: dict[str, str] = field(default_factory=dict)
    """The newest states, as JSON, by name."""
    counts: dict[str, int] = field(default_factory=dict)
    """How often what has changed, as far as it is news."""
    looks: deque[Look] = field(default_factory=deque)
    resync: bool = False
    database: bool | None = None
    resubscribed: int = 0
    """How often its subscription was changed: a look that began before does not have all of them."""
    wake: asyncio.Event = field(default_factory=asyncio.Event)

    @property
    def tags(self) -> Mapping[int, Tag]:
        """The tags whose samples it follows, by number."""
        return self.subscription.tags

    def offer(self, look: Look) -> None:
        """Queues samples; a client too slow to take them loses the backlog and is told to read anew."""
        if len(self.looks) >= MOST_BACKLOG:
            self.looks.clear()
            self.resync = True
        self.looks.append(look)
        self.wake.set()

    def offer_values(self, tag_ids: Iterable[int]) -> None:
        """Present values are to be told; of each tag the newest one is."""
        self.values.update(tag_ids)
        self.wake.set()

    def offer_state(self, name: str, state: str) -> None:
        """A state of the whole is to be told; the newest one is."""
        self.states[name] = state
        self.wake.set()

    def offer_counts(self, counts: Mapping[str, int]) -> None:
        """Something was changed."""
        self.counts.update(counts)
        self.wake.set()

    def offer_database(self, up: bool) -> None:
        """The server can follow, or cannot."""
        self.database = up
        self.wake.set()

    def offer_resync(self) -> None:
        """Samples were missed: curves are to be read anew."""
        self.looks.clear()
        self.resync = True
        self.wake.set()


@dataclass(frozen=True, slots=True)
class _News:
    """What one look at the database brought."""

    look: Look
    rows: list[Row]
    current: tuple[int, int]
    values: LiveValues
    counts: dict[str, int]
    first: bool
    """The first look: it begins with the newest row."""


class LiveHub:
    """One task that looks at the database a few times a second and hands the news to every client."""

    def __init__(self, store: Store, executor: Executor | None = None) -> None:
        self._store = store
        self._executor = executor
        self._clients: list[Client] = []
        self._journal: JournalKey | None = None
        self._current = (0, 0)
        self._values: dict[int, tuple[int, schemas.Scalar, int]] = {}
        self._known_until_us = 0
        self._counts: dict[str, int] = {}
        self._database_up = True

    @property
    def counts(self) -> Mapping[str, int]:
        """How often what had changed at the last look, by topic."""
        return self._counts

    def followers(self, state: str) -> list[Client]:
        """Who follows a state of the whole."""
        return [client for client in self._clients if state in client.subscription.states]

    def add(self, client: Client) -> JournalKey | None:
        """Registers a client: from now on it gets all samples behind the returned key."""
        self._clients.append(client)
        self._offer_standing(client, client.subscription)
        if not self._database_up:
            client.offer_database(False)
        return self._journal

    def change(self, client: Client, subscription: Subscription) -> tuple[set[int], JournalKey | None]:
        """Another subscription of a client; returns the tags that are new to it. From now on it gets all
        samples of them behind the returned key."""
        new = subscription.tags.keys() - client.tags.keys()
        # What waits for it may hold samples of the new tags for others; they come with what is read for it.
        waiting = [
            replace(look, parts=tuple(part for part in look.parts if part.tag_id not in new))
            for look in client.looks
        ]
        client.looks = deque(waiting)
        before, client.subscription = client.subscription, subscription
        client.resubscribed += 1
        self._offer_standing(client, subscription, before)
        return new, self._journal

    def remove(self, client: Client) -> None:
        """Forgets a client."""
        self._clients.remove(client)

    def _offer_standing(
        self, client: Client, subscription: Subscription, before: Subscription = _NOTHING
    ) -> None:
        """What is known already of what a client follows anew."""
        asked = subscription.tags.keys() | subscription.value_tags.keys()
        if new := (asked - before.tags.keys() - before.value_tags.keys()) & self._values.keys():
            client.offer_values(new)
        if subscription.changes and not before.changes and self._counts:
            client.offer_counts(self._counts)

    async def run(self) -> None:
        """Follows until cancelled; while the database is away, says so and goes on trying."""
        pause = PERIOD_S
        while True:
            try:
                await self.look_once()
            except CronacaError as exc:
                # A row that cannot be read must not end the follower unseen: it tries again, and says so.
                if self._database_up:
                    _log.warning("Following waits: %s", exc)
                self._say_database(False)
                pause = min(2 * pause, _LONGEST_PAUSE_S)
            else:
                self._say_database(True)
                pause = PERIOD_S
            await asyncio.sleep(pause)

    async def look_once(self) -> None:
        """Looks at the database once and hands out what is new. What it had read when it failed is read again
        the next time: only a whole look counts. Raises CronacaError."""
        clients = {client: client.resubscribed for client in self._clients}
        tag_ids = {tag_id for client in clients for tag_id in client.tags}
        loop = asyncio.get_running_loop()
        self._hand_out(await loop.run_in_executor(self._executor, self._look, tag_ids), clients)

    def read_missed(self, client: Client, after: JournalKey, until: JournalKey | None) -> str | None:
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
        rows = [row for row in rows if row.key <= until]
        if len(rows) > MOST_RESUMED:
            return None
        look = Look(until, self._known_until_us, _packed(rows, set(client.tags)), {})
        return samples_message(client, [look])

    def read_recent(self, client: Client, tag_ids: set[int], until: JournalKey | None) -> str | None:
        """What came in of tags just before a client asked for them: a curve that was read meanwhile joins on
        without a hole.

        None while this follower has not begun; its first look then tells all clients to read anew.
        """
        if until is None:
            return None
        with self._store.snapshot() as tx:
            after = JournalKey(until.epoch, max(until.seq - RECENT_ROWS, 0))
            rows = [row for row in journal.read_after(tx, after, RECENT_ROWS) if row.key <= until]
            since_us = journal.find_received(tx, rows[0].key) if rows else None
        known_us = self._known_until_us
        look = Look(until, known_us, _packed(rows, tag_ids), {})
        known_since = known_us if since_us is None else since_us
        return samples_message(client, [look], (tag_ids, known_since))

    def next_messages(self, client: Client) -> list[str]:
        """What a client has not been told yet, in the order in which it has to hear it."""
        client.wake.clear()
        messages = []
        if client.database is not None:
            messages.append(dump({"type": "database", "up": client.database}))
            client.database = None
        if client.resync:
            messages.append(dump({"type": "resync", "cursor": None}))
            client.resync = False
        if client.values:
            values, client.values = client.values, set()
            messages.append(self._values_message(client, values))
        if client.counts:
            counts, client.counts = client.counts, {}
            numbers = {topic: str(count) for topic, count in counts.items()}
            messages.append(dump({"type": "changed", "counts": numbers}))
        if client.states:
            states, client.states = client.states, {}
            messages += [_state_message(name, state) for name, state in states.items()]
        if client.looks:
            looks = list(client.looks)
            client.looks.clear()
            messages.append(samples_message(client, looks))
        return messages

    def _look(self, tag_ids: set[int]) -> _News:
        first = self._journal is None
        with self._store.snapshot() as tx:
            after = self._journal
            if after is None:
                ends = journal.find_ends(tx)
                after = JournalKey(0, 0) if ends is None else ends[1]
            rows = journal.read_after(tx, after, MOST_ROWS)
            newest, values = current.read_current(tx, self._current)
            counts = read_counts(tx)
            last = epochs.find_last_epoch(tx)
            sources = {} if last is None else epochs.list_sources_known(tx, last.epoch)
        known_us = 0 if last is None else last.known_until_us
        cursor = rows[-1].key if rows else after
        look = Look(cursor, known_us, _packed(rows, tag_ids), sources)
        return _News(look, rows, newest, values, counts, first)

    def _hand_out(self, news: _News, packed_for: Mapping[Client, int]) -> None:
        look = news.look
        changed = self._take_values(news.values)
        counts = dict(news.counts.items() - self._counts.items())
        self._counts = news.counts
        self._current = news.current
        moved = (look.cursor, look.known_until_us) != (self._journal, self._known_until_us)
        self._journal, self._known_until_us = look.cursor, look.known_until_us
        for client in self._clients:
            if news.first:
                client.offer_resync()
            if mine := changed & (client.tags.keys() | client.subscription.value_tags.keys()):
                client.offer_values(mine)
            if counts and client.subscription.changes:
                client.offer_counts(counts)
            if not client.tags:
                continue
            if moved and packed_for.get(client) == client.resubscribed:
                client.offer(look)
            elif moved:  # it joined, or its tags were changed, while this look was under way
                client.offer(replace(look, parts=_packed(news.rows, set(client.tags))))

    def _take_values(self, live: LiveValues) -> set[int]:
        """Keeps the newest value of each tag; returns the tags whose value or quality is new."""
        changed = set()
        columns = zip(live.tag_ids.tolist(), live.value_types.tolist(), live.ts_us.tolist(), strict=True)
        for i, (tag_id, kind, ts_us) in enumerate(columns):
            quality = int(live.quality[i])
            value = (ts_us, wire.bits(live.bits, i, ValueType(kind), quality), quality)
            if self._values.get(tag_id) != value:
                self._values[tag_id] = value
                changed.add(tag_id)
        return changed

    def _values_message(self, client: Client, tag_ids: set[int]) -> str:
        items = [(client.subscription.tag_of_value(i), self._values[i]) for i in sorted(tag_ids)]
        values = [{"tag": tag.uid, "t_us": str(t), "v": v, "q": q} for tag, (t, v, q) in items if tag]
        return dump({"type": "values", "values": values})

    def _say_database(self, up: bool) -> None:
        if up is not self._database_up:
            self._database_up = up
            for client in self._clients:
                client.offer_database(up)


def _state_message(name: str, state: str) -> str:
    """The state is JSON already: it was made once for all clients."""
    return f'{{"type":"state","of":"{name}","state":{state}}}'


def dump(message: Message) -> str:
    """A message as text."""
    return orjson.dumps(message).decode()


def _packed(rows: Sequence[Row], tag_ids: set[int]) -> tuple[Packed, ...]:
    """The samples of the wanted tags, history by history: those of two archives are never mixed."""
    parts: dict[HistoryKey, list[Series]] = {}
    for row in rows:
        for key, series in row.batch.series.items():
            if key.tag_id in tag_ids:
                parts.setdefault(key, []).append(series)
    return tuple(_pack(key, concatenate(part, part[0].value_type)) for key, part in parts.items())


def _pack(key: HistoryKey, series: Series) -> Packed:
    inside = {
        "archive": key.archive_id,
        "t_us": wire.micros(series.ts_us),
        "v": wire.values(series),
        "q": series.quality.tolist(),
    }
    return Packed(key.tag_id, orjson.dumps(inside)[1:])


def samples_message(
    client: Client, looks: Sequence[Look], since: tuple[Iterable[int], int] | None = None
) -> str:
    """The samples of a client's tags from some looks; a history may come in several parts, in order. `since`:
    the tags of which this is all there is since a time, µs."""
    newest = looks[-1]
    series = [
        b'{"tag":"' + tag.uid.encode() + b'",' + part.text
        for look in looks
        for part in look.parts
        if (tag := client.tags.get(part.tag_id)) is not None
    ]
    ahead = {
        tag.uid: str(known_us)
        for tag in client.tags.values()
        if (known_us := newest.sources_known.get(tag.source_id, 0)) > newest.known_until_us + _AHEAD_US
    }
    head: Message = {
        "type": "samples",
        "cursor": f"{newest.cursor.epoch}:{newest.cursor.seq}",
        "known_until_us": str(newest.known_until_us),
        "ahead": ahead,
    }
    if since is not None:
        head["since"] = [client.tags[tag_id].uid for tag_id in since[0] if tag_id in client.tags]
        head["since_us"] = str(since[1])
    return (orjson.dumps(head)[:-1] + b',"series":[' + b",".join(series) + b"]}").decode()
