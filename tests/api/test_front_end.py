"""The page that loads the front end: what it is told, under whatever path it is served."""

from __future__ import annotations

import html
import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from cronaca.api.app import ServerOptions
from cronaca.api.front_end import Brand
from cronaca.core.access import Actor, Permission
from cronaca.core.topics import Topic
from cronaca.db import Store
from cronaca.settings import Settings
from tests.support.signed_in import app_of


@pytest.fixture
def web(tmp_path: Path) -> Path:
    """The page as it stands in the project, and a built file."""
    (tmp_path / "index.html").write_text(Path("web/index.html").read_text())
    (tmp_path / "assets").mkdir()
    (tmp_path / "assets" / "app.js").write_text("//")
    return tmp_path


@pytest.fixture
def client(store: Store, web: Path) -> Iterator[TestClient]:
    brand = Brand("Ombralta 'A' <b>", "#1F6F78", "")
    with TestClient(app_of(store, web, ServerOptions(base_path="/plant/a", brand=brand))) as client:
        yield client


def configuration(text: str) -> dict[str, Any]:
    found = re.search(r'<meta name="configuration" content="([^"]*)" />', text)
    assert found is not None
    return dict(json.loads(html.unescape(found[1])))


def test_the_page_says_where_it_is_served_by_which_name_and_to_whom(client: TestClient) -> None:
    app: Any = client.app
    app.state.find_actor = lambda _: Actor("Ada", frozenset({Permission.VIEW, Permission.EXPORT}))
    answer = client.get("/plant/a/trends?tags=x")
    assert '<base href="/plant/a/" />' in answer.text
    told = configuration(answer.text)
    assert told["base"] == "/plant/a"
    assert told["brand"] == {
        "name": "Ombralta 'A' <b>", "accent_day": "#1F6F78", "accent_night": ""
    }  # fmt: skip
    assert told["person"] == {
        "name": "Ada", "permissions": ["export", "view"], "account": None, "must_change": False,
        "is_guest": False,
    }  # fmt: skip
    assert answer.headers["cache-control"] == "no-store", "it names a person"


def test_the_page_says_how_often_what_had_changed(client: TestClient) -> None:
    with client.websocket_connect("/api/live") as socket:
        socket.send_text('{"topics": ["changes"]}')
        while json.loads(socket.receive_text())["type"] != "changed":
            pass
    assert set(configuration(client.get("/").text)["counts"]) == {topic.value for topic in Topic}


@pytest.mark.parametrize("path", ["/plant/a/api/tags", "/api/tags"])
def test_the_api_answers_with_the_path_and_behind_a_proxy_that_takes_it_off(
    client: TestClient, path: str
) -> None:
    answer = client.get(path)
    assert answer.status_code == 200
    assert answer.headers["cache-control"] == "no-store"


def test_files_are_found_below_the_path(client: TestClient) -> None:
    assert client.get("/plant/a/assets/app.js").text == "//"
    assert client.get("/plant/a").text == client.get("/plant/a/").text
    assert client.get("/plant/abc/assets/app.js").text != "//", "that is another path"
    with client.websocket_connect("/plant/a/api/live") as socket:
        socket.send_text("no json")
        assert json.loads(socket.receive_text())["type"] == "refused"


def test_built_files_are_sent_compressed_to_those_that_read_it(client: TestClient, tmp_path: Path) -> None:
    program = "export const pens = 16;\n" * 200
    (tmp_path / "assets" / "pens.js").write_text(program)
    (tmp_path / "assets" / "font.woff2").write_bytes(bytes(range(256)) * 20)
    plain = client.get("/assets/pens.js", headers={"Accept-Encoding": "identity"})
    assert "content-encoding" not in plain.headers
    small = client.get("/assets/pens.js", headers={"Accept-Encoding": "gzip, br"})
    assert small.headers["content-encoding"] == "gzip"
    assert int(small.headers["content-length"]) < len(program) / 10
    assert plain.text == small.text == program
    assert "javascript" in plain.headers["content-type"]
    assert plain.headers["vary"] == small.headers["vary"] == "Accept-Encoding"
    assert small.headers["cache-control"] == "public, max-age=31536000, immutable"
    # A font is compressed already.
    font = client.get("/assets/font.woff2", headers={"Accept-Encoding": "gzip"})
    assert font.headers["content-type"] == "font/woff2"
    assert len(font.content) == 5120


def test_the_page_itself_is_served_by_its_file_name_too(client: TestClient) -> None:
    assert configuration(client.get("/plant/a/index.html").text)["base"] == "/plant/a"


@pytest.mark.parametrize("base", ["plant", "/plant/", "/pl ant", '/"><script>', "//other.host"])
def test_a_path_that_is_none_is_refused(base: str) -> None:
    with pytest.raises(ValueError, match="base_path"):
        Settings(base_path=base)


def test_an_accent_that_cannot_be_read_is_refused() -> None:
    assert Settings(base_path="/plant", accent_day="#1F6F78").accent_day == "#1F6F78"
    with pytest.raises(ValueError, match="accent_day"):
        Settings(accent_day="#FFFFFF")
    with pytest.raises(ValueError, match="accent_night"):
        Settings(accent_night="red")


def test_a_page_names_the_files_of_its_section(client: TestClient, web: Path) -> None:
    shared = {"file": "assets/chart.js", "css": ["assets/chart.css"], "imports": ["index.html", "_loop.js"]}
    parts = {
        "index.html": {"file": "assets/app.js", "isEntry": True, "css": ["assets/app.css"]},
        "_chart.js": shared,
        "_loop.js": {"file": "assets/loop.js", "imports": ["_chart.js"]},
        "src/features/trends/index.ts": {"file": "assets/trends.js", "imports": ["_chart.js", "index.html"]},
        "src/features/runs/index.ts": {"file": "assets/runs.js"},
    }
    (web / "parts.json").write_text(json.dumps(parts))

    def named(path: str) -> list[str]:
        links = r'<link rel="(?:modulepreload|stylesheet)"[^>]* href="\./([^"]+)">'
        return re.findall(links, client.get(path).text)

    trends = ["assets/trends.js", "assets/chart.js", "assets/chart.css", "assets/loop.js"]
    assert named("/plant/a/trends?tags=x") == trends
    assert named("/plant/a/") == named("/plant/a/trends/beside") == trends
    assert named("/plant/a/runs") == ["assets/runs.js"]
    index = web / "index.html"
    index.write_text(index.read_text().replace("</head>", '<script src="./assets/runs.js"></script></head>'))
    assert named("/plant/a/runs") == [], "the page names it already"
    assert named("/plant/a/nothing") == named("/plant/a/..%2Fapp/start.tsx") == []


def test_a_page_without_the_list_of_its_files_comes_nevertheless(client: TestClient) -> None:
    assert "modulepreload" not in client.get("/plant/a/trends").text
