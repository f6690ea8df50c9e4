"""A table of tags from another program is brought in: its columns are mapped, and known the next time."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.axe import serious_in_both_themes
from tests.browser.ways import open_setup
from tests.support.application import Application

pytestmark = pytest.mark.browser

TABLE = (
    "Symbol;Data type;Address;Comment;EU\n"
    "L5 Air temperature;REAL;30411;Air after the fan;degC\n"
    "L5 Door;BOOL;10005;Dryer door;\n"
)


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module."""
    return shared


def choose(page: Page, application: Application, file: Path) -> None:
    open_setup(page, application, "Tags")
    page.get_by_role("link", name="Import", exact=True).click()
    page.get_by_label("File with tags").set_input_files(file)


def test_a_table_of_another_program_is_mapped_and_brought_in(
    page: Page, application: Application, tmp_path: Path
) -> None:
    (file := tmp_path / "symbols.csv").write_text(TABLE)
    choose(page, application, file)
    mapping = page.get_by_role("region", name="Columns of the file")
    expect(mapping).to_contain_text("The columns have other names")
    expect(mapping.get_by_label("Name: column")).to_have_value("Symbol")
    expect(mapping.get_by_label("Register, as 40001: column")).to_have_value("Address")
    expect(page.get_by_role("alert").filter(has_text="source")).to_be_visible()
    expect(page.get_by_role("button", name="Import", exact=True)).to_be_disabled()

    mapping.get_by_role("group", name="Source").get_by_label("Source", exact=True).select_option(
        "Line 1 controller"
    )
    mapping.get_by_label("degC becomes").fill("°C")
    expect(page.get_by_text("This is what the file would do.")).to_be_visible()
    expect(page.get_by_text("New: L5 Air temperature, L5 Door")).to_be_visible()
    assert serious_in_both_themes(page) == []
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page.get_by_text("Written")).to_be_visible()
    (air,) = application.get("/api/setup/tags?search=L5%20Air")["tags"]
    assert (air["unit"], air["description"]) == ("°C", "Air after the fan")
    place = {key: air["address"][key] for key in ("table", "address", "data_type")}
    assert place == {"table": "input_register", "address": 410, "data_type": "float32"}

    choose(page, application, file)
    expect(mapping).to_contain_text("mapped as the last time")
    expect(mapping.get_by_label("degC becomes")).to_have_value("°C")
    expect(page.get_by_text("2 lines, 2 passed over")).to_be_visible()
