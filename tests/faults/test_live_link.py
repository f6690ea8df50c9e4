"""The live link loses nothing: whatever fails or overflows, a page ends with what a fresh one shows."""

from __future__ import annotations

import asyncio
import json
import random
from dataclasses import dataclass, field
from typing import Any

import pytest

from cronaca.api.live import Client, LiveHub, Subscription
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import StoreError
from cronaca.core.model import SECOND, Series, Tag, ValueType, Window
from cronaca.db import Store
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import current, epochs
from cronaca.plant.archives import insert_archive
from cronaca.plant.tags import list_tags
from cronaca.services.sink import StoreSink
from tests.support.builders import NOW, a_flush, a_tag, live_values, plant_with

FAR = Window(0, 10**16)


@dataclass
class Page:
    """What a browser does with the messages: present values, and the samples behind its curves."""

    client: Client
    reader: SeriesReader
    keys: list[HistoryKey]
    values: dict[str, tuple[str, Any, int]] = field(default_factory=dict)
    curves: dict[tuple[str, int], dict[str, Any]] = field(default_factory=dict)

    def read_anew(self) -> None:
        tags = {tag.tag_id: tag.uid for tag in self.client.tags.values()}
        for key, answer in zip(self.keys, self.reader.read_keys(self.keys, FAR), strict=True):
            rows = zip(answer.recorded.ts_us.tolist(), answer.recorded.values.tolist(), strict=True)
            self.curves[tags[key.tag_id], key.archive_id] = {str(t): v for t, v in rows}

    def take(self, messages: list[str]) -> None:
        for text in messages:
            message = json.loads(text)
            if message["type"] == "values":
                self.values |= {one["tag"]: (one["t_us"], one["v"], one["q"]) for one in message["values"]}
            elif message["type"] == "resync":
                self.read_anew()
            elif message["type"] == "samples":
                for one in message["series"]:
                    curve = self.curves.setdefault((one["tag"], one["archive"]), {})
                    for ts, value in zip(one["t_us"], one["v"], strict=True):
                        curve.setdefault(ts, value)
                    assert one["t_us"] == sorted(one["t_us"]), "in order of time, archive by archive"


@dataclass
class Bench:
    """A plant with two tags, one of them in two archives, and the door that a recorder would use."""

    store: Store
    sink: StoreSink
    tags: list[Tag]
    keys: list[HistoryKey]
    seq: int = 0

    def commit(self, chance: random.Random) -> None:
        self.seq += 1
        at_us = NOW + self.seq * SECOND
        series = {
            key: Series.of(ValueType.FLOAT, [at_us - 2 * i * SECOND], [self.seq + i / 8])
            for i, key in enumerate(self.keys)
            if chance.random() < 0.8
        }
        live = live_values({tag.tag_id: self.seq + tag.tag_id / 8 for tag in self.tags}, at_us)
        self.sink.commit(a_flush(1, self.seq, series, at_us, live=live))


@pytest.fixture
def bench(store: Store) -> Bench:
    names = [a_tag("a"), a_tag("b")]
    keys = plant_with(store, names, 0)
    with store.transaction() as tx:
        second = insert_archive(tx, "b" * 36, "Coarse")
        tx.execute(
            "INSERT INTO history SELECT %(archive)s, tag_id, version, value_type, unit, since_us "
            "FROM history WHERE tag_id = %(tag)s",
            archive=second, tag=keys["a"].tag_id,
        )  # fmt: skip
        tags = list_tags(tx)
    sink = StoreSink(store)
    assert sink.open_epoch("test", NOW) == 1
    return Bench(store, sink, tags, [*keys.values(), HistoryKey(second, keys["a"].tag_id, 1)])


def of_all(bench: Bench) -> Subscription:
    return Subscription({tag.tag_id: tag for tag in bench.tags})


class Torn:
    """Lets a step of a look at the database fail now and then."""

    def __init__(self, chance: random.Random, monkeypatch: pytest.MonkeyPatch) -> None:
        self.share = 0.0
        for module, name in ((epochs, "find_last_epoch"), (current, "read_current")):
            monkeypatch.setattr(module, name, self._torn(getattr(module, name), chance))

    def _torn(self, whole: Any, chance: random.Random) -> Any:  # noqa: ANN401
        def step(*args: object) -> object:
            found = whole(*args)
            if chance.random() < self.share:
                raise StoreError("The database refused at the end of this step")
            return found

        return step


