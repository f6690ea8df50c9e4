"""Figures over stretches, side by side: intervals, the same shift day after day, runs."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from cronaca.core.model import DAY, HOUR, MINUTE, Series, ValueType, Window
from cronaca.db import Store
from cronaca.history.write.bulk import backfill
from tests.api.setup_support import Api, Json
from tests.support.builders import a_tag, plant_with
from tests.support.signed_in import app_of

MIDNIGHT = int(datetime(2026, 11, 15, 23, tzinfo=UTC).timestamp()) * 1_000_000
"""In Europe/Rome, at the beginning of Monday."""
DAYS = Window(MIDNIGHT, MIDNIGHT + 3 * DAY)
TAG = a_tag("Line 3 Zone 2 exhaust damper", unit="%", equipment="Line 3/Zone 2")
MEAN = {"stat": "TimeAverage2"}


def height(at_us: int) -> float:
    """10 in the early shift, 20 in the late one, 30 at night; the third day's early shift runs at 14."""
    hour = (at_us - MIDNIGHT) % DAY // HOUR
    if not 6 <= hour < 22:
        return 30.0
    if hour >= 14:
        return 20.0
    return 14.0 if at_us >= MIDNIGHT + 2 * DAY else 10.0


@pytest.fixture
def api(store: Store, tmp_path: Path) -> Iterator[Api]:
    keys = plant_with(store, [TAG], MIDNIGHT)
    times = MIDNIGHT + np.arange(3 * 24 * 60) * MINUTE
    values = np.array([height(at) for at in times.tolist()])
    backfill(store, {keys[TAG.name]: Series.of(ValueType.FLOAT, times, values)}, DAYS)
    with TestClient(app_of(store, tmp_path)) as client:
        yield Api(client)


def table(**changes: object) -> Json:
    rows = [{"name": "mean", "tag": TAG.uid, "figure": MEAN}]
    window = {"start_us": DAYS.start_us, "end_us": DAYS.end_us}
    return {"rows": rows, "window": window, "configuration": {"stepped": True}, **changes}


def values(found: Json) -> list[object]:
    return [cell["value"] for cell in found["rows"][0]["cells"]]


def test_the_same_shift_stands_beside_itself_day_after_day(api: Api) -> None:
    found = api.ok("POST", "/statistics/stretches", table(shift="Early"))
    assert [one["name"] for one in found["columns"]] == ["Early"] * 3
    assert [int(one["start_us"]) for one in found["columns"]] == [
        MIDNIGHT + day * DAY + 6 * HOUR for day in range(3)
    ]
    assert values(found) == [10.0, 10.0, 14.0]
    places = [cell["place"] for cell in found["rows"][0]["cells"]]
    assert places == ["normal", "normal", "far above"], "beside the shifts of the other days"


def test_a_window_is_cut_by_the_shifts_and_says_which_are_whole(api: Api) -> None:
    found = api.ok("POST", "/statistics/stretches", table(per="shift"))
    names = [one["name"] for one in found["columns"]]
    assert names == ["Night", *["Early", "Late", "Night"] * 3]
    cut = [one["cut"] for one in found["columns"]]
    assert cut == [True, *[False] * 8, True], "both nights at the ends reach out of the window"
    assert values(found)[:5] == [30.0, 10.0, 20.0, 30.0, 10.0]


def test_hours_days_and_round_lengths_are_stretches_too(api: Api) -> None:
    days = api.ok("POST", "/statistics/stretches", table(per="day"))
    assert values(days) == pytest.approx([(8 * 10 + 8 * 20 + 8 * 30) / 24] * 2 + [(8 * 14 + 400) / 24])
    auto = api.ok("POST", "/statistics/stretches", table())
    assert len(auto["columns"]) == 18, "four hours each"
    six = {"last_us": 6 * HOUR, "end_us": DAYS.end_us}
    hours = api.ok("POST", "/statistics/stretches", table(per="hour", window=six))
    assert values(hours) == [20.0, 20.0, 20.0, 20.0, 30.0, 30.0]


def test_runs_stand_side_by_side_with_the_figures_of_their_windows(api: Api) -> None:
    spans = [(MIDNIGHT + day * DAY + 8 * HOUR, MIDNIGHT + day * DAY + 16 * HOUR) for day in (0, 2)]
    runs = [
        api.ok("POST", "/runs", {"name": f"Lot {i}", "start_us": str(start), "end_us": str(end)})["uid"]
        for i, (start, end) in enumerate(spans)
    ]
    found = api.ok("POST", "/statistics/stretches", table(runs=runs))
    assert [one["name"] for one in found["columns"]] == ["Lot 0", "Lot 1"]
    for (start, end), value in zip(spans, values(found), strict=True):
        wanted = {"tags": [TAG.uid], "figures": [MEAN], "windows": [{"start_us": start, "end_us": end}],
                  "configuration": {"stepped": True}}  # fmt: skip
        (alone,) = api.ok("POST", "/figures", wanted)["results"]
        assert value == alone["figures"][0]["values"][0]["value"]


def test_a_figure_without_a_meaning_is_refused_in_its_place(api: Api) -> None:
    rows = [
        {"name": "mean", "tag": TAG.uid, "figure": MEAN},
        {"name": "?", "tag": TAG.uid, "figure": {"stat": "None"}},
    ]
    found = api.ok("POST", "/statistics/stretches", table(rows=rows, per="day"))
    assert found["rows"][0]["cells"][0]["value"] is not None
    assert found["rows"][1]["cells"][0]["refused"]["field"] == "stat"


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"shift": "Dawn"}, "shift"),
        ({"rows": [{"name": "?", "tag": "00000000-0000-4000-8000-000000000000", "figure": MEAN}]}, "tags"),
        ({"norm": {"kind": "earlier"}}, "norm"),
        ({"per": "hour"}, "per"),
        ({"window": {"start_us": MIDNIGHT, "end_us": MIDNIGHT + HOUR}, "shift": "Late"}, "window"),
    ],
)
def test_what_cannot_be_is_refused_with_its_field(api: Api, changes: Json, field: str) -> None:
    assert api.field("POST", "/statistics/stretches", table(**changes)) == field


def test_an_unknown_run_is_not_found(api: Api) -> None:
    missing = table(runs=["00000000-0000-4000-8000-000000000000"])
    assert api.refused("POST", "/statistics/stretches", missing, 404)["status"] == 404
