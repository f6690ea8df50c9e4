"""The made-up plant: repeatable, plausible, documented, and its history as its device would have given it."""

from __future__ import annotations

import json
import pickle
from pathlib import Path

import numpy as np
import pytest

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.loggers import OnTrigger, Periodic
from cronaca.core.model import SECOND, Series, ValueType, Window
from cronaca.db import Store
from cronaca.demo import history
from cronaca.demo.names import tag_uid
from cronaca.demo.plant import SIGNALS, DryingLine, LineSettings
from cronaca.demo.plant.document import register_table
from cronaca.demo.seed import seed, seed_quality_samples, seed_records
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.bulk import backfill
from cronaca.plant.loggers import list_loggers
from cronaca.plant.sources import list_sources, set_config
from cronaca.plant.tags import find_tags, list_tags
from tests.support.builders import NOW


def run(
    line: DryingLine, steps: int, dt: float = 5.0
) -> dict[str, np.ndarray[tuple[int], np.dtype[np.float64]]]:
    columns: dict[str, list[float]] = {signal.key: [] for signal in SIGNALS}
    for _ in range(steps):
        line.step(dt)
        for key, value in line.values().items():
            columns[key].append(float(value[0]))
    return {key: np.array(values) for key, values in columns.items()}


@pytest.fixture(scope="module")
def day() -> dict[str, np.ndarray[tuple[int], np.dtype[np.float64]]]:
    """Sixteen hours of a line that has been running for two."""
    return run(history.warmed_up((LineSettings(4),)), 11_520)


def test_the_same_seed_gives_the_same_plant() -> None:
    first, second = run(DryingLine([LineSettings(9)]), 200), run(DryingLine([LineSettings(9)]), 200)
    assert all(np.array_equal(first[key], second[key]) for key in first)
    assert not np.array_equal(
        first["head_pressure"], run(DryingLine([LineSettings(10)]), 200)["head_pressure"]
    )


def test_values_stay_where_a_works_would_have_them(
    day: dict[str, np.ndarray[tuple[int], np.dtype[np.float64]]],
) -> None:
    assert 11 < np.median(day["product_moisture"]) < 14
    assert 60 < np.median(day["temperature_1"]) < 80
    assert 70 < np.median(day["humidity_1"]) < 88
    assert (day["humidity_1"] <= 110).all()
    for key in ("damper_1", "steam_1"):
        assert day[key].min() >= 0
        assert day[key].max() <= 100
    assert (np.diff(day["lot"]) >= 0).all()
    assert np.diff(day["lot"]).max() == 1
    assert (np.diff(day["energy"]) >= 0).all()


def test_dampers_hunt_and_an_open_door_is_felt(
    day: dict[str, np.ndarray[tuple[int], np.dtype[np.float64]]],
) -> None:
    assert len(np.unique(day["damper_1"])) > 20
    opened = np.flatnonzero(np.diff(day["door"]) == 1)
    assert len(opened) > 0, "a door opens within sixteen hours"
    i = opened[0]
    while day["door"][i + 1] == 1 and i < len(day["door"]) - 2:
        i += 1
    assert day["temperature_1"][i] < day["temperature_1"][opened[0]]


def test_every_signal_has_a_place_of_its_own() -> None:
    taken: set[tuple[str, int]] = set()
    for signal in SIGNALS:
        size = 2 if signal.data_type in ("float32", "uint32") else 1
        places = {(signal.table, signal.address + i) for i in range(size)}
        assert not places & taken, signal.key
        taken |= places


def test_the_register_map_is_documented() -> None:
    assert register_table() in Path("docs/demo-plant.md").read_text()


