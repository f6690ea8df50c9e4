"""Statistics over HTTP: kinds of equipment, sheets beside what is normal, control charts."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from cronaca.core import control
from cronaca.core.model import HOUR, MINUTE, SECOND, Series, Tag, ValueType, Window
from cronaca.db import Store
from cronaca.history.write.bulk import backfill
from tests.api.setup_support import Api, Json
from tests.support.builders import NOW, a_tag, plant_with
from tests.support.signed_in import app_of

LINES = (1, 2, 3, 4)
END = NOW + HOUR
HOURLY = {"start_us": NOW, "end_us": END}
RNG = np.random.default_rng(12)


def damper(line: int) -> Tag:
    return a_tag(f"Line {line} Zone 2 exhaust damper", unit="%", equipment=f"Line {line}/Zone 2")


def jam(line: int) -> Tag:
    return a_tag(f"Line {line} Cutter jam", ValueType.BOOLEAN, unit="", equipment=f"Line {line}/Cutter")


TAGS = [
    *map(damper, LINES),
    *map(jam, LINES),
    a_tag("Plant steam pressure", unit="bar", equipment="Boiler house"),
]


@pytest.fixture
def api(store: Store, tmp_path: Path) -> Iterator[Api]:
    """Four lines; the damper of the third hunts."""
    keys = plant_with(store, TAGS)
    times = NOW + np.arange(3600) * SECOND
    swing = np.sin(np.arange(3600) / 20)
    series = {
        keys[damper(line).name]: Series.of(
            ValueType.FLOAT, times, 40 + swing * (12 if line == 3 else 2 + 0.1 * line)
        )
        for line in LINES
    }
    jams = np.zeros(3600, np.int64)
    jams[600:660] = jams[1800:1830] = 1
    series |= {keys[jam(line).name]: Series.of(ValueType.BOOLEAN, times, jams) for line in LINES}
    backfill(store, series, Window(NOW, END))
    with TestClient(app_of(store, tmp_path)) as client:
        yield Api(client)


def sheet(**changes: object) -> Json:
    columns = [{"figure": {"stat": "StandardDeviationPopulation"}}, {"figure": {"stat": "Starts"}}]
    rows = [{"name": f"Line {n}", "tags": [damper(n).uid, jam(n).uid]} for n in LINES]
    return {"rows": rows, "columns": columns, "window": HOURLY, **changes}


class TestKinds:
    def test_lines_are_of_one_kind_and_the_boiler_house_stands_alone(self, api: Api) -> None:
        lines, boiler = api.ok("GET", "/statistics/kinds")
        assert (lines["name"], lines["equipment"]) == ("Line", [f"Line {n}" for n in LINES])
        assert [one["name"] for one in lines["members"]] == ["Cutter jam", "Zone 2 exhaust damper"]
        assert lines["members"][1]["tags"] == [damper(n).uid for n in LINES]
        assert (boiler["name"], len(boiler["members"])) == ("Boiler house", 1)


class TestSheets:
    def test_the_odd_one_is_far_from_what_is_normal_for_its_kind(self, api: Api) -> None:
        found = api.ok("POST", "/statistics/sheet", sheet())
        places = [row["cells"][0]["place"] for row in found["rows"]]
        assert places == ["normal", "normal", "far above", "normal"]
        assert [row["cells"][1]["place"] for row in found["rows"]] == ["normal"] * 4, "all had two jams"
        odd = max(found["rows"], key=lambda row: row["oddness"])
        assert odd["name"] == "Line 3"
        assert odd["cells"][0]["position"] > 2
        assert odd["cells"][0]["band"]["learnt_from"] == 4

    def test_its_figures_are_those_of_the_figures(self, api: Api) -> None:
        found = api.ok("POST", "/statistics/sheet", sheet())
        for n, row in zip(LINES, found["rows"], strict=True):
            wanted = {"tags": [damper(n).uid], "figures": [{"stat": "StandardDeviationPopulation"}],
                      "windows": [HOURLY]}  # fmt: skip
            (alone,) = api.ok("POST", "/figures", wanted)["results"]
            assert row["cells"][0]["value"] == alone["figures"][0]["values"][0]["value"]
            assert row["cells"][1]["value"] == 2

    def test_a_band_is_fixed_or_a_range_or_learnt_from_earlier(self, api: Api) -> None:
        figure = {"stat": "StandardDeviationPopulation"}
        columns = [
            {"figure": figure, "norm": {"kind": "fixed", "low": 0, "high": 3}},
            {"figure": {"stat": "Maximum"}, "norm": {"kind": "range"}},
            {"figure": figure, "norm": {"kind": "earlier"}},
            {"figure": figure, "norm": {"kind": "none"}},
        ]
        rows = [{"name": f"Line {n}", "tags": [damper(n).uid] * 4} for n in LINES]
        last = {"start_us": END - 10 * MINUTE, "end_us": END}
        reference = {"start_us": NOW, "end_us": END - 10 * MINUTE, "split": {"interval_us": 10 * MINUTE}}
        found = api.ok("POST", "/statistics/sheet", sheet(
            rows=rows, columns=columns, window=last, reference=reference
        ))  # fmt: skip
        first, third = found["rows"][0]["cells"], found["rows"][2]["cells"]
        assert (first[0]["place"], third[0]["place"]) == ("normal", "far above")
        assert (first[1]["band"]["low"], first[1]["band"]["high"], first[1]["place"]) == (0, 100, "normal")
        assert (third[2]["band"]["learnt_from"], third[2]["place"]) == (5, "normal"), "it hunted before too"
        assert (third[3]["band"], third[3]["place"]) == (None, "nothing to compare with")

    def test_limits_of_the_class_are_marked_beside_whatever_is_normal(self, api: Api) -> None:
        lines = api.ok("POST", "/setup/classes/gather", {"kind": "Line", "name": "Drying line"})
        members = [
            {**one, "limits": [35.0, 50.0]} if one["key"] == "Zone 2 exhaust damper" else one
            for one in lines["members"]
        ]
        kept = {name: value for name, value in lines.items() if name not in ("uid", "equipment")}
        answer = api.client.put(f"/api/setup/classes/{lines['uid']}", json={**kept, "members": members})
        assert answer.status_code == 200, answer.text
        norm = {"kind": "fixed", "low": 30.0, "high": 50.0}
        columns = [{"figure": {"stat": stat}, "norm": norm} for stat in ("Average", "Maximum", "Travel")]
        rows = [{"name": f"Line {n}", "tags": [damper(n).uid] * 3} for n in (1, 3)]
        found = api.ok("POST", "/statistics/sheet", sheet(rows=rows, columns=columns))
        (mean, highest, travel), (_, odd, _) = (row["cells"] for row in found["rows"])
        assert mean["limits"] == {"low": 35.0, "high": 50.0, "low_at": -0.5, "high_at": 1.0, "broken": ""}
        assert (highest["limits"]["broken"], odd["limits"]["broken"]) == ("", "high")
        assert travel["limits"] is None, "a travel does not lie on the tag's scale"
        table = {
            "rows": [{"name": "Line 3", "tag": damper(3).uid, "figure": {"stat": "Maximum"}}],
            "window": HOURLY, "per": "hour",
        }  # fmt: skip
        (row,) = api.ok("POST", "/statistics/stretches", table)["rows"]
        assert [cell["limits"]["broken"] for cell in row["cells"]] == ["high"] * len(row["cells"])

    def test_two_windows_stand_beside_each_other(self, api: Api) -> None:
        half = NOW + HOUR // 2
        found = api.ok("POST", "/statistics/sheet", sheet(
            window={"start_us": half, "end_us": END}, beside={"start_us": NOW, "end_us": half}
        ))  # fmt: skip
        cell = found["rows"][0]["cells"][1]
        assert (cell["value"], cell["beside"], cell["difference"]) == (1, 1, 0)
        assert found["beside"]["end_us"] == str(half)

    def test_the_same_window_a_day_or_a_week_earlier(self, api: Api) -> None:
        for beside, days in (("day", 1), ("week", 7)):
            found = api.ok("POST", "/statistics/sheet", sheet(beside=beside))
            ends = [int(found["window"][end]) - int(found["beside"][end]) for end in ("start_us", "end_us")]
            assert ends == [days * 24 * HOUR] * 2
            assert found["rows"][0]["cells"][1]["beside"] is None, "nothing was recorded then: no zero"

    def test_the_window_before_and_the_stretches_before_are_found_by_themselves(self, api: Api) -> None:
        half = NOW + HOUR // 2
        late = {"start_us": half, "end_us": END}
        columns = [
            {"figure": {"stat": "Maximum"}, "norm": {"kind": "earlier"}},
            {"figure": {"stat": "Starts"}},
        ]
        found = api.ok("POST", "/statistics/sheet", sheet(
            window=late, beside="before", reference="before", columns=columns
        ))  # fmt: skip
        assert (found["beside"]["start_us"], found["beside"]["end_us"]) == (str(NOW), str(half))
        assert found["rows"][0]["cells"][0]["place"] == "nothing to compare with", "one stretch is too few"
        shift = api.ok("POST", "/statistics/sheet", sheet(
            window={"unit": "shift", "which": "last", "end_us": END}, beside="before"
        ))  # fmt: skip
        assert shift["beside"]["end_us"] == shift["window"]["start_us"]
        length = int(shift["beside"]["end_us"]) - int(shift["beside"]["start_us"])
        assert length == 8 * HOUR

    def test_what_has_no_meaning_or_no_data_is_said_in_its_place(self, api: Api) -> None:
        steam = next(tag for tag in TAGS if tag.unit == "bar")
        rows = [{"name": "Line 1", "tags": [jam(1).uid, None]}, {"name": "Boiler", "tags": [steam.uid, None]}]
        columns = [{"figure": {"stat": "Percentile"}}, {"figure": {"stat": "Count"}}]
        found = api.ok("POST", "/statistics/sheet", sheet(rows=rows, columns=columns))
        assert found["rows"][0]["cells"][0]["refused"]["field"] == "stat"
        assert found["rows"][0]["cells"][1]["tag"] is None
        empty = found["rows"][1]["cells"][0]
        assert (empty["value"], empty["place"]) == (None, "no value")

    @pytest.mark.parametrize(("change", "field"), [
        ({"rows": [{"name": "Line 1", "tags": []}]}, "rows"),
        ({"rows": [{"name": "Line 1", "tags": [None, None]}]}, "rows"),
        ({"rows": [{"name": "x", "tags": ["00000000-0000-0000-0000-000000000000", None]}]}, "tags"),
        ({"window": {}}, "window"),
        ({"columns": [{"figure": {"stat": "Count"}, "norm": {"kind": "fixed"}}] * 2}, "low"),
        ({"columns": [{"figure": {"stat": "Count"}, "norm": {"widths": 0}}] * 2}, "widths"),
        ({"columns": [{"figure": {"stat": "Count"}, "norm": {"kind": "earlier"}}] * 2}, "reference"),
        ({"columns": [{"figure": {"stat": "Nothing"}}] * 2}, None),
    ])  # fmt: skip
    def test_what_is_wrong_is_named(self, api: Api, change: Json, field: str | None) -> None:
        if field is None:
            cells = api.ok("POST", "/statistics/sheet", sheet(**change))["rows"][0]["cells"]
            assert cells[0]["refused"]["field"] == "stat"
        else:
            assert api.field("POST", "/statistics/sheet", sheet(**change)) == field


class TestControl:
    def ask(self, **changes: object) -> Json:
        split = {"start_us": NOW, "end_us": END, "split": {"interval_us": MINUTE}}
        return {"tag": damper(1).uid, "figure": {"stat": "TimeAverage2"}, "window": split, **changes}

    def test_points_are_the_figures_of_the_stretches(self, api: Api) -> None:
        found = api.ok("POST", "/statistics/control", self.ask())
        value, moving = found["charts"]
        wanted = {"tags": [damper(1).uid], "figures": [{"stat": "TimeAverage2"}],
                  "windows": [self.ask()["window"]]}  # fmt: skip
        (alone,) = api.ok("POST", "/figures", wanted)["results"]
        means = [one["value"] for one in alone["figures"][0]["values"]]
        assert value["points"] == means
        assert moving["points"][0] is None
        expected = control.individuals(np.array(means), np.array(means)).places
        assert value["centre"] == pytest.approx(expected.centre)
        assert value["upper"][0] == pytest.approx(expected.upper[0])
        assert len(found["starts_us"]) == 60

    def test_limits_come_from_a_reference(self, api: Api) -> None:
        reference = {"start_us": NOW, "end_us": NOW + 10 * MINUTE, "split": {"interval_us": MINUTE}}
        found = api.ok("POST", "/statistics/control", self.ask(reference=reference))
        points = found["charts"][0]["points"][:10]
        assert found["charts"][0]["centre"] == pytest.approx(sum(points) / 10)
        assert found["reference"]["end_us"] == str(NOW + 10 * MINUTE)

    def test_the_window_before_can_be_the_reference(self, api: Api) -> None:
        half = NOW + HOUR // 2
        late = {"start_us": half, "end_us": END, "split": {"interval_us": MINUTE}}
        found = api.ok("POST", "/statistics/control", self.ask(window=late, reference="before"))
        early = {**late, "start_us": NOW, "end_us": half}
        assert found == api.ok("POST", "/statistics/control", self.ask(window=late, reference=early))
        assert found["reference"]["end_us"] == found["window"]["start_us"]

    def test_subgroups_make_means_and_ranges(self, api: Api) -> None:
        found = api.ok("POST", "/statistics/control", self.ask(chart="means", size=7))
        mean, spread = found["charts"]
        assert (len(mean["points"]), len(spread["points"]), len(found["starts_us"])) == (8, 8, 8)
        assert int(found["starts_us"][1]) == NOW + 7 * MINUTE

    @pytest.mark.parametrize(("chart", "names"), [
        ("ewma", ["moving average"]), ("cusum", ["sum above", "sum below"]),
    ])  # fmt: skip
    def test_the_other_charts(self, api: Api, chart: str, names: list[str]) -> None:
        found = api.ok("POST", "/statistics/control", self.ask(chart=chart))
        assert [one["name"] for one in found["charts"]] == names
        assert all(len(one["points"]) == 60 for one in found["charts"])

    @pytest.mark.parametrize(("change", "field"), [
        ({"figure": {"stat": "Nothing"}}, "stat"), ({"chart": "means", "size": 10, "window": {
            "start_us": NOW, "end_us": END, "split": {"interval_us": 10 * MINUTE}}}, "window"),
        ({"window": {"start_us": NOW, "end_us": END}}, "reference"),
        ({"weight": 2, "chart": "ewma"}, "weight"),
        ({"figure": {"stat": "Histogram"}}, "figure"), ({"limit": 0, "chart": "cusum"}, "limit"),
    ])  # fmt: skip
    def test_what_is_wrong_is_named(self, api: Api, change: Json, field: str) -> None:
        assert api.field("POST", "/statistics/control", self.ask(**change)) == field


def closer(api: Api, make: Callable[[int], Tag], stat: str, **more: object) -> Json:
    tags = api.ok("GET", "/tags?limit=100")["tags"]
    uids = {tag["name"]: tag["uid"] for tag in tags}
    wanted = [uids[make(line).name] for line in LINES]
    body = {"tags": wanted, "figure": {"stat": stat}, "window": HOURLY, **more}
    return {**api.ok("POST", "/statistics/drilldown", body), "asked": wanted}


def test_a_figure_over_time_lies_beside_its_fleet(api: Api) -> None:
    found = closer(api, damper, "Travel")
    assert len(found["starts_us"]) == 12, "an hour in stretches of five minutes"
    odd = next(one for one in found["over_time"] if one["tag"] == found["asked"][2])
    assert set(odd["places"]) == {"far above"}
    assert all(one["high"] < value for one, value in zip(found["bands"], odd["values"], strict=True))
    assert found["low"] <= 0.0
    assert found["high"] > max(odd["values"])
    alone = api.ok("POST", "/figures", {
        "tags": [found["asked"][0]], "figures": [{"stat": "Travel"}],
        "windows": [{**HOURLY, "split": {"interval_us": 5 * MINUTE}}],
    })["results"][0]["figures"][0]["values"]  # fmt: skip
    assert [one["value"] for one in alone] == found["over_time"][0]["values"]


def test_boxes_and_histograms_are_by_time(api: Api) -> None:
    """The third damper is 40 + 12 sin, a sample a second: by time its quartiles and bins are numpy's of the
    samples, but for what the slopes between samples make (a quarter of a percent)."""
    found = closer(api, damper, "TimeAverage2")
    box = next(one for one in found["boxes"] if one["tag"] == found["asked"][2])
    values = 40 + 12 * np.sin(np.arange(3600) / 20)
    quartiles = [box["lower_quartile"], box["median"], box["upper_quartile"]]
    assert quartiles == pytest.approx(np.quantile(values, [0.25, 0.5, 0.75]).tolist(), abs=0.1)
    assert (box["low"], box["high"]) == pytest.approx((values.min(), values.max()))
    assert len(found["edges"]) == 25
    shares = next(one for one in found["shares"] if one["tag"] == found["asked"][2])["percent"]
    assert sum(shares) == pytest.approx(100.0)
    counted, _ = np.histogram(values, found["edges"])
    assert shares == pytest.approx((100 * counted / 3600).tolist(), abs=0.25)
    assert found["parts"] == []
    assert found["timelines"] == []


def test_what_contacts_were_in_and_what_each_adds(api: Api) -> None:
    found = closer(api, jam, "DurationInStateNonZero")
    line = found["timelines"][0]
    on = [(int(one["start_us"]) - NOW, int(one["end_us"]) - NOW) for one in line["stretches"] if one["state"]]
    assert on == [(600 * SECOND, 660 * SECOND), (1800 * SECOND, 1830 * SECOND)], "as written by hand"
    states = {one["state"]: one for one in line["states"]}
    assert (states[True]["seconds"], states[True]["entries"]) == (90.0, 2)
    assert line["whole"]
    assert [round(one["cumulative"]) for one in found["parts"]] == [25, 50, 75, 100]
    assert found["boxes"] == []


def test_a_closer_look_that_cannot_be_is_refused(api: Api) -> None:
    tag = api.ok("GET", "/tags?search=damper&limit=1")["tags"][0]["uid"]
    body = {"tags": [tag], "figure": {"stat": "Travel"}, "window": HOURLY}
    assert api.field("POST", "/statistics/drilldown", {**body, "figure": {"stat": "Nonsense"}}) == "stat"
    assert api.field("POST", "/statistics/drilldown", {**body, "norm": {"kind": "earlier"}}) == "norm"
    assert api.field("POST", "/statistics/drilldown", {**body, "tags": [tag[::-1]]}) == "tags"
    by_shift = api.ok("POST", "/statistics/drilldown", {**body, "per": "shift"})
    assert len(by_shift["starts_us"]) in (1, 2)


def test_two_tags_stand_against_each_other(api: Api) -> None:
    uids = {tag["name"]: tag["uid"] for tag in api.ok("GET", "/tags?limit=100")["tags"]}
    one, three = uids[damper(1).name], uids[damper(3).name]
    body = {"pairs": [{"x": one, "y": three}, {"x": one, "y": one}], "window": HOURLY, "points": 60}
    found = api.ok("POST", "/statistics/scatter", body)
    assert len(found["times_us"]) == 60
    pair = found["pairs"][0]
    swing = np.sin(np.arange(0, 3600, 60) / 20)
    assert pair["xs"] == pytest.approx((40 + 2.1 * swing).tolist()), "each minute, as it was written"
    assert pair["ys"] == pytest.approx((40 + 12 * swing).tolist())
    r = np.corrcoef(pair["xs"], pair["ys"])[0, 1]
    assert pair["correlation"] == pytest.approx(r), "numpy's of the same points"
    assert found["pairs"][1]["correlation"] == pytest.approx(1.0)
    assert found["low_y"] <= min(pair["ys"])
    assert max(pair["ys"]) <= found["high_y"]
    text = api.refused("POST", "/statistics/scatter", {**body, "pairs": [{"x": one, "y": one[::-1]}]})
    assert text["errors"][0]["field"] == "tags"
