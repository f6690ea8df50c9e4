"""Accounts by the hands of people: the first one, signing in, a session that ends in mid-work."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path
from urllib.error import HTTPError
from urllib.request import Request, urlopen

import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from cronaca.db import Store
from tests.browser.axe import serious_violations
from tests.browser.ways import go
from tests.support.application import Application, wait_for

pytestmark = pytest.mark.browser
ADMIN, ADMIN_WORD = "Marta Olm", "kettle drift marble oyster"
ENGINEER, FIRST_WORD, OWN_WORD = "jonas", "violet anchor staple ribbon", "granite pepper window swan"


@pytest.fixture
def application(empty_store: Store, tmp_path: Path) -> Iterator[Application]:
    """One without accounts."""
    found = Application(empty_store.address, tmp_path, has_people=False)
    with found.running():
        yield found


@pytest.fixture
def other(browser: Browser) -> Iterator[Page]:
    """Another person's browser."""
    context = browser.new_context()
    yield context.new_page()
    context.close()


def sign_in(page: Page, name: str, password: str) -> Locator:
    dialog = page.get_by_role("dialog", name="Sign in")
    dialog.get_by_label("Name").fill(name)
    dialog.get_by_label("Password").fill(password)
    dialog.get_by_label("Password").press("Enter")
    return dialog


def set_up_admin(page: Page, application: Application) -> None:
    """From the printed address, by the code that the server printed."""
    found = re.search(r"Code for the first administrator.*?([0-9a-f]{8})", application.log("server"))
    assert found is not None
    page.goto(application.url)
    assert serious_violations(page) == []
    form = page.get_by_role("form", name="The first administrator")
    form.get_by_label("Name", exact=True).fill(ADMIN)
    form.get_by_label("Password", exact=True).fill(ADMIN_WORD)
    form.get_by_label("New password again").fill("another one")
    form.get_by_label("Code").fill("wrong")
    form.get_by_role("button", name="Set up").click()
    expect(form).to_contain_text("The two passwords differ.")
    form.get_by_label("New password again").fill(ADMIN_WORD)
    form.get_by_role("button", name="Set up").click()
    expect(form).to_contain_text("Copy the code that this server printed")
    form.get_by_label("Code").fill(found[1])
    form.get_by_role("button", name="Set up").click()
    expect(page.get_by_role("button", name=f"Account: {ADMIN}")).to_be_visible()
    go(page, application, "Set-up", "People")
    expect(page.get_by_role("row", name=re.compile(ADMIN))).to_contain_text("administrator")


def add_engineer(page: Page) -> None:
    page.get_by_role("button", name="Add a person").click()
    form = page.get_by_role("form", name="A new person")
    form.get_by_label("Name", exact=True).fill(ENGINEER)
    form.get_by_label("Role").select_option("engineer")
    form.get_by_label("First password").fill("too short")
    form.get_by_role("button", name="Add", exact=True).click()
    expect(form).to_contain_text("Give at least 12")
    form.get_by_label("First password").fill(FIRST_WORD)
    form.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name=re.compile(ENGINEER))).to_contain_text("password to be changed")


def begin_as_engineer(page: Page, application: Application) -> None:
    page.goto(application.url)
    expect(sign_in(page, ENGINEER, "wrong")).to_contain_text("The name or the password is wrong.")
    sign_in(page, ENGINEER, FIRST_WORD)
    dialog = page.get_by_role("dialog", name="Change your password")
    dialog.get_by_label("Present password").fill(FIRST_WORD)
    dialog.get_by_label("New password", exact=True).fill(OWN_WORD)
    dialog.get_by_label("New password again").fill(OWN_WORD)
    dialog.get_by_role("button", name="Change password").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("button", name=f"Account: {ENGINEER}")).to_be_visible()