def test_history_ends_now_at_one_hertz_and_holds_only_changes_of_contacts(
    store: Store,
) -> None:
    assert seed(store, 5020, NOW) is True
    assert seed(store, 5021, NOW) is False, "a second start only moves the device"
    told: list[float] = []
    one = (LineSettings(1),)
    history.write_history(store, lambda: NOW + 250_000, told.append, lines=one, length_us=900 * SECOND)
    assert told[-1] == 1.0
    with store.snapshot() as tx:
        found = find_tags(tx, [tag_uid("head_pressure"), tag_uid("door")])
        assert '"port": 5021' in list_sources(tx)[0].config
    ids = [found[tag_uid(key)].tag_id for key in ("head_pressure", "door")]
    pressure, door = SeriesReader(store).read_many(ids, Window(NOW - 1000 * SECOND, NOW + SECOND))
    assert pressure.samples == 900
    assert pressure.recorded.ts_us[-1] == NOW - SECOND
    assert 1 <= door.samples < 20
    values = door.recorded.values
    assert (np.diff(values) != 0).all()


def test_the_history_joins_the_first_samples_of_the_recorder(store: Store) -> None:
    """Recording begins half a minute after the history has ended, for a contact five seconds later."""
    seed(store, 5020, NOW)
    one = (LineSettings(1),)
    plant, end_us = history.write_history(
        store, lambda: NOW, lambda _: None, lines=one, length_us=900 * SECOND
    )
    seed_records(store, NOW, 1)  # some tags are in two archives by then
    assert end_us == NOW
    keys, begin = history._keys_of(store, 1), NOW + 30 * SECOND
    late = keys["jam", 0]
    first = {
        key: Series.of(kind, [begin, begin + SECOND], [0, 0]) for key, kind in kinds(store, keys).items()
    }
    backfill(store, {key: one for key, one in first.items() if key != late}, Window(begin, begin + SECOND))
    now = begin + 10 * SECOND
    assert history.join_recording(store, plant, NOW, lambda: now) is None, "one has no sample yet"
    jam = Series.of(ValueType.BOOLEAN, [begin + 5 * SECOND], [0])
    backfill(store, {late: jam}, Window(begin + 5 * SECOND, now))
    joined = history.join_recording(store, plant, NOW, lambda: now)
    assert joined == Window(NOW, begin + 5 * SECOND)
    window = Window(NOW - 60 * SECOND, begin)
    pressure, contact = SeriesReader(store).read_keys([keys["head_pressure", 0], late], window)
    inside = pressure.recorded.ts_us[(pressure.recorded.ts_us >= window.start_us)]
    assert inside.tolist() == list(range(window.start_us, begin + SECOND, SECOND)), (
        "a sample a second, each once"
    )
    assert pressure.blanks == () and contact.blanks == ()
    steps = np.abs(np.diff(pressure.recorded.values[:-2]))
    assert steps.max() < 2.0, "the same line goes on"


def kinds(store: Store, keys: dict[tuple[str, int], HistoryKey]) -> dict[HistoryKey, ValueType]:
    with store.snapshot() as tx:
        tags = {tag.tag_id: tag.value_type for tag in list_tags(tx)}
    return {key: tags[key.tag_id] for key in keys.values()}


def test_a_plant_that_was_kept_catches_up(tmp_path: Path) -> None:
    line, other = DryingLine([LineSettings(5)]), DryingLine([LineSettings(5)])
    history.save_line(line, tmp_path / "plant.npz", NOW)
    again = history.load_line(tmp_path / "plant.npz", NOW + 40 * SECOND, (LineSettings(5),))
    for _ in range(40):
        other.step(1.0)
    assert again.values()["head_pressure"] == other.values()["head_pressure"]
    history.save_line(line, tmp_path / "plant.npz", NOW)
    stood = history.load_line(tmp_path / "plant.npz", NOW + 7200 * SECOND, (LineSettings(5),))
    assert stood.values()["head_pressure"] == line.values()["head_pressure"]


def test_a_kept_line_goes_on_where_it_was(tmp_path: Path) -> None:
    line = DryingLine([LineSettings(5)])
    run(line, 50)
    history.save_line(line, tmp_path / "plant.npz", NOW)
    again = history.load_line(tmp_path / "plant.npz", NOW, (LineSettings(5),))
    assert run(again, 3)["vacuum"].tolist() == run(line, 3)["vacuum"].tolist()
    assert not (tmp_path / "plant.npz").exists()


