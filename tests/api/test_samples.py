"""Tables of samples through the HTTP interface, compared with the raw samples of the same interface."""

from __future__ import annotations

import csv
import io
from typing import Any

import numpy as np
import openpyxl
import pyarrow.parquet as papq
import pytest

from cronaca.core.model import SECOND, Series, ValueType
from cronaca.history.jobs.compaction import StoreCompaction
from cronaca.logbook.texts import codes_of
from tests.api.conftest import Plant
from tests.support.builders import NOW, FixedClock

END = NOW + 1000 * SECOND


def ask(plant: Plant, *names: str, path: str = "", status: int = 200, **more: Any) -> Any:  # noqa: ANN401
    params = {"tag": [plant.tags[name].uid for name in names], "start": NOW, "end": END, **more}
    answer = plant.client.get(f"/api/samples{path}", params=params)
    assert answer.status_code == status, answer.text
    return answer.json()


def pages(plant: Plant, *names: str, **more: Any) -> list[Any]:  # noqa: ANN401
    """All rows, page by page."""
    rows: list[Any] = []
    end: int | str | None = END
    while end is not None:
        page = ask(plant, *names, **{**more, "end": end})
        rows += page["rows"]
        end = page["next_end_us"]
    return rows


def single(rows: list[Any]) -> list[Any]:
    return [(int(row["t_us"]), row["tag"], row["cells"][0]["value"]) for row in rows]


def raw(plant: Plant, *names: str) -> list[Any]:
    """The same from the raw samples of each tag."""
    found = []
    for name in names:
        uid = plant.tags[name].uid
        params: dict[str, Any] = {"tag": uid, "start": NOW, "end": END, "limit": 100_000}
        series = plant.client.get("/api/series/raw", params=params).json()
        found += [(int(t), uid, v) for t, v in zip(series["t_us"], series["v"], strict=True)]
    order = [plant.tags[name].uid for name in names]
    return sorted(found, key=lambda row: (-row[0], order.index(row[1])))


def add_humidity(plant: Plant) -> None:
    """Every 7 s, half a second beside the temperature's."""
    times = NOW + np.arange(100) * 7 * SECOND + SECOND // 2
    plant.commit("humidity", Series.of(ValueType.FLOAT, times, np.arange(100) / 4), END)


@pytest.mark.parametrize("compacted", [False, True], ids=["journal", "segments"])
def test_all_pages_together_are_all_samples(plant: Plant, *, compacted: bool) -> None:
    add_humidity(plant)
    if compacted:
        assert StoreCompaction(plant.store, FixedClock()).compact_step() > 0
    for limit in (1000, 333, 7):
        rows = pages(plant, "temperature", "humidity", limit=limit)
        assert single(rows) == raw(plant, "temperature", "humidity")


def test_many_segments_are_read_from_the_end(plant: Plant) -> None:
    for i in range(5):
        times = NOW + (np.arange(20) + 20 * i) * 10 * SECOND
        plant.commit("humidity", Series.of(ValueType.FLOAT, times, np.arange(20)), END)
        assert StoreCompaction(plant.store, FixedClock()).compact_step() > 0
    assert single(pages(plant, "humidity", limit=9)) == raw(plant, "humidity")


def test_what_is_bad_is_a_row_with_its_reason(plant: Plant) -> None:
    rows = pages(plant, "temperature", quality="bad")
    assert len(rows) == 100
    assert {row["cells"][0]["value"] for row in rows} == {None}
    assert {row["cells"][0]["quality_text"] for row in rows} == {"Bad, no communication"}


def test_only_values_that_match_are_shown(plant: Plant) -> None:
    rows = pages(plant, "temperature", value="> 80", limit=50)
    assert [row["cells"][0]["value"] for row in rows] == [v / 10 for v in range(999, 800, -1)]
    (figures,) = ask(plant, "temperature", path="/figures", value="> 80")
    assert (figures["count"], figures["low"], figures["high"]) == (199, 80.1, 99.9)
    assert figures["mean"] == pytest.approx(90.0)


def test_figures_leave_out_what_is_bad_and_count_it(plant: Plant) -> None:
    (figures,) = ask(plant, "temperature", path="/figures")
    usable = [v for _, _, v in raw(plant, "temperature") if v is not None]
    assert figures["count"] == 1000
    assert (figures["low"], figures["high"]) == (min(usable), max(usable))
    assert figures["mean"] == pytest.approx(sum(usable) / len(usable))


def test_figures_of_whole_numbers_are_exact_and_there_are_none_of_texts(plant: Plant) -> None:
    big = (1 << 53) + 1
    plant.commit("counter", Series.of(ValueType.INTEGER, [NOW, NOW + SECOND], [big, big + 2]), END)
    (figures,) = ask(plant, "counter", path="/figures")
    assert (figures["low"], figures["high"]) == (str(big), str(big + 2))
    plant.commit("lot", Series.of(ValueType.TEXT, [NOW], [1]), END)
    (figures,) = ask(plant, "lot", path="/figures")
    assert figures == {
        "tag": plant.tags["lot"].uid, "count": 1, "low": None, "high": None, "mean": None,
    }  # fmt: skip


def test_a_condition_that_cannot_be_is_refused_with_its_field(plant: Plant) -> None:
    problem = ask(plant, "temperature", value="> hot", status=422)
    assert problem["errors"][0]["field"] == "value" and "80 to 90" in problem["detail"]
    assert ask(plant, "temperature", end=NOW, status=422)["errors"][0]["field"] == "end"
    assert ask(plant, "temperature", "temperature", status=422)["errors"][0]["field"] == "tag"


