"""Tables of figures in the browser: tags by statistics, statistics over stretches, runs side by side."""

from __future__ import annotations

import re
import time
from collections.abc import Iterator

import pytest
from playwright.sync_api import Locator, Page, expect

from cronaca.core.model import HOUR, MINUTE
from cronaca.db import Store
from cronaca.demo.history import LINES, write_history
from cronaca.demo.names import tag_uid
from tests.browser.axe import serious_violations
from tests.browser.ways import open_sheet
from tests.support.application import Application

pytestmark = pytest.mark.browser
STAT = "TimeAverage2"


@pytest.fixture(scope="module")
def application(module_store: Store, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """One line with ten hours of history."""
    found = Application(module_store.address, tmp_path_factory.mktemp("line"))
    end_us = time.time_ns() // 1000
    write_history(found.store, lambda: end_us, lambda _: None, lines=LINES[:1], length_us=10 * HOUR)
    with found.running():
        yield found


def held() -> tuple[int, int]:
    end_us = time.time_ns() // 1000 // MINUTE * MINUTE - HOUR
    return end_us - 8 * HOUR, end_us


def figures_of(row: Locator) -> list[float]:
    texts = row.get_by_role("button").all_inner_texts()
    return [float(re.findall(r":\s+(-?[\d.]+)", text)[0]) for text in texts]


def mean_of(application: Application, uid: str, start_us: int, end_us: int) -> float:
    wanted = {"tags": [uid], "figures": [{"stat": STAT}],
              "windows": [{"start_us": start_us, "end_us": end_us}],
              "configuration": {"treat_uncertain_as_bad": False}}  # fmt: skip
    found = application.send("POST", "/api/figures", wanted)
    return float(found["results"][0]["figures"][0]["values"][0]["value"])


def test_tags_stand_by_statistics_ordered_by_any_column(page: Page, application: Application) -> None:
    start_us, end_us = held()
    open_sheet(page, application, f"held={start_us}/{end_us}", "statistics")
    page.get_by_role("combobox", name="What is shown").select_option("Tags by statistics")
    table = page.get_by_role("table", name="Tags by statistics")
    rows = table.locator("tbody tr")
    expect(rows.first).to_be_visible()
    head = table.get_by_role("columnheader", name="Time-weighted mean")
    for sort, falling in (("descending", True), ("ascending", False)):
        head.get_by_role("button").click()
        expect(head).to_have_attribute("aria-sort", sort)
        means = [figures_of(rows.nth(i))[1] for i in range(rows.count())]
        assert len(means) > 4
        assert means == sorted(means, reverse=falling)
    page.get_by_role("button", name="Figures").click()
    panel = page.get_by_role("form", name="Table")
    panel.get_by_role("button", name="Remove Min").click()
    expect(table.get_by_role("columnheader", name="Min")).to_have_count(0)
    expect(rows.first).to_be_visible()
    assert serious_violations(page) == []


def test_a_figure_over_hours_is_explained_and_its_trend_is_of_that_hour(
    page: Page, application: Application
) -> None:
    start_us, end_us = held()
    uid = tag_uid("temperature_2")
    view = f"form=stretches&tag={uid}&stat={STAT}&per=hour&held={start_us}/{end_us}"
    open_sheet(page, application, view, "statistics")
    table = page.get_by_role("table", name="Statistics over time")
    expect(table.get_by_role("columnheader").nth(8)).to_be_visible()
    heads = table.get_by_role("columnheader").count() - 1
    assert heads in (8, 9), "whole hours, and the parts at the ends"
    second = table.get_by_role("row").nth(1).get_by_role("cell").nth(1).get_by_role("button")
    hour_us = start_us // HOUR * HOUR + HOUR
    shown = float(re.findall(r": ([\d.]+)", second.inner_text().replace("\n", " "))[0])
    assert shown == pytest.approx(mean_of(application, uid, hour_us, hour_us + HOUR), abs=6e-4)
    second.click()
    told = page.get_by_role("dialog", name="How it was made")
    expect(told).to_contain_text("normal")
    told.get_by_role("link", name="Its trend").click()
    expect(page.get_by_test_id("pen-card")).to_have_count(1)
    assert "from=" in page.url and "to=" in page.url


def test_runs_stand_side_by_side(page: Page, application: Application) -> None:
    start_us, _ = held()
    uid = tag_uid("temperature_2")
    spans = [(start_us + i * 2 * HOUR, start_us + (i * 2 + 1) * HOUR) for i in range(3)]
    for i, (start, end) in enumerate(spans):
        application.send(
            "POST", "/api/runs", {"name": f"Trial {i}", "start_us": str(start), "end_us": str(end)}
        )
    open_sheet(page, application, f"form=stretches&tag={uid}&stat={STAT}&last=PT2H", "statistics")
    page.get_by_role("button", name="Figures").click()
    panel = page.get_by_role("form", name="Table")
    panel.get_by_label("Or runs side by side; find").fill("Trial")
    for i in range(3):
        panel.get_by_label(re.compile(f"^Trial {i}")).click()
        expect(panel.get_by_label(re.compile(f"^Trial {i}"))).to_be_checked()
    table = page.get_by_role("table", name="Statistics over time")
    expect(table.get_by_role("columnheader", name=re.compile("^Trial"))).to_have_count(3)
    shown = figures_of(table.locator("tbody tr").first)
    wanted = [mean_of(application, uid, start, end) for start, end in spans]
    assert shown == pytest.approx(wanted, abs=6e-4)
    panel.get_by_label("Stretches of the window").select_option("Early, day after day")
    expect(table.get_by_role("columnheader", name=re.compile("^Trial"))).to_have_count(0)
    assert serious_violations(page) == []