@pytest.mark.parametrize("content", [b"", b"PK no archive", pickle.dumps([1, 2])])
def test_a_file_that_holds_no_line_is_said_and_the_plant_begins_anew(
    tmp_path: Path, content: bytes, caplog: pytest.LogCaptureFixture
) -> None:
    (tmp_path / "plant.npz").write_bytes(content)
    assert len(history.load_line(tmp_path / "plant.npz", NOW, (LineSettings(5),))) == 1
    assert "begins anew" in caplog.text


def test_lines_of_another_plant_are_not_taken(tmp_path: Path, caplog: pytest.LogCaptureFixture) -> None:
    history.save_line(DryingLine([LineSettings(1), LineSettings(2)]), tmp_path / "plant.npz", NOW)
    assert len(history.load_line(tmp_path / "plant.npz", NOW, (LineSettings(5),))) == 1
    assert "other lines" in caplog.text


def test_pieces_made_side_by_side_fit_together(monkeypatch: pytest.MonkeyPatch) -> None:
    """The borders of the pieces are no larger steps than the line makes at any time."""
    monkeypatch.setattr(history, "LONGEST_PIECE_S", 3600)
    made, plant = history._run((LineSettings(1), LineSettings(3, hunting=1.8)), 3 * 3600, lambda _: None)
    assert made.shape == (len(SIGNALS), 3 * 3600, 2) and len(plant) == 2
    borders = np.array([3599, 7199])
    for place, signal in enumerate(SIGNALS):
        steps = np.abs(np.diff(made[place, :, 0].astype(float)))
        if signal.key.startswith(("temperature", "humidity", "product_moisture", "cooler")):
            assert steps[borders].max() <= 4 * np.quantile(steps, 0.999) + 0.3, signal.key
        if signal.key in ("lot", "energy"):
            assert (np.diff(made[place, :, 0]) >= 0).all(), signal.key


def test_a_selected_line_goes_on_as_it_would_have_among_the_others() -> None:
    both = DryingLine([LineSettings(1), LineSettings(2)])
    for _ in range(700):
        both.step(1.0)
    one = both.select([1])
    for _ in range(5):
        both.step(1.0)
        one.step(1.0)
    assert one.values()["vacuum"][0] == both.values()["vacuum"][1]


def test_a_second_start_tells_the_port_and_keeps_what_people_have_changed(store: Store) -> None:
    assert seed(store, 5020, NOW, 2)
    with store.transaction() as tx:
        line_1 = list_sources(tx)[0]
        set_config(tx, line_1.uid, {**json.loads(line_1.config), "timeout_s": 1.5})
    assert not seed(store, 5021, NOW, 2)
    with store.snapshot() as tx:
        found = [json.loads(source.config) for source in list_sources(tx)]
    assert [(one["port"], one["timeout_s"]) for one in found] == [(5021, 1.5), (5021, 1.0)]


def test_lot_records_are_set_up_once(store: Store) -> None:
    seed(store, 5020, NOW, 2)
    for _ in range(2):
        seed_records(store, NOW, 2)
    with store.snapshot() as tx:
        loggers = [one for one in list_loggers(tx) if isinstance(one.mode, OnTrigger)]
    assert [one.name for one in loggers] == ["Line 1 lots", "Line 2 lots"]
    assert dict(loggers[0].mode_as(OnTrigger).columns)[loggers[0].tags[0]] == "Lot"


def test_quality_samples_are_set_up_once_and_taken_on_demand_only(store: Store) -> None:
    seed(store, 5020, NOW, 1)
    for _ in range(2):
        seed_quality_samples(store, NOW)
    with store.snapshot() as tx:
        (logger,) = [one for one in list_loggers(tx) if one.name == "Line 1 quality samples"]
        names = {tag.tag_id: tag.name for tag in list_tags(tx)}
    assert logger.mode == Periodic()
    assert [names[tag] for pair in logger.inhibits for tag in pair] == [
        "Line 1 Cooler product moisture", "Line 1 Cutter jam"
    ]  # fmt: skip
    assert logger.sample_on is not None
    assert names[logger.sample_on.tag] == "Line 1 Dryer door open"
