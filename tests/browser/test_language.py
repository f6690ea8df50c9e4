"""Another language: the front end built with texts that are marked, and every page read for what is not."""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final

import pytest
from playwright.sync_api import Page, Response, expect
from scripts.list_texts import refusals, text_of

from cronaca.db import Store
from tests.browser.ways import PLACES
from tests.contracts.test_import_rules import copy_web
from tests.contracts.test_words import TEXTS
from tests.support.application import ROOT, Application

pytestmark = pytest.mark.browser
LANGUAGE: Final = "qps"
"""A private tag of BCP 47, as pseudo-languages have."""
_MARKED: Final = re.compile(r"⟦[^⟦⟧]*⟧")
#: Numbers, moments, lengths, names of formats and keys: the same in every language.
_VALUE: Final = re.compile(
    r"[-−]?[\d.,]+ \S{1,8}|[\d.,:+/–− ]*(?: ?(?:µs|ms|s|min|h|d|MB|GB|kB|%|px))*"
    r"|(?:Mon|Tue|Wed|Thu|Fri|Sat|Sun) \d+ \w+(?: [\d:]+)?"
    r"|[A-Z]|u?int\d+|float\d+|bool|CSV|XLSX|JSON|PNG|SVG|HTML|PDF|Parquet|Cronaca|UTC|DD\.MM\.YYYY.*|hh:mm.*|Esc|dew_point\(.*\)"
)
_SEPARATORS: Final = re.compile(r"[\n·…?✓→()]|, |: | – ")
_READ: Final = """() => {
    const found = [];
    const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
    for (let node = walker.nextNode(); node !== null; node = walker.nextNode()) {
        if (!/^(SCRIPT|STYLE|NOSCRIPT)$/.test(node.parentElement.tagName)) found.push(node.textContent);
    }
    for (const name of ['aria-label', 'title', 'placeholder', 'alt'])
        for (const one of document.querySelectorAll(`[${name}]`)) found.push(one.getAttribute(name));
    return found;
}"""


@pytest.fixture(scope="module")
def built(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The front end in a language whose texts are the English ones in brackets."""
    folder = copy_web(tmp_path_factory.mktemp("web"))
    for name in ("index.html", "vite.config.ts"):
        shutil.copy(ROOT / "web" / name, folder)
    shutil.copytree(ROOT / "web" / "public", folder / "public")
    marked = folder / "src" / "texts" / LANGUAGE
    marked.mkdir()
    for file in TEXTS.glob("*.json"):
        texts = {key: f"⟦{text}⟧" for key, text in json.loads(file.read_text()).items() if key != "language"}
        (marked / file.name).write_text(json.dumps(texts))
    (marked / "refusals.json").write_text(json.dumps(marked_refusals()))
    command = [str(folder / "node_modules" / ".bin" / "vite"), "build", "--logLevel", "error"]
    subprocess.run(command, cwd=folder, env={**os.environ, "CRONACA_LANGUAGE": LANGUAGE}, check=True)
    return folder / "dist"


def marked_refusals() -> dict[str, str]:
    """What the API refuses, by code, with its parameters in places of their own."""
    found: dict[str, str] = {}
    for call in (one for one in refusals() if len(one.args) >= 4):
        code, *said = (text_of(one) or "" for one in call.args[1:4])
        for key, text in zip((code, f"{code}.remedy"), said, strict=True):
            if code and text:
                found[key] = "⟦" + re.sub(r"\{(\w+)[^}]*\}", r"{\1}", text) + "⟧"
    return found


@pytest.fixture(scope="module")
def application(
    built: Path, module_store: Store, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[Application]:
    found = Application(module_store.address, tmp_path_factory.mktemp("application"))
    with found.running():
        found.end("server")
        found.start_part("server", CRONACA_WEB_DIR=str(built))
        found.wait_until_well()
        yield found


class Data:
    """All texts that the server has sent."""

    def __init__(self, page: Page) -> None:
        self.texts: set[str] = set()
        page.on("response", self._add)

    def _add(self, response: Response) -> None:
        if "json" in response.headers.get("content-type", "") and response.ok:
            self._walk(response.json())

    def _walk(self, value: Any) -> None:  # noqa: ANN401
        if isinstance(value, str):
            self.texts |= {value.strip(), *(part.strip() for part in _SEPARATORS.split(value))}
        elif isinstance(value, dict):
            self.texts |= set(value)
            for one in value.values():
                self._walk(one)
        elif isinstance(value, list):
            for one in value:
                self._walk(one)

    def add_configuration(self, page: Page) -> None:
        """What the page itself brings: who works with it."""
        self._walk(json.loads(page.locator("meta[name=configuration]").get_attribute("content") or "{}"))

    def said_otherwise(self, page: Page) -> set[str]:
        """What stands on the page and is neither marked nor from the server."""
        found = set()
        for text in page.evaluate(_READ):
            rest = text
            while _MARKED.search(rest):
                rest = _MARKED.sub("\n", rest)
            if rest.strip() not in self.texts:
                parts = {part.strip() for part in _SEPARATORS.split(rest)} - {""}
                found |= {part for part in parts if not _VALUE.fullmatch(part) and not self._has(part)}
        return found

    def _has(self, text: str) -> bool:
        """One that was sent, or the beginning or end of one: a tag without its equipment."""
        name = re.sub(r"^\d ", "", text)
        return name in self.texts or any(
            one.startswith(f"{name} ") or one.endswith(f" {name}") for one in self.texts
        )


def marked(name: str) -> re.Pattern[str]:
    """A name, which is marked if it is a text and not something that somebody has named."""
    return re.compile(rf"^⟦?{re.escape(name)}⟧?$")


def follow(page: Page, navigation: str, link: str) -> None:
    found = page.get_by_role("navigation", name=marked(navigation))
    found.get_by_role("link", name=marked(link)).click()


def test_every_page_says_what_stands_in_the_catalogue(page: Page, application: Application) -> None:
    data = Data(page)
    page.goto(application.url)
    assert page.locator("html").get_attribute("lang") == LANGUAGE
    data.add_configuration(page)
    found: dict[str, set[str]] = {}
    for section, part, buttons in PLACES:
        follow(page, "Sections", section)
        if part:
            follow(page, section, part)
        expect(page.locator("main").get_by_role("heading", level=1)).to_contain_text("⟦")
        found[f"{section} {part}"] = data.said_otherwise(page)
        for button in buttons:
            buttons_here = page.get_by_role("button", name=marked(button))
            links_here = page.get_by_role("link", name=marked(button))
            buttons_here.or_(links_here).first.click()
            found[f"{section} {part} {button}"] = data.said_otherwise(page)
            page.keyboard.press("Escape")
    said = [f"{place}: {texts}" for place, texts in found.items() if texts]
    assert said == []


def test_what_is_refused_is_said_in_the_language_of_the_page(
    page: Page, application: Application, tmp_path: Path
) -> None:
    page.goto(application.url)
    follow(page, "Sections", "Set-up")
    follow(page, "Set-up", "Tags")
    page.get_by_role("link", name=marked("Import")).click()
    (file := tmp_path / "tags.csv").write_text(",\n")
    page.locator("input[type=file]").set_input_files(file)
    expect(page.get_by_role("alert")).to_contain_text("⟦it has no heading⟧")
    expect(page.get_by_role("alert")).to_contain_text("⟦Put the columns' names into line 1.⟧")
