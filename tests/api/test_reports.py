"""Reports over HTTP: made when a shift is over, late ones too, kept in every form, equal to the API."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from openpyxl import load_workbook

from cronaca.api import app as application
from cronaca.core.model import HOUR, MINUTE, SECOND, Series, ValueType, Window
from cronaca.core.reports import Report
from cronaca.core.windows import Shift
from cronaca.db import Store
from cronaca.exchange.reports import in_all_forms
from cronaca.history.write.bulk import backfill
from cronaca.plant.site import Plant, put_plant
from tests.api.setup_support import Api, Json
from tests.support.builders import a_tag, plant_with
from tests.support.signed_in import app_of

DAY_START = 1_800_000_000 // 86_400 * 86_400 * SECOND
"""A UTC midnight; the plant lies in UTC here."""
NOW = DAY_START + 15 * HOUR
NAMES = ("Line 1 Zone 2 exhaust damper", "Line 2 Zone 2 exhaust damper", "Line 3 Zone 2 exhaust damper")
WANTED = {
    "name": "Dampers", "kind": "Line",
    "lines": [{"member": "Zone 2 exhaust damper", "stat": stat} for stat in ("TimeAverage2", "Travel")],
}  # fmt: skip


class Clock:
    """What the application takes for now."""

    now_us = NOW


@pytest.fixture
def clock(monkeypatch: pytest.MonkeyPatch) -> Clock:
    found = Clock()
    monkeypatch.setattr(application, "_now_us", lambda: found.now_us)
    monkeypatch.setattr("cronaca.services.acting.time.time_ns", lambda: found.now_us * 1000)
    return found


@pytest.fixture
def api(store: Store, tmp_path: Path, clock: Clock) -> Iterator[Api]:
    """Three lines over 15 hours; the damper of the third hunts, and has a gap of two hours in the shift."""
    keys = plant_with(store, [a_tag(name, unit="%", equipment=name[:6]) for name in NAMES])
    with store.transaction() as tx:
        shifts = (Shift("Early", 360), Shift("Late", 840), Shift("Night", 1320))
        put_plant(tx, Plant("Pastificio Ombralta", "UTC", 1, shifts))
    times = DAY_START + np.arange(15 * 360) * 10 * SECOND
    series = {}
    for line, name in enumerate(NAMES, 1):
        swing = np.sin(np.arange(len(times)) / 20) * (12 if line == 3 else 2 + 0.1 * line)
        series[keys[name]] = Series.of(ValueType.FLOAT, times, 40 + swing)
    backfill(store, {k: v for k, v in series.items() if k != keys[NAMES[2]]}, Window(DAY_START, NOW))
    third = series[keys[NAMES[2]]]
    for start, end in ((0, 8), (10, 15)):
        inside = (times >= DAY_START + start * HOUR) & (times < DAY_START + end * HOUR)
        window = Window(DAY_START + start * HOUR, DAY_START + end * HOUR)
        backfill(store, {keys[NAMES[2]]: third.take(inside)}, window)
    with TestClient(app_of(store, tmp_path)) as client:
        yield Api(client)


def made(api: Api, **query: Any) -> list[Json]:  # noqa: ANN401
    api.ok("POST", "/reports/make")
    return list(api.ok("GET", "/reports/made", params=query))


def test_the_shift_that_is_over_is_made_and_agrees_with_the_api(api: Api) -> None:
    report = api.ok("POST", "/reports", WANTED)
    (issue,) = made(api)
    assert (issue["report"], issue["name"], issue["late"]) == (report["uid"], "Dampers", True)
    assert issue["period"].startswith("Early ")
    window = {"start_us": int(issue["start_us"]), "end_us": int(issue["end_us"])}
    assert (window["start_us"], window["end_us"]) == (DAY_START + 6 * HOUR, DAY_START + 14 * HOUR)

    kind = api.ok("GET", "/statistics/kinds")[0]
    uids = kind["members"][0]["tags"]
    asked = {
        "rows": [{"name": n, "tags": [u, u]} for n, u in zip(kind["equipment"], uids, strict=True)],
        "columns": [{"figure": {"stat": line["stat"]}} for line in WANTED["lines"]],  # type: ignore[index]
        "window": window,
    }
    sheet = api.ok("POST", "/statistics/sheet", asked)
    text = api.client.get(f"/api/reports/made/{issue['uid']}.csv").content.decode("utf-8-sig")
    rows = list(csv.DictReader(io.StringIO(text)))
    there = {(r["equipment"], r["statistic"]): r for r in rows}
    for row in sheet["rows"]:
        for cell, label in zip(row["cells"], ("Time-weighted mean", "Travel"), strict=True):
            assert float(there[row["name"], label]["value"]) == cell["value"]
    assert there["Line 3", "Travel"]["place"] == "far above"
    assert there["Line 1", "Travel"]["place"] == ""
    assert float(there["Line 3", "Travel"]["recorded %"]) == pytest.approx(75.0, abs=0.1), (
        "two hours of eight"
    )
    assert float(there["Line 1", "Travel"]["recorded %"]) == 100.0
    assert issue["covered"] == pytest.approx((100 + 100 + 75) / 3, abs=0.1)


def test_it_is_kept_in_every_form(api: Api) -> None:
    api.ok("POST", "/reports", {**WANTED, "name": "<b>Dampers & co</b>"})
    (issue,) = made(api)
    path = f"/api/reports/made/{issue['uid']}"
    page = api.client.get(f"{path}.html")
    assert page.headers["content-type"].startswith("text/html")
    assert "&lt;b&gt;Dampers &amp; co&lt;/b&gt;" in page.text
    assert "far above" in page.text
    assert "created late" in page.text
    assert "of the window recorded" in page.text
    paper = api.client.get(f"{path}.pdf")
    assert paper.content.startswith(b"%PDF-")
    assert paper.content.rstrip().endswith(b"%%EOF")
    book = load_workbook(io.BytesIO(api.client.get(f"{path}.xlsx").content))
    figures = list(book["Figures"].values)
    assert len(figures) == 1 + 3 * 2
    assert isinstance(figures[1][3], float)
    about = {row[0]: row[1] for row in book["Report"].values}
    assert about["Time zone"] == "UTC"
    assert api.client.get(f"{path}.docx").status_code == 422
    assert api.refused("GET", f"/reports/made/{'0' * 8}-0000-0000-0000-{'0' * 12}.pdf", None, 404)


def test_what_no_piece_has_any_more_is_said_to_be_left_out(api: Api) -> None:
    lines = [*WANTED["lines"], {"member": "Old fan", "stat": "Starts"}]
    api.ok("POST", "/reports", {**WANTED, "lines": lines})
    (issue,) = made(api)
    page = api.client.get(f"/api/reports/made/{issue['uid']}.html").text
    assert "Left out, because no equipment has it any more: Old fan, Starts." in page


def test_after_a_downtime_the_missed_ones_are_made_once(api: Api, clock: Clock) -> None:
    api.ok("POST", "/reports", WANTED)
    assert len(made(api)) == 1
    clock.now_us = DAY_START + 22 * HOUR + MINUTE
    assert len(made(api)) == 1, "the shift has just ended, and nobody says that it is known"
    clock.now_us = DAY_START + 31 * HOUR
    found = made(api)
    assert [one["period"].split()[0] for one in found] == ["Night", "Late", "Early"]
    assert [one["late"] for one in found] == [True, True, True]
    assert found[0]["good"] == 0.0, "nothing was recorded that night: said, not hidden"
    assert len(made(api)) == 3


def test_past_shifts_are_made_from_a_chosen_time_on(api: Api) -> None:
    since = DAY_START - 24 * HOUR
    report = api.ok("POST", "/reports", {**WANTED, "since_us": since})
    assert report["since_us"] == str(since)
    found = made(api)
    assert [int(one["start_us"]) - DAY_START for one in found] == [
        hours * HOUR for hours in (6, -2, -10, -18)
    ], "newest first; the shift that had begun before is none of them"
    earlier = {**WANTED, "since_us": since - 24 * HOUR, "revision": report["revision"]}
    api.ok("PUT", f"/reports/{report['uid']}", earlier)
    assert len(made(api)) == 7, "three shifts more, the others once"
    same = api.ok("PUT", f"/reports/{report['uid']}", WANTED)
    assert same["since_us"] == str(since - 24 * HOUR), "what is not said stays"
    assert api.field("POST", "/reports", {**WANTED, "name": "All", "since_us": 0}) == "since_us"


def test_a_report_has_figures_with_options(api: Api) -> None:
    lines = [{"member": "Zone 2 exhaust damper", "stat": stat} for stat in ("Percentile 95", "Integral hour")]
    api.ok("POST", "/reports", {**WANTED, "lines": lines})
    (issue,) = made(api)
    text = api.client.get(f"/api/reports/made/{issue['uid']}.csv").content.decode("utf-8-sig")
    rows = list(csv.DictReader(io.StringIO(text)))
    assert {(row["statistic"], row["unit"]) for row in rows} == {
        ("Percentile 95", "%"), ("Integral over hours", "%·h"),
    }  # fmt: skip
    kind = api.ok("GET", "/statistics/kinds")[0]
    asked = {
        "tags": [kind["members"][0]["tags"][0]], "figures": [{"stat": "Percentile", "percent": 95}],
        "windows": [{"start_us": int(issue["start_us"]), "end_us": int(issue["end_us"])}],
    }  # fmt: skip
    (alone,) = api.ok("POST", "/figures", asked)["results"]
    assert float(rows[0]["value"]) == alone["figures"][0]["values"][0]["value"]


def test_what_cannot_be_made_is_said_and_holds_nothing_up(api: Api) -> None:
    api.ok("POST", "/reports", {**WANTED, "name": "Gone", "kind": "Mixer"})
    good = api.ok("POST", "/reports", WANTED)
    assert [one["report"] for one in made(api)] == [good["uid"]]
    listed = {one["name"]: one["problem"] for one in api.ok("GET", "/reports")}
    assert "Mixer" in listed["Gone"]
    assert listed["Dampers"] == ""


def test_of_two_servers_that_make_it_at_once_one_keeps_it(api: Api, store: Store, tmp_path: Path) -> None:
    api.ok("POST", "/reports", WANTED)
    with TestClient(app_of(store, tmp_path)) as client, ThreadPoolExecutor(2) as both:
        other = Api(client)
        counts = list(both.map(lambda one: one.ok("POST", "/reports/make")["made"], [api, other]))
        assert sum(counts) <= 1, "the servers themselves may have made it before"
        assert len(other.ok("GET", "/reports/made")) == 1


def test_a_fault_of_one_report_does_not_end_the_others(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    bad = api.ok("POST", "/reports", {**WANTED, "name": "A"})
    api.ok("POST", "/reports", {**WANTED, "name": "B"})

    def fails_for_a(report: Report) -> dict[str, bytes]:
        if report.title == "A":
            raise RuntimeError("no room on the paper")
        return in_all_forms(report)

    monkeypatch.setattr("cronaca.services.reports.in_all_forms", fails_for_a)
    assert [one["name"] for one in made(api)] == ["B"]
    listed = {one["uid"]: one["problem"] for one in api.ok("GET", "/reports")}
    assert listed[bad["uid"]] == "RuntimeError: no room on the paper"
    monkeypatch.undo()


def test_a_report_is_changed_switched_off_and_removed(api: Api) -> None:
    report = api.ok("POST", "/reports", WANTED)
    path = f"/reports/{report['uid']}"
    assert api.field("POST", "/reports", WANTED) == "name"
    assert api.field("PUT", path, {**WANTED, "lines": []}) == "lines"
    api.ok("PUT", path, {**WANTED, "enabled": False, "revision": 1})
    assert api.refused("PUT", path, {**WANTED, "revision": 1}, 409)
    assert made(api) == []
    api.ok("PUT", path, {**WANTED, "every": "day", "norm": "range"})
    (day,) = made(api)
    assert int(day["end_us"]) - int(day["start_us"]) == 24 * HOUR
    api.ok("DELETE", path)
    assert api.ok("GET", "/reports") == []
    assert [one["uid"] for one in made(api)] == [day["uid"]], "what was made stays"


def test_a_run_that_is_over_is_reported(api: Api, store: Store, clock: Clock) -> None:
    lot = {"name": "Lot", "origin": "change", "tag": api.ok("GET", "/tags")["tags"][0]["uid"]}
    rule = api.ok("POST", "/setup/runs", lot)["uid"]
    api.ok("POST", "/reports", {**WANTED, "every": "run", "rule": rule})
    with store.transaction() as tx:
        number = tx.fetch_one("SELECT rule_id FROM run_rule WHERE uid = %(uid)s", uid=rule)
        assert number is not None
        tx.execute(
            "INSERT INTO run (uid, rule_id, origin, name, start_us, end_us, epoch, start_attributes,"
            " end_attributes)"
            " VALUES (%(uid)s, %(rule)s, 'change', 'Lot 4711', %(start)s, %(end)s, 1, '[]', '[]')",
            uid=rule, rule=number[0], start=NOW - 2 * HOUR, end=NOW + 1,
        )  # fmt: skip
    clock.now_us = NOW + 20 * MINUTE
    (issue,) = made(api)
    assert (issue["period"], int(issue["end_us"])) == ("Lot 4711", NOW + 1)
