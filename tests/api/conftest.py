"""An application on a fresh database with two tags and some history."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import SECOND, Series, Tag, ValueType
from cronaca.db import Store
from cronaca.services.sink import StoreSink
from tests.api.setup_support import MODBUS, Api, Json
from tests.support.builders import NOW, a_flush, a_tag, live_values, plant_with
from tests.support.signed_in import app_of


@dataclass
class Plant:
    """The application, its tags and the door that a recorder would use."""

    client: TestClient
    store: Store
    sink: StoreSink
    epoch: int
    tags: dict[str, Tag]
    keys: dict[str, HistoryKey]
    seq: int = 0

    def commit(self, name: str, series: Series, known_until_us: int) -> None:
        """A flush of one tag, its last value as the present one."""
        self.seq += 1
        number = self.keys[name].tag_id
        value, quality = float(series.values[-1]), int(series.quality[-1])
        live = live_values({number: value}, int(series.ts_us[-1]), quality)
        self.sink.commit(a_flush(self.epoch, self.seq, {self.keys[name]: series}, known_until_us, live=live))


@pytest.fixture
def plant(store: Store, tmp_path: Path) -> Iterator[Plant]:
    (tmp_path / "index.html").write_text("<title>Cronaca</title>")
    (tmp_path / "assets").mkdir()
    (tmp_path / "assets" / "app.js").write_text("//")
    tags = {
        "temperature": a_tag("Line 1 Zone 1 air temperature"),
        "humidity": a_tag("Line 1 Zone 1 relative humidity", unit="%"),
        "counter": a_tag("Line 1 Counter", ValueType.INTEGER, unit=""),
        "lot": a_tag("Line 1 Lot", ValueType.TEXT, unit=""),
    }
    keys = plant_with(store, list(tags.values()))
    sink = StoreSink(store)
    epoch = sink.open_epoch("test", NOW)
    assert epoch is not None
    with TestClient(app_of(store, tmp_path)) as client:
        named = {short: keys[tag.name] for short, tag in tags.items()}
        found = Plant(client, store, sink, epoch, tags, named)
        seconds = np.arange(1000)
        quality = np.where((seconds >= 500) & (seconds < 600), q.BAD_NO_COMMUNICATION, q.GOOD)
        series = Series.of(ValueType.FLOAT, NOW + seconds * SECOND, seconds / 10, quality)
        found.commit("temperature", series, NOW + 1000 * SECOND)
        yield found


@pytest.fixture
def api(store: Store, tmp_path: Path) -> Iterator[Api]:
    with TestClient(app_of(store, tmp_path)) as client:
        yield Api(client)


@pytest.fixture
def source(api: Api) -> Json:
    return dict(api.ok("POST", "/setup/sources", MODBUS))


@pytest.fixture
def archive(api: Api) -> Json:
    return dict(api.ok("POST", "/setup/archives", {"name": "Process values"}))