@pytest.mark.parametrize("seed", range(6))
async def test_whatever_is_dropped_a_page_ends_with_what_a_fresh_one_shows(
    bench: Bench, seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Steps fail in mid-look, a client is slow for so long that its backlog overflows, pages come and go."""
    monkeypatch.setattr("cronaca.api.live.MOST_BACKLOG", 4)
    chance = random.Random(seed)
    hub, reader = LiveHub(bench.store), SeriesReader(bench.store)
    torn = Torn(chance, monkeypatch)
    pages = [Page(Client(of_all(bench)), reader, bench.keys) for _ in range(2)]
    for page in pages:
        hub.add(page.client)
    for _ in range(60):
        torn.share = 0.3
        act = chance.choice(["commit", "commit", "look", "look", "take", "take slowly"])
        if act == "commit":
            bench.commit(chance)
        elif act == "look":
            try:
                await hub.look_once()
            except StoreError:
                continue
        elif act == "take":
            torn.share = 0.0
            pages[0].take(hub.next_messages(pages[0].client))
        elif act == "take slowly" and chance.random() < 0.2:
            torn.share = 0.0
            pages[1].take(hub.next_messages(pages[1].client))
    torn.share = 0.0
    bench.commit(chance)
    for _ in range(2):
        await hub.look_once()
    fresh = Page(Client(of_all(bench)), reader, bench.keys)
    hub.add(fresh.client)
    fresh.take(hub.next_messages(fresh.client))
    fresh.read_anew()
    for page in pages:
        page.take(hub.next_messages(page.client))
        assert page.values == fresh.values
        assert {k: c for k, c in page.curves.items() if c} == {k: c for k, c in fresh.curves.items() if c}


@pytest.mark.parametrize("seed", range(4))
async def test_whoever_changes_its_tags_has_the_samples_of_each_whole(
    bench: Bench, seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Tags come and go on one connection, in the middle of looks too; curves are read when they come."""
    chance = random.Random(seed)
    hub, reader = LiveHub(bench.store), SeriesReader(bench.store)
    await hub.look_once()
    page = Page(Client(Subscription({bench.tags[0].tag_id: bench.tags[0]})), reader, [])
    hub.add(page.client)
    whole = hub._look

    def change() -> None:
        tags = {tag.tag_id: tag for tag in chance.sample(bench.tags, chance.choice([1, 2]))}
        before = dict(page.client.tags)
        new, joined = hub.change(page.client, Subscription(tags))
        assert new == tags.keys() - before.keys()
        page.curves = {key: c for key, c in page.curves.items() if key[0] in {t.uid for t in tags.values()}}
        fresh = Page(Client(Subscription(tags)), reader, [key for key in bench.keys if key.tag_id in new])
        fresh.read_anew()
        page.curves |= fresh.curves
        recent = hub.read_recent(page.client, new, joined)
        page.take([] if recent is None else [recent])

    def look(wanted: set[int]) -> Any:  # noqa: ANN401
        found = whole(wanted)
        if chance.random() < 0.3:
            change()
        return found

    monkeypatch.setattr(hub, "_look", look)
    for _ in range(60):
        act = chance.choice(["commit", "commit", "look", "look", "take", "change"])
        if act == "commit":
            bench.commit(chance)
        elif act == "look":
            await hub.look_once()
        elif act == "take":
            page.take(hub.next_messages(page.client))
        else:
            change()
    bench.commit(chance)
    for _ in range(2):
        await hub.look_once()
    page.take(hub.next_messages(page.client))
    mine = [key for key in bench.keys if key.tag_id in page.client.tags]
    fresh = Page(Client(Subscription(page.client.tags)), reader, mine)
    fresh.read_anew()
    assert {k: c for k, c in page.curves.items() if c} == {k: c for k, c in fresh.curves.items() if c}
    assert set(page.values) >= {tag.uid for tag in page.client.tags.values()}


async def test_who_joins_in_the_middle_of_a_look_misses_nothing(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    hub = LiveHub(bench.store)
    await hub.look_once()
    bench.commit(random.Random(5))
    page = Page(Client(of_all(bench)), SeriesReader(bench.store), bench.keys)
    joined = []
    whole = hub._look

    def look(wanted: set[int]) -> Any:  # noqa: ANN401
        found = whole(wanted)
        joined.append(hub.add(page.client))
        return found

    monkeypatch.setattr(hub, "_look", look)
    await hub.look_once()
    page.take(hub.next_messages(page.client))
    assert any(page.curves.values())
    assert joined[0] is not None


def test_a_client_that_reads_nothing_costs_no_memory_without_end() -> None:
    client = Client(Subscription({}))
    look: Any = object()
    for _ in range(1000):
        client.offer(look)
        client.offer_values(range(10))
    assert len(client.looks) <= 200
    assert client.resync
    assert client.values == set(range(10)), "present values are never lost"
    assert isinstance(client.wake, asyncio.Event)
