"""A logger with its tags and its archive from one form."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.axe import serious_violations
from tests.browser.test_setup import choose
from tests.browser.ways import open_setup
from tests.support.application import Application

pytestmark = pytest.mark.browser


def add_signals(application: Application, name: str, count: int) -> None:
    """A source of generated signals with some tags that nothing records."""
    body = {"name": name, "protocol": "generator", "config": {}}
    source = application.send("POST", "/api/setup/sources", body)["uid"]
    plain = {"source": source, "address": {"shape": "sine"}, "value_type": "float"}
    tags = [{"name": f"{name} {n}", **plain} for n in range(1, count + 1)]
    application.send("POST", "/api/setup/tags", {"tags": tags})


def names_of(application: Application, logger: str) -> list[str]:
    found = next(one for one in application.get("/api/setup/loggers") if one["name"] == logger)
    return sorted(application.get(f"/api/setup/tags/{uid}")["name"] for uid in found["tags"])


def test_tags_and_a_new_archive_are_chosen_where_the_logger_is_made(page: Page, shared: Application) -> None:
    add_signals(shared, "Trial rig", 3)
    open_setup(page, shared, "Loggers")
    page.get_by_role("button", name="Add a logger").click()
    form = page.get_by_role("form", name="A new logger")
    form.get_by_label("Name", exact=True).fill("Trial")
    form.get_by_label("Archive", exact=True).select_option("a new one …")
    choose(page, "When", "periodic")
    choose(page, "of the source", "Trial rig")
    form.get_by_role("button", name="Add all 3 tags").click()
    expect(form.get_by_role("list", name="Tags of the new logger").get_by_role("listitem")).to_have_count(3)
    assert serious_violations(page) == []
    form.get_by_role("button", name="Remove Trial rig 2").click()

    # The archive needs a name, and one that is free; nothing typed is lost meanwhile.
    form.get_by_role("button", name="Add", exact=True).click()
    expect(form.get_by_text("Give the archive a name.")).to_be_visible()
    archive = form.get_by_label("Name of the new archive")
    archive.fill(shared.get("/api/setup/archives")[0]["name"])
    form.get_by_role("button", name="Add", exact=True).click()
    expect(form.get_by_role("button", name="Add", exact=True)).to_be_enabled()
    expect(archive).to_have_attribute("aria-invalid", "true")
    assert "Trial" not in str(shared.get("/api/setup/loggers"))
    archive.fill("Trial values")
    form.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name=re.compile("^Trial .*every 1 s.*Trial values"))).to_be_visible()
    assert names_of(shared, "Trial") == ["Trial rig 1", "Trial rig 3"]


def test_tags_are_added_from_the_logger_s_side(page: Page, shared: Application) -> None:
    add_signals(shared, "Second rig", 4)
    open_setup(page, shared, "Loggers")
    page.get_by_role("button", name="Line 1 every second", exact=True).click()
    form = page.get_by_role("form", name="Line 1 every second")
    before = names_of(shared, "Line 1 every second")
    form.get_by_role("button", name="Add tags …").click()
    form.get_by_label("Find tags").fill("rig second")
    form.get_by_role("button", name="Add Second rig 2").click()
    expect(form.get_by_role("button", name="Add Second rig 2")).to_have_count(0)
    expect(form.get_by_text(f"{len(before) + 1} tags", exact=True)).to_be_visible()
    form.get_by_role("button", name="Add all 3 tags").click()
    expect(form.get_by_text(f"{len(before) + 4} tags", exact=True)).to_be_visible()
    added = {f"Second rig {n}" for n in (1, 2, 3, 4)}
    assert set(names_of(shared, "Line 1 every second")) == {*before, *added}