def test_from_the_first_start_to_a_person_who_works_signs_out_and_is_refused(
    page: Page, other: Page, application: Application
) -> None:
    set_up_admin(page, application)
    add_engineer(page)
    assert serious_violations(page) == []
    begin_as_engineer(other, application)

    # Not theirs: people are managed by administrators. A link that somebody sent says so.
    go(other, application, "Set-up", "Plant")
    expect(other.get_by_role("link", name="People")).to_have_count(0)
    other.goto(f"{application.url}/setup/people")
    expect(other.locator("main")).to_contain_text("not have the permission for this: Manage people.")
    expect(other.get_by_role("button", name="Add a person")).to_have_count(0)

    # In mid-work the session ends: what was typed stays, and is saved after signing in again.
    go(other, application, "Set-up", "Plant")
    name = other.get_by_label("Name", exact=True)
    name.fill("Ombralta east")
    page.get_by_role("row", name=re.compile(ENGINEER)).get_by_role("button").click()
    panel = page.get_by_role("form", name=ENGINEER)
    panel.get_by_role("button", name="Sign out everywhere").click()
    dialog = other.get_by_role("dialog", name="Sign in")
    expect(dialog).to_contain_text("What you typed on the page is still there.")
    expect(dialog.get_by_label("Name")).to_have_value(ENGINEER)
    assert serious_violations(other) == []
    sign_in(other, ENGINEER, OWN_WORD)
    expect(dialog).to_have_count(0)
    expect(name).to_have_value("Ombralta east")
    other.get_by_role("button", name="Save", exact=True).click()
    expect(other.get_by_text("Saved")).to_be_visible()

    # Who has forgotten a password gets another one, and changes it.
    panel.get_by_label("New password").fill(FIRST_WORD)
    panel.get_by_role("button", name="Set password").click()
    expect(page.get_by_text("The password is set")).to_be_visible()
    expect(dialog).to_be_visible()
    sign_in(other, ENGINEER, FIRST_WORD)
    expect(other.get_by_role("dialog", name="Change your password")).to_be_visible()


def status_of(request: Request) -> int:
    try:
        with urlopen(request, timeout=10) as answer:
            return int(answer.status)
    except HTTPError as exc:
        return exc.code


def test_one_sees_and_ends_ones_sessions(page: Page, other: Page, application: Application) -> None:
    set_up_admin(page, application)
    other.goto(application.url)
    sign_in(other, ADMIN, ADMIN_WORD)
    expect(other.get_by_role("button", name=f"Account: {ADMIN}")).to_be_visible()
    page.get_by_role("button", name=f"Account: {ADMIN}").click()
    menu = page.get_by_role("dialog", name=f"Account of {ADMIN}")
    lines = menu.get_by_role("region", name="Sessions").get_by_role("listitem")
    expect(lines).to_have_count(2)
    assert serious_violations(page) == []
    tokens = menu.get_by_role("region", name="Tokens for programs")
    tokens.get_by_role("button", name="Make a token").click()
    tokens.get_by_role("button", name="Make a token").click()
    expect(tokens).to_contain_text("Give the program a name.")
    tokens.get_by_label("Name of the program").fill("Shift report")
    tokens.get_by_role("button", name="Make a token").click()
    token = tokens.get_by_label("The token of Shift report").inner_text()
    assert serious_violations(page) == []
    bearer = Request(f"{application.url}/api/tags?limit=1", headers={"Authorization": f"Bearer {token}"})
    with urlopen(bearer, timeout=10) as answer:
        assert len(json.load(answer)["tags"]) == 1
    tokens.get_by_role("listitem").get_by_role("button", name="Revoke").click()
    expect(tokens.get_by_role("listitem")).to_have_count(0)
    wait_for(lambda: status_of(bearer) == 401, 20, "the end of the token")
    menu.get_by_role("button", name="Sign out everywhere else").click()
    expect(lines).to_have_count(1)
    expect(other.get_by_role("dialog", name="Sign in")).to_be_visible()
    menu.get_by_role("button", name="Sign out", exact=True).click()
    expect(page.get_by_role("dialog", name="Sign in")).to_be_visible()


