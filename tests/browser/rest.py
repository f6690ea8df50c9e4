"""Waiting for what a page does a moment later, instead of for the clock."""

from __future__ import annotations

from typing import Final

from playwright.sync_api import Page

_FADES: Final = """() => document.getAnimations().every((one) =>
    one.playState !== 'running' || one.effect.getComputedTiming().iterations === Infinity)"""
_WRITE_ADDRESS: Final = """() => {
    window.dispatchEvent(new Event('blur'));  // as when one reaches for the address
    return new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
}"""


def wait_for_rest(page: Page) -> None:
    """Until nothing fades or moves any more: colours are read by what checks them."""
    page.wait_for_function(_FADES)


def address(page: Page) -> str:
    """The address of what is shown. A trend writes it now and then only, and at once for whoever wants it."""
    page.evaluate(_WRITE_ADDRESS)
    return page.url
