"""Forms as people use them: two at once, half typed, left in the middle, with Enter; and the keys.

All start at the address that the application prints, and only click, type and press keys."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from cronaca.db import Store
from cronaca.demo.names import tag_uid
from tests.browser.axe import serious_violations
from tests.browser.rest import address
from tests.browser.ways import deafen, go, open_setup
from tests.support.application import Application, wait_for
from tests.support.signed_in import has_signed_in

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def application(module_store: Store, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """One for all: each test changes what no other looks at."""
    found = Application(module_store.address, tmp_path_factory.mktemp("forms"))
    with found.running():
        yield found


def hold_a_trend(page: Page, application: Application) -> str:
    """A trend that is held, with the pointer over its plot; the window that it shows."""
    go(page, application, "Trends")
    expect(page.get_by_test_id("pen-value").first).not_to_have_text("–")
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")
    plot = page.get_by_test_id("plot").first.bounding_box()
    assert plot is not None
    page.mouse.move(plot["x"] + plot["width"] / 2, plot["y"] + plot["height"] / 2)
    return page.get_by_test_id("window-text").inner_text()


def open_logger(page: Page, application: Application, name: str) -> None:
    go(page, application, "Set-up", "Loggers")
    page.get_by_role("button", name=name, exact=True).click()
    expect(page.get_by_role("form", name=name)).to_be_visible()


class TestTwoPeople:
    def test_a_conflict_shows_both_versions_and_lets_one_choose(
        self, page: Page, other: Page, application: Application
    ) -> None:
        deafen(page)
        open_logger(page, application, "Line 1 contacts")
        open_logger(other, application, "Line 1 contacts")
        other.get_by_label("Name", exact=True).fill("Doors")
        other.get_by_label("Deadband").fill("2")
        other.get_by_role("button", name="Save").click()
        expect(other.get_by_role("status").filter(has_text="Saved")).to_be_visible()
        page.get_by_label("Name", exact=True).fill("Jams")
        page.get_by_role("button", name="Save").click()
        both = page.get_by_role("table", name="Both versions")
        expect(both.get_by_role("row").nth(1)).to_contain_text("JamsDoors")
        expect(page.get_by_role("alert")).to_contain_text("changed by Lucia Greco since you opened it")
        expect(page.get_by_label("Name", exact=True)).to_have_value("Jams")
        expect(page.get_by_label("Deadband")).to_have_value("2")
        both.get_by_role("button", name="Take their name").click()
        expect(page.get_by_label("Name", exact=True)).to_have_value("Doors")
        page.get_by_label("Name", exact=True).fill("Line 1 contacts")
        page.get_by_label("Deadband").fill("0")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()
        names = {one["name"]: one for one in application.get("/api/setup/loggers")}
        assert names["Line 1 contacts"]["rule"]["width"] == 0
        assert "Doors" not in names

    @pytest.mark.parametrize("hears", [True, False])
    def test_what_is_typed_outlives_a_change_by_somebody_else(
        self, page: Page, application: Application, hears: bool
    ) -> None:
        if not hears:
            deafen(page)
        decimals = 3 if hears else 4
        go(page, application, "Set-up", "Tags")
        page.get_by_label("Find", exact=True).fill("Cooler product moisture")
        page.get_by_role("button", name="Line 1 Cooler product moisture").click()
        typed = f"Behind the cooler, {decimals} decimals"
        page.get_by_label("Description").fill(typed)
        (row,) = application.get("/api/setup/tags?search=Cooler%20product%20moisture")["tags"]
        body = {"uids": [row["uid"]], "attributes": {"decimals": decimals}, "revisions": {}, "dry_run": False}
        application.send("PATCH", "/api/setup/tags", body)
        if not hears:
            page.get_by_role("button", name="Save").click()
            expect(page.get_by_text("The other version is in the form now")).to_be_visible()
        expect(page.get_by_label("Decimals")).to_have_value(str(decimals))
        expect(page.get_by_label("Description")).to_have_value(typed)
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()
        (row,) = application.get("/api/setup/tags?search=Cooler%20product%20moisture")["tags"]
        assert (row["description"], row["decimals"]) == (typed, decimals)

    def test_a_clash_is_shown_as_soon_as_the_other_has_saved(
        self, page: Page, application: Application
    ) -> None:
        (archive,) = application.get("/api/setup/archives")[:1]
        body = {"name": "Drafts", "archive": archive["uid"], "mode": "on_change", "tags": []}
        made = application.send("POST", "/api/setup/loggers", body)
        open_logger(page, application, "Drafts")
        page.get_by_label("Name", exact=True).fill("Mine")
        body = {**body, "name": "Theirs", "revision": made["revision"]}
        application.send("PUT", f"/api/setup/loggers/{made['uid']}", body)
        both = page.get_by_role("table", name="Both versions")
        expect(both.get_by_role("row").nth(1)).to_contain_text("MineTheirs")
        expect(page.get_by_label("Name", exact=True)).to_have_value("Mine")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()
        assert "Mine" in {one["name"] for one in application.get("/api/setup/loggers")}


class TestLeaving:
    def test_what_is_not_saved_is_asked_about(self, page: Page, application: Application) -> None:
        open_logger(page, application, "Line 1 every second")
        field = page.get_by_label("Name", exact=True)
        ask = page.get_by_role("dialog", name="Discard what is not saved?")
        field.fill("Half a name")
        page.get_by_role("button", name="Line 1 contacts", exact=True).click()
        ask.get_by_role("button", name="Stay").click()
        expect(field).to_have_value("Half a name")
        page.get_by_role("button", name="Close", exact=True).click()
        page.keyboard.press("Escape")
        expect(ask).to_have_count(0)
        expect(field).to_have_value("Half a name")
        page.get_by_role("navigation", name="Sections").get_by_role("link", name="Trends").click()
        ask.get_by_role("button", name="Stay").click()
        expect(field).to_have_value("Half a name")
        page.get_by_role("navigation", name="Sections").get_by_role("link", name="Records").click()
        ask.get_by_role("button", name="Discard").click()
        expect(page.get_by_role("heading", name="Records", level=1)).to_be_visible()

    def test_the_link_of_the_page_itself_asks_too(self, page: Page, application: Application) -> None:
        open_setup(page, application, "Tags")
        page.get_by_role("button", name="Add tags").click()
        form = page.get_by_role("form", name="New tags")
        form.get_by_label("Name", exact=True).fill("Half a tag")
        parts = page.get_by_role("navigation", name="Set-up")
        parts.get_by_role("link", name="Tags").click()
        ask = page.get_by_role("dialog", name="Discard what is not saved?")
        ask.get_by_role("button", name="Stay").click()
        expect(form.get_by_label("Name", exact=True)).to_have_value("Half a tag")
        parts.get_by_role("link", name="Tags").click()
        ask.get_by_role("button", name="Discard").click()
        expect(form).to_have_count(0)

    def test_nothing_is_asked_where_nothing_was_changed(self, page: Page, application: Application) -> None:
        open_logger(page, application, "Line 1 every second")
        page.get_by_label("Name", exact=True).fill("Other")
        page.get_by_label("Name", exact=True).fill("Line 1 every second")
        page.get_by_role("button", name="Line 1 contacts", exact=True).click()
        expect(page.get_by_role("form", name="Line 1 contacts")).to_be_visible()
        page.get_by_role("navigation", name="Sections").get_by_role("link", name="Runs").click()
        expect(page.get_by_role("heading", name="Runs", level=1)).to_be_visible()


class TestRemoving:
    def test_it_is_asked_for_once_more_and_that_is_not_carried_over(
        self, page: Page, application: Application
    ) -> None:
        for name in ("Empty 1", "Empty 2"):
            application.send("POST", "/api/setup/archives", {"name": name})
        go(page, application, "Set-up", "Archives")
        page.get_by_role("button", name="Empty 1").click()
        page.get_by_role("button", name="Remove …").click()
        page.get_by_role("button", name="Empty 2").click()
        expect(page.get_by_role("form", name="Empty 2")).to_be_visible()
        expect(page.get_by_role("button", name=re.compile("^Remove Empty"))).to_have_count(0)
        page.get_by_role("button", name="Remove …").click()
        page.get_by_role("button", name="Cancel").click()
        page.get_by_role("button", name="Remove …").click()
        page.get_by_role("button", name="Remove Empty 2").click()
        expect(page.get_by_role("row", name=re.compile("Empty 2"))).to_have_count(0)
        expect(page.get_by_role("row", name=re.compile("Empty 1"))).to_have_count(1)

    def test_it_is_said_and_taken_back_with_all_that_went_along(
        self, page: Page, application: Application
    ) -> None:
        source = application.send("POST", "/api/setup/sources", {"name": "Spare", "protocol": "internal"})
        tag = {"name": "Spare level", "source": source["uid"], "address": {"initial": 5}, "range_high": 50.0}
        (uid,) = application.send("POST", "/api/setup/tags", {"tags": [tag]})["uids"]
        archive = application.send("POST", "/api/setup/archives", {"name": "Spare values"})
        logger = {"name": "Spare logger", "archive": archive["uid"], "mode": "on_change", "tags": [uid]}
        application.send("POST", "/api/setup/loggers", logger)
        go(page, application, "Set-up", "Sources")
        page.get_by_role("button", name="Spare", exact=True).click()
        page.get_by_role("button", name="Remove …").click()
        page.get_by_role("button", name="Remove Spare").click()
        expect(page.get_by_role("row", name=re.compile("^Spare"))).to_have_count(0)
        said = page.get_by_role("status").filter(has_text="Spare is removed.")
        expect(said).to_be_visible()
        assert serious_violations(page) == []
        said.get_by_role("button", name="Undo").press("Enter")
        expect(page.get_by_role("status").filter(has_text="Spare is back.")).to_be_visible()
        expect(page.get_by_role("row", name=re.compile("^Spare"))).to_have_count(1)
        go(page, application, "Set-up", "Loggers")
        row = page.get_by_role("row", name=re.compile("^Spare logger"))
        expect(row.get_by_role("cell").nth(4)).to_have_text("1")

    def test_what_is_refused_does_not_look_done(self, page: Page, application: Application) -> None:
        go(page, application, "Set-up", "Archives")
        page.get_by_role("button", name="Process values").click()
        page.get_by_role("button", name="Remove …").click()
        page.get_by_role("button", name="Remove Process values").click()
        expect(page.get_by_role("alert").filter(has_text="record into it")).to_be_visible()
        expect(page.get_by_role("row", name=re.compile("Process values"))).to_have_count(1)

    def test_a_run_of_a_person(self, page: Page, application: Application) -> None:
        go(page, application, "Runs")
        page.get_by_label("New run").fill("Trial 9")
        page.keyboard.press("Enter")
        page.get_by_role("row", name=re.compile("Trial 9")).get_by_role("button").click()
        page.get_by_role("button", name="Remove …").click()
        expect(page.get_by_role("button", name="Remove Trial 9")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.get_by_role("row", name=re.compile("Trial 9"))).to_have_count(0)


class TestEnter:
    def test_in_an_inner_field_it_does_its_own_action_and_a_value_outside_is_asked_about(
        self, page: Page, application: Application
    ) -> None:
        source = application.send(
            "POST", "/api/setup/sources", {"name": "Set points", "protocol": "internal"}
        )
        tag = {"name": "Limit", "source": source["uid"], "address": {"initial": 5}, "range_high": 50.0}
        application.send("POST", "/api/setup/tags", {"tags": [tag]})
        go(page, application, "Set-up", "Tags")
        page.get_by_role("button", name="Limit", exact=True).click()
        page.get_by_label("Description").fill("Not to be saved by Enter")
        page.get_by_label("Write a value").fill("500")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("500 is outside the range of Limit, 0 to 50")
        page.get_by_role("button", name="Cancel").click()
        page.get_by_label("Write a value").fill("40")
        written = page.get_by_role("status").filter(has_text="Written")

        def write() -> bool:
            if not written.is_visible():
                page.get_by_label("Write a value").press("Enter")
            return written.is_visible()

        # The tag is at work within 2 s of being added.
        wait_for(write, 20, "the value's writing")
        (row,) = application.get("/api/setup/tags?search=Limit")["tags"]
        assert row["description"] == "", "Enter in the inner field did not save the form"


class TestKeysAndPages:
    def test_a_tag_is_found_from_every_page_with_the_keys_alone(
        self, page: Page, application: Application
    ) -> None:
        for section in ("Runs", "Set-up", "Statistics", "Records"):
            go(page, application, section)
            page.keyboard.press("Control+k")
            field = page.get_by_role("combobox", name="Find a tag, sheet, page or action")
            expect(field).to_be_focused()
            page.keyboard.press("Escape")
            expect(field).to_have_count(0)
        page.keyboard.press("Control+k")
        page.keyboard.type("Cooler product moist")
        hit = page.get_by_role("option", name=re.compile("Cooler product moisture"))
        expect(hit).to_have_count(1)
        page.keyboard.press("Enter")
        expect(page.get_by_test_id("pen-card")).to_contain_text("Cooler product moisture")

    def test_a_page_a_sheet_and_an_action_are_found_and_a_tag_becomes_a_pen_of_the_trend(
        self, page: Page, application: Application
    ) -> None:
        body = {"name": "Head and screw", "folder": "Press", "view": f"tags={tag_uid('head_pressure')}"}
        application.send("POST", "/api/sheets", body)
        go(page, application, "Runs")

        def find(text: str, hit: str) -> None:
            page.keyboard.press("Control+k")
            expect(page.get_by_role("combobox")).to_be_focused()
            page.keyboard.type(text)
            expect(page.get_by_role("option").first).to_contain_text(hit)
            page.keyboard.press("Enter")

        find("set-up arch", "Set-up: Archives")
        expect(page.get_by_role("heading", name="Archives", level=1)).to_be_visible()
        find("files made", "Files made in the background")
        expect(page.get_by_role("heading", name="Files", level=1)).to_be_visible()
        find("head and", "Head and screw")
        expect(page.get_by_test_id("pen-card")).to_have_count(1)
        expect(page.get_by_test_id("pen-card")).to_contain_text("Press head pressure")
        find("cooler product moist", "Cooler product moisture")
        expect(page.get_by_test_id("pen-card")).to_have_count(2)
        expect(page.get_by_test_id("pen-card").nth(1)).to_contain_text("Cooler product moisture")
        find("figures", "Figures")  # what the page can do is found by the name of its button
        expect(page.get_by_role("region", name="Figures")).to_be_visible()
        find("hold", "Hold")
        expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")
        find("export", "Export")
        expect(page.get_by_role("menuitem", name="Print, or PDF")).to_be_visible()
        page.keyboard.press("Escape")
        for theme in ("night", "day"):
            page.keyboard.press("Control+k")
            expect(page.get_by_role("option", name="Statistics", exact=True)).to_be_visible()
            assert serious_violations(page) == []
            page.keyboard.press("Escape")
            find(f"change to {theme}", f"Change to {theme}")

    def test_on_a_trend_arrows_go_down_the_hits_and_escape_gives_the_focus_back(
        self, page: Page, application: Application
    ) -> None:
        go(page, application, "Trends")
        expect(page.get_by_test_id("pen-card").first).to_be_visible()
        count = page.get_by_test_id("pen-card").count()
        sheets = page.get_by_role("button", name="Sheets")
        sheets.focus()
        page.keyboard.press("p")
        expect(page.get_by_label("Find a tag", exact=True)).to_be_focused()
        page.keyboard.type("Zone")
        rows = page.get_by_test_id("tag-list").get_by_role("button")
        expect(rows.filter(has_not_text="Zone")).to_have_count(0)  # the hits, no more the list of all
        expect(rows.first).to_contain_text("Zone")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
        expect(sheets).to_be_focused()
        expect(page.get_by_test_id("pen-card")).not_to_have_count(count)

    def test_the_hit_that_one_moved_to_is_taken_though_newer_hits_are_on_their_way(
        self, page: Page, application: Application
    ) -> None:
        go(page, application, "Trends")
        expect(page.get_by_test_id("pen-card").first).to_be_visible()
        page.keyboard.press("p")
        expect(page.get_by_label("Find a tag", exact=True)).to_be_focused()
        page.keyboard.type("Zon")
        rows = page.get_by_test_id("tag-list").get_by_role("button")
        expect(rows.filter(has_not_text="Zone")).to_have_count(0)
        expect(rows.first).to_contain_text("Zone")
        page.route(re.compile("search=Zone"), lambda _: None)  # no answer comes
        page.keyboard.type("e")
        page.keyboard.press("ArrowDown")
        pressed = rows.first.get_attribute("aria-pressed")
        page.keyboard.press("Enter")
        expect(rows.first).not_to_have_attribute("aria-pressed", pressed or "")

    def test_letters_do_nothing_while_a_menu_has_the_focus(
        self, page: Page, application: Application
    ) -> None:
        go(page, application, "Trends")
        live = page.get_by_role("button", name="Live")
        expect(live).to_have_attribute("aria-pressed", "true")
        page.get_by_role("button", name="Export").click()
        expect(page.get_by_role("menu")).to_be_visible()
        page.keyboard.press("l")
        page.keyboard.press("Escape")
        expect(page.get_by_role("menu")).to_have_count(0)
        expect(live).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("l")
        expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")

    @pytest.mark.parametrize("path", ["/nowhere", "/setup/nowhere", "/trends/nowhere"])
    def test_an_address_that_leads_nowhere_says_so_with_ways_on(
        self, page: Page, application: Application, path: str
    ) -> None:
        page.goto(application.url + path)  # as somebody types it
        expect(page.get_by_role("heading", name="No such page")).to_be_visible()
        page.locator("main").get_by_role("list").get_by_role("link").first.click()
        expect(page.get_by_role("heading", level=1)).not_to_have_text("No such page")

    def test_a_turn_of_the_wheel_is_taken_back_whole_and_the_address_keeps_up(
        self, page: Page, application: Application
    ) -> None:
        before = hold_a_trend(page, application)
        window, held = page.get_by_test_id("window-text"), address(page)
        for i in range(120):  # browsers drop changes of the address that come too thick
            page.mouse.wheel(0, -100 if i % 2 else 100)
        page.mouse.wheel(0, -100)
        page.mouse.wheel(0, -100)
        # As many turns in as out lead back to where they began, so two are left: 10 min * 0.8 * 0.8.
        length = page.get_by_role("region", name="Time rail")
        expect(length).to_contain_text("6 min 24 s")
        shown = window.inner_text()
        assert shown != before and address(page) != held
        page.reload()
        expect(window).to_have_text(shown)
        expect(length).to_contain_text("6 min 24 s")

    def test_undo_takes_back_the_wheel(self, page: Page, application: Application) -> None:
        before = hold_a_trend(page, application)
        window = page.get_by_test_id("window-text")
        for _ in range(5):
            page.mouse.wheel(0, -100)
        expect(window).not_to_have_text(before)
        page.keyboard.press("0")
        expect(window).to_have_text(before)

    def test_a_tag_that_joins_comes_over_the_connection_that_stands(
        self, page: Page, application: Application
    ) -> None:
        opened: list[str] = []
        page.on("websocket", lambda socket: opened.append(socket.url))
        go(page, application, "Trends")
        expect(page.get_by_test_id("pen-value").first).not_to_have_text("–")
        page.keyboard.press("p")
        page.get_by_label("Find a tag", exact=True).fill("Press vacuum")
        page.keyboard.press("Enter")
        expect(page.get_by_test_id("tag-list").get_by_role("button", pressed=True)).to_have_count(1)
        page.keyboard.press("Escape")
        card = page.get_by_test_id("pen-card").filter(has_text="Press vacuum")
        expect(card.get_by_test_id("pen-value")).not_to_have_text("–")
        assert len([url for url in opened if url.endswith("/api/live")]) == 1


class TestPhone:
    @pytest.fixture
    def phone(self, browser: Browser) -> Iterator[Page]:
        context = browser.new_context(
            viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, reduced_motion="reduce"
        )
        has_signed_in(context)
        yield context.new_page()
        context.close()

    def test_a_tap_on_the_plot_gives_a_reading_that_stays(
        self, phone: Page, application: Application
    ) -> None:
        go(phone, application, "Trends")
        expect(phone.get_by_test_id("pen-value").first).not_to_have_text("–")
        plot = phone.get_by_test_id("plot").first.bounding_box()
        assert plot is not None
        x, y = plot["x"] + plot["width"] * 0.6, plot["y"] + 60
        phone.touchscreen.tap(x, y)
        line = phone.get_by_test_id("cursor-line")
        expect(line).to_be_visible()
        expect(phone.get_by_test_id("pen-card").first).to_contain_text(
            re.compile("interpolated|recorded|held|no data")
        )
        phone.touchscreen.tap(30, 60)
        expect(line).to_be_visible()

    def test_what_was_tapped_far_down_a_list_opens_in_view(
        self, phone: Page, application: Application
    ) -> None:
        go(phone, application, "Set-up", "Tags")
        rows = phone.get_by_role("table", name="Tags").get_by_role("row")
        expect(rows.nth(20)).to_be_attached()
        row = rows.last
        row.scroll_into_view_if_needed()
        name = row.get_by_role("button").first
        text = name.inner_text()
        name.tap()
        panel = phone.get_by_role("form", name=text)
        expect(panel.get_by_role("heading", name=text)).to_be_in_viewport()

    def test_controls_are_as_high_as_a_finger_and_nothing_scrolls_sideways(
        self, phone: Page, application: Application
    ) -> None:
        for section in ("Trends", "Statistics", "Records", "Runs", "Set-up"):
            go(phone, application, section)
            low = (
                phone.get_by_role("main")
                .get_by_role("button")
                .evaluate_all(
                    """all => all.filter((one) => one.matches('.MuiButton-root, .MuiIconButton-root'))
                    .filter((one) => one.offsetParent !== null && one.getBoundingClientRect().height < 43.5)
                    .map((one) => one.ariaLabel ?? one.textContent)"""
                )
            )
            assert low == [], section
            assert phone.evaluate("document.documentElement.scrollWidth <= window.innerWidth"), section