def test_guests_look_and_sign_in_where_they_are_for_what_they_may_not_do(
    page: Page, other: Page, application: Application
) -> None:
    set_up_admin(page, application)
    other.goto(application.url)
    expect(other.get_by_role("dialog", name="Sign in")).to_be_visible()
    expect(other.locator("main")).to_have_count(0)
    assert serious_violations(other) == []
    page.get_by_role("switch", name="Guests may look").click()
    expect(page.get_by_role("switch", name="Guests may look")).to_be_checked()
    wait_for(lambda: status_of(Request(f"{application.url}/api/tags?limit=1")) == 200, 20, "the guest view")

    other.reload()
    expect(other.get_by_test_id("pen-card").first).to_be_visible()
    # What they may not do is not offered, and what is set up can be read.
    go(other, application, "Set-up", "Loggers")
    other.get_by_role("button", name="Line 1 contacts").click()
    panel = other.get_by_role("form", name="Line 1 contacts")
    expect(panel).to_contain_text("Guests may not do this: Change the set-up. Sign in as somebody who may.")
    expect(panel.get_by_label("Name", exact=True)).to_be_disabled()
    for name in ("Save", "Remove …", "Duplicate", "One sample now"):
        expect(panel.get_by_role("button", name=name)).to_have_count(0)
    expect(other.get_by_role("button", name="Add a logger")).to_have_count(0)
    assert serious_violations(other) == []
    go(other, application, "Runs")
    expect(other.get_by_label("New run")).to_have_count(0)
    other.get_by_role("button", name="Sign in").click()
    dialog = other.get_by_role("dialog", name="Sign in")
    dialog.get_by_role("button", name="Go on as a guest").click()
    expect(dialog).to_have_count(0)
    other.get_by_role("button", name="Sign in").click()
    sign_in(other, ADMIN, ADMIN_WORD)
    expect(other.get_by_role("button", name=f"Account: {ADMIN}")).to_be_visible()
    expect(other.get_by_label("New run")).to_be_visible()


def test_a_role_of_ones_own_is_made_given_and_changed(page: Page, application: Application) -> None:
    set_up_admin(page, application)
    page.get_by_role("button", name="Add a role").click()
    panel = page.get_by_role("form", name="A new role")
    panel.get_by_label("Name of the role").fill("Engineer")
    panel.get_by_role("button", name="Add", exact=True).click()
    expect(panel).to_contain_text("There is a role 'Engineer'")
    panel.get_by_label("Name of the role").fill("Shift leader")
    panel.get_by_role("switch", name="Write notes, mark runs").click()
    panel.get_by_role("button", name="Add", exact=True).click()
    table = page.get_by_role("table", name="Roles and permissions")
    expect(table.get_by_role("columnheader", name="Shift leader")).to_be_visible()
    panel = page.get_by_role("form", name="Shift leader")
    expect(panel).to_contain_text("Nobody has this role yet.")
    assert serious_violations(page) == []
    page.get_by_role("button", name="Add a person").click()
    form = page.get_by_role("form", name="A new person")
    form.get_by_label("Name", exact=True).fill(ENGINEER)
    form.get_by_label("Role").select_option(label="Shift leader")
    form.get_by_label("First password").fill(FIRST_WORD)
    form.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name=re.compile(ENGINEER))).to_contain_text("Shift leader")
    page.get_by_role("button", name="Edit Shift leader").click()
    expect(panel).to_contain_text(f"{ENGINEER} has this role.")
    expect(panel.get_by_role("button", name="Remove …")).to_have_count(0)
    panel.get_by_role("switch", name="Correct history").click()
    panel.get_by_role("button", name="Save", exact=True).click()
    expect(panel).to_contain_text("Saved.")
    line = table.get_by_role("row", name=re.compile("^Correct history"))
    expect(line.get_by_role("cell").last).to_have_text("yes")