def test_times_that_tags_share_have_a_row_each(plant: Plant) -> None:
    add_humidity(plant)
    rows = pages(plant, "temperature", "humidity", layout="time", between="interpolated", limit=101)
    times = sorted({t for t, _, _ in raw(plant, "temperature", "humidity")}, reverse=True)
    assert [int(row["t_us"]) for row in rows] == times
    row = next(r for r in rows if int(r["t_us"]) == NOW + 7 * SECOND + SECOND // 2)
    assert [cell["how"] for cell in row["cells"]] == ["interpolated", "recorded"]
    assert [cell["value"] for cell in row["cells"]] == [pytest.approx(0.75), 0.25]
    held = pages(plant, "temperature", "humidity", layout="time", limit=101)
    row = next(r for r in held if int(r["t_us"]) == NOW + 7 * SECOND + SECOND // 2)
    assert [(cell["value"], cell["how"]) for cell in row["cells"]] == [(0.7, "held"), (0.25, "recorded")]


def test_a_grid_has_a_row_every_so_many_seconds(plant: Plant) -> None:
    rows = pages(plant, "temperature", layout="grid", step_us=60 * SECOND, limit=5)
    times = list(range(-(-NOW // (60 * SECOND)) * 60 * SECOND, END, 60 * SECOND))
    assert [int(row["t_us"]) for row in rows] == times[::-1]
    warm = pages(plant, "temperature", layout="grid", step_us=60 * SECOND, value="> 80", limit=2)
    assert {row["t_us"] for row in warm} == {
        row["t_us"] for row in rows if (row["cells"][0]["value"] or 0) > 80
    }


def test_samples_are_ordered_by_value_where_that_is_asked_for(plant: Plant) -> None:
    largest = ask(plant, "temperature", order="largest", limit=3)
    assert [row["cells"][0]["value"] for row in largest["rows"]] == [99.9, 99.8, 99.7]
    more = ask(plant, "temperature", order="largest", limit=3, offset=3)
    assert [row["cells"][0]["value"] for row in more["rows"]] == [99.6, 99.5, 99.4]
    smallest = ask(plant, "temperature", order="smallest", limit=1000, offset=899)
    assert [row["cells"][0]["value"] for row in smallest["rows"]] == [99.9]
    assert smallest["next_end_us"] is None
    refused = ask(plant, "temperature", order="largest", layout="time", status=422)
    assert refused["errors"][0]["field"] == "order"


def test_a_gap_is_told_where_it_begins(plant: Plant) -> None:
    page = ask(plant, "temperature", "humidity", start=NOW - 100 * SECOND)
    found = {(gap["tag"], gap["reason"]) for gap in page["gaps"]}
    assert page["next_end_us"] is not None and found == set()
    last = ask(plant, "temperature", "humidity", start=NOW - 100 * SECOND, end=END - SECOND, limit=1000)
    assert [gap["start_us"] for gap in last["gaps"]] == [str(NOW - 100 * SECOND)] * 2


def test_the_files_hold_what_the_table_shows(plant: Plant) -> None:
    uid = plant.tags["temperature"].uid
    shown = [(t, v) for t, _, v in single(pages(plant, "temperature", value="> 95"))]
    ask_for: dict[str, Any] = {"tag": uid, "start": NOW, "end": END, "value": "> 95"}

    def file(form: str, **more: Any) -> bytes:  # noqa: ANN401
        answer = plant.client.get("/api/samples/export", params={**ask_for, "form": form, **more})
        assert answer.status_code == 200, answer.text
        assert f".{form}" in answer.headers["content-disposition"]
        return bytes(answer.content)

    lines = list(csv.reader(io.StringIO(file("csv").decode("utf-8-sig"))))
    assert lines[0] == ["Time", "Tag", "Value", "Unit", "Quality"]
    assert [float(line[2]) for line in lines[1:]] == [v for _, v in shown]
    sheet = openpyxl.load_workbook(io.BytesIO(file("xlsx")))["Samples"]
    assert [row[2] for row in sheet.iter_rows(min_row=2, values_only=True)] == [v for _, v in shown]
    table = papq.read_table(io.BytesIO(file("parquet"))).to_pydict()
    assert [float(v) for v in table["value"]] == [v for _, v in shown]
    assert [int(t.timestamp() * SECOND) for t in table["time"]] == [t for t, _ in shown]
    beside = csv.reader(io.StringIO(file("csv", layout="time").decode("utf-8-sig")))
    assert next(beside)[1:] == [
        "Line 1 Zone 1 air temperature (°C)", "Line 1 Zone 1 air temperature, quality",
    ]  # fmt: skip


def test_texts_stand_in_the_table_as_they_were_recorded(plant: Plant) -> None:
    with plant.store.transaction() as tx:
        codes = codes_of(tx, ["LOT-7", "=1+1"])
    series = Series.of(ValueType.TEXT, [NOW, NOW + SECOND], codes)
    plant.commit("lot", series, END)
    assert [v for _, _, v in single(pages(plant, "lot"))] == ["=1+1", "LOT-7"]
    assert [v for _, _, v in single(pages(plant, "lot", value="lot"))] == ["LOT-7"]
    assert ask(plant, "lot", order="largest", status=422)["errors"][0]["field"] == "order"
