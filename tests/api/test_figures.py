"""Figures over HTTP and WebSocket: many at once, refused ones in their place, explained, live."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest

from cronaca.core.aggregates import AGGREGATES
from cronaca.core.model import HOUR, SECOND, Series, ValueType
from cronaca.core.statistics import STATISTICS, TABLES
from cronaca.logbook import texts
from tests.api.conftest import Plant
from tests.support.builders import NOW

Options = dict[str, object]
Answer = dict[str, Any]
WINDOW: Options = {"start_us": NOW, "end_us": NOW + 500 * SECOND}


def ask(
    plant: Plant, names: list[str], stats: list[str | Options], windows: Sequence[Options] = (WINDOW,)
) -> Answer:
    body = {
        "tags": [plant.tags[name].uid for name in names],
        "figures": [{"stat": one} if isinstance(one, str) else one for one in stats],
        "windows": list(windows),
    }
    answer = plant.client.post("/api/figures", json=body)
    assert answer.status_code == 200, answer.text
    found: Answer = answer.json()
    return found


def value(answer: Answer, tag: int = 0, figure: int = 0, interval: int = 0) -> Answer:
    found: Answer = answer["results"][tag]["figures"][figure]["values"][interval]
    return found


def test_many_tags_statistics_and_windows_in_one_request(plant: Plant) -> None:
    """Zone 1's temperature rises by 0.1 a second to 49.9."""
    windows: list[Options] = [WINDOW, {**WINDOW, "split": {"interval_us": 100 * SECOND}}]
    answer = ask(plant, ["temperature", "humidity"], ["TimeAverage", "Maximum", "Count"], windows)
    assert [(r["tag"], r["window"]) for r in answer["results"]] == [
        (plant.tags[name].uid, w) for w in (0, 1) for name in ("temperature", "humidity")]  # fmt: skip
    first = value(answer)
    # The line goes from 0 to 49.9 at 499 s; what follows is Bad, which the interpolated bound leads across.
    assert first["value"] == pytest.approx(25.0, abs=0.01)
    assert (first["quality"], first["status_code"][-4:]) == ("Uncertain", "0401")
    assert (value(answer, 0, 1)["value"], value(answer, 0, 2)["value"]) == (49.9, 500)
    assert len(answer["results"][2]["figures"][0]["values"]) == 5
    assert value(answer, 2, 1, 4)["value"] == 49.9
    assert value(answer, 1)["value"] is None, "humidity was never recorded"
    assert answer["windows"][0]["start_local"][-6:] in ("+01:00", "+02:00")
    assert answer["results"][0]["figures"][0]["path"]["name"] == "raw"


def test_a_figure_without_a_meaning_is_refused_in_its_place(plant: Plant) -> None:
    series = Series.of(ValueType.INTEGER, [NOW, NOW + SECOND], np.array([2**60, 2**60 + 1]))
    plant.commit("counter", series, NOW + 1000 * SECOND)
    answer = ask(plant, ["counter"], ["End", "Delta", "NoSuchThing", "Correlation"])
    figures = answer["results"][0]["figures"]
    assert figures[0]["values"][0]["value"] == str(2**60 + 1), "beyond 2^53 as text, exact"
    assert figures[1]["values"][0]["value"] == 1
    assert figures[2]["refused"]["field"] == "stat"
    assert "Choose among" in figures[2]["refused"]["remedy"]
    assert figures[3]["refused"]["field"] == "other"


def test_own_statistics_and_tables(plant: Plant) -> None:
    stats: list[str | Options] = [
        {"stat": "Percentile", "percent": 90}, {"stat": "Integral", "base": "minute"},
        {"stat": "Histogram", "weight": "samples", "bins": 5, "low": 0, "high": 50},
        {"stat": "RateOfChange", "base": "hour"},
    ]  # fmt: skip
    answer = ask(plant, ["temperature"], stats, [{"start_us": NOW, "end_us": NOW + 400 * SECOND}])
    figures = answer["results"][0]["figures"]
    assert figures[0]["values"][0]["value"] == pytest.approx(36)
    assert figures[1]["values"][0]["value"] == pytest.approx(20 * 400 / 60)
    assert figures[1]["unit"] == f"{plant.tags['temperature'].unit}·min"
    assert [b["amount"] for b in figures[2]["tables"][0]["bins"]] == [100, 100, 100, 100, 0]
    assert figures[3]["values"][0]["value"] == pytest.approx(360)
    assert figures[3]["unit"].endswith("/h")


def test_windows_by_words_and_backward(plant: Plant) -> None:
    answer = ask(plant, ["temperature"], ["Count"], [
        {"last_us": 100 * SECOND, "end_us": NOW + 500 * SECOND},
        {"unit": "day", "end_us": NOW + 500 * SECOND, "split": {"unit": "hour"}},
        {"unit": "shift", "which": "last", "end_us": NOW + 500 * SECOND},
        {"start_us": NOW + 500 * SECOND, "end_us": NOW, "split": {"interval_us": 200 * SECOND}},
    ])  # fmt: skip
    assert value(answer)["value"] == 100
    day = answer["results"][1]["figures"][0]["values"]
    assert sum(v["value"] for v in day) == 500
    assert int(answer["windows"][2]["end_us"]) - int(answer["windows"][2]["start_us"]) == 8 * HOUR
    back = answer["results"][3]["figures"][0]["values"]
    assert [v["value"] for v in back] == [199, 200, 100], "NOW + 500 s is Bad; the later end belongs to each"
    assert int(back[0]["start_us"]) > int(back[0]["end_us"])


