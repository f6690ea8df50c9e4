"""The application for a browser, and Chromium without a window: it takes half the time of the whole."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from cronaca.db import Store
from tests.support.application import Application
from tests.support.signed_in import has_signed_in

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]

USUAL = {"head_pressure": 98.0, "temperature_1": 71.5, "humidity_1": 79.0, "product_moisture": 12.5}
"""What the device says before a test changes it."""

# How quick it is, is measured in bench/; where a test claims a time it says which.
expect.set_options(timeout=30_000)


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        found = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        yield found
        found.close()


@pytest.fixture
def application(empty_store: Store, tmp_path: Path) -> Iterator[Application]:
    found = Application(empty_store.address, tmp_path)
    found.device.set(USUAL)
    with found.running():
        yield found


@pytest.fixture(scope="module")
def module_application(
    module_store: Store, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[Application]:
    """One that all tests of a module share."""
    found = Application(module_store.address, tmp_path_factory.mktemp("application"))
    found.device.set(USUAL)
    with found.running():
        yield found


@pytest.fixture
def shared(module_application: Application) -> Application:
    """The one of the module, with the usual values at its device; what a test stores there stays."""
    module_application.device.set({**USUAL, "jam": 0})
    return module_application


@pytest.fixture
def context(browser: Browser) -> Iterator[BrowserContext]:
    # Nothing fades: what is looked at is there at once.
    found = browser.new_context(
        viewport={"width": 1280, "height": 800}, color_scheme="light", reduced_motion="reduce"
    )
    has_signed_in(found)
    yield found
    found.close()


@pytest.fixture
def other(browser: Browser) -> Iterator[Page]:
    """A page at another machine, of somebody who has signed in too."""
    found = browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
    has_signed_in(found)
    yield found.new_page()
    found.close()


@pytest.fixture
def page(context: BrowserContext) -> Iterator[Page]:
    """A page that fails the test on any error in the browser's console."""
    found = context.new_page()
    errors: list[str] = []
    found.on("pageerror", lambda error: errors.append(str(error)))
    yield found
    assert errors == []
