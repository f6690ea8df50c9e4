"""Which built files a page of the front end begins with, by the list that its build writes (Vite's
manifest)."""

from __future__ import annotations

import json
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path
from typing import Any, Final

_FIRST_SECTION: Final = "trends"
"""Where the address without a path leads."""


def page_links(web_dir: Path, path: str, page: str) -> str:
    """Links to the files of the section that a path belongs to: the browser asks for them together with those
    that the page names by itself, and not only once these have been read. Nothing where there is no such
    section or no list."""
    parts = web_dir / "parts.json"
    if not parts.is_file():
        return ""
    section = path.split("/", maxsplit=1)[0] or _FIRST_SECTION
    links = _links(parts, parts.stat().st_mtime_ns, section)
    return "".join(link for file, link in links.items() if file not in page)


@lru_cache(maxsize=32)
def _links(parts: Path, _changed_ns: int, section: str) -> dict[str, str]:
    known: dict[str, Any] = json.loads(parts.read_text(encoding="utf-8"))
    entry = f"src/features/{section}/index.ts"
    if entry not in known:
        return {}
    links = {}
    for part in _needed(known, entry, set()):
        for rel, files in (("modulepreload", [part["file"]]), ("stylesheet", part.get("css", ()))):
            links.update({file: f'<link rel="{rel}" crossorigin href="./{file}">' for file in files})
    return links


def _needed(known: dict[str, Any], name: str, seen: set[str]) -> Iterator[dict[str, Any]]:
    """A part and what it imports, without what the page itself begins with."""
    part = known[name]
    if name in seen or part.get("isEntry", False):
        return
    seen.add(name)
    yield part
    for other in part.get("imports", ()):
        yield from _needed(known, other, seen)