@pytest.mark.parametrize("change,field", [
    ({"windows": [{}]}, "window"), ({"windows": [{"last_us": HOUR, "unit": "day"}]}, "window"),
    ({"configuration": {"percent_good": 0, "percent_bad": 80}}, "percent_good"),
    ({"tags": ["00000000-0000-0000-0000-000000000000"]}, "tags"), ({"archive": "nowhere"}, "archive"),
    ({"windows": [{"start_us": 0, "end_us": 10**14, "split": {"interval_us": 1}}]}, "interval"),
    ({"windows": [{"start_us": NOW, "split": {"unit": "day", "interval_us": 5}}]}, "split"),
    ({"figures": []}, "figures"),
])  # fmt: skip
def test_a_request_that_cannot_be_names_its_field(plant: Plant, change: dict[str, Any], field: str) -> None:
    body = {"tags": [plant.tags["temperature"].uid], "figures": [{"stat": "Count"}], "windows": [WINDOW]}
    answer = plant.client.post("/api/figures", json={**body, **change})
    assert answer.status_code == 422
    (problem,) = answer.json()["errors"]
    assert field in problem["field"]
    assert problem["remedy"]


def test_an_explanation_names_samples_bounds_and_windows(plant: Plant) -> None:
    body = {"tag": plant.tags["temperature"].uid, "figure": {"stat": "TimeAverage2"}, "interval": 1,
            "window": {"start_us": NOW + 490 * SECOND, "end_us": NOW + 530 * SECOND,
                       "split": {"interval_us": 20 * SECOND}}}  # fmt: skip
    made = plant.client.post("/api/figures/explain", json={**body, "interval": 0}).json()
    assert (made["good"], made["bad"], made["good_s"], made["uncertain_s"], made["bad_s"]) == (
        10,
        10,
        9,
        1,
        10,
    )
    assert made["covered"] == 0.5
    assert made["start_bound"]["how"] == "recorded"
    assert made["end_bound"]["value"] is None
    # By hand: 9 s of slope from 49.0 to 49.9, 49.9 held for 1 s before the Bad sample.
    assert made["value"] == pytest.approx((9 * 49.45 + 49.9) / 10)
    assert made["window"]["start_local"].endswith(("+01:00", "+02:00"))
    assert made["configuration"]["stepped"] is False
    missing = plant.client.post("/api/figures/explain", json={**body, "interval": 9})
    assert missing.status_code == 422
    table = plant.client.post("/api/figures/explain", json={**body, "figure": {"stat": "Histogram"}})
    assert (table.status_code, table.json()["errors"][0]["field"]) == (422, "figure.stat")


def test_the_catalogue_lists_every_figure(plant: Plant) -> None:
    listed = {one["name"]: one for one in plant.client.get("/api/figures/catalogue").json()}
    assert set(listed) == {*AGGREGATES, *STATISTICS, *TABLES}
    assert sum(one["standard"] for one in listed.values()) == 37
    assert all(one["formula"] and one["source"] and one["types"] for one in listed.values())


def test_sliding_figures_come_by_themselves_when_they_change(plant: Plant) -> None:
    body = {"tags": [plant.tags["temperature"].uid], "figures": [{"stat": "Count"}],
            "windows": [{"start_us": NOW, "end_us": NOW + 2000 * SECOND}], "every_s": 0.2}  # fmt: skip
    with plant.client.websocket_connect("/api/figures/live") as socket:
        socket.send_json(body)
        assert value(socket.receive_json()["answer"])["value"] == 900
        late = Series.of(ValueType.FLOAT, [NOW + 1500 * SECOND], [1.0])
        plant.commit("temperature", late, NOW + 1600 * SECOND)
        assert value(socket.receive_json()["answer"])["value"] == 901
    with plant.client.websocket_connect("/api/figures/live") as socket:
        socket.send_json({**body, "windows": [{}]})
        assert socket.receive_json()["type"] == "refused"


def test_texts_are_shown_as_texts(plant: Plant) -> None:
    """The lot number of line 1: figures and explanations name the lots, not their codes."""
    with plant.store.transaction() as tx:
        lots = texts.codes_of(tx, ["Penne 412", "Fusilli 413"])
    times = [NOW, NOW + 100 * SECOND]
    plant.commit("lot", Series.of(ValueType.TEXT, times, lots), NOW + 1000 * SECOND)
    answer = ask(plant, ["lot"], ["End", "NumberOfTransitions", "TimeInStates", "Average"])
    figures = answer["results"][0]["figures"]
    assert [f["values"][0]["value"] for f in figures[:2]] == ["Fusilli 413", 1]
    states = {one["state"]: one["seconds"] for one in figures[2]["tables"][0]["states"]}
    assert states == {"Penne 412": 100, "Fusilli 413": 400}
    assert "is not defined for text values" in figures[3]["refused"]["problem"]
    body = {"tag": plant.tags["lot"].uid, "figure": {"stat": "End"}, "window": WINDOW}
    made = plant.client.post("/api/figures/explain", json=body).json()
    assert made["value"] == "Fusilli 413"
    assert [one["value"] for one in made["samples"]] == ["Penne 412", "Fusilli 413"]
