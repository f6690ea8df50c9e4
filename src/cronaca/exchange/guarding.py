"""Texts that a spreadsheet would take for a formula are guarded by an apostrophe (OWASP, CSV Injection)."""

from __future__ import annotations

from typing import Any, Final

GUARDED: Final = ("=", "+", "-", "@", "\t", "\r")
ALREADY: Final = tuple(f"'{sign}" for sign in GUARDED) + tuple(f"''{sign}" for sign in GUARDED)
Cell = Any
"""What stands in a cell: a number, a text, a moment, or nothing."""


def harmless(value: Cell) -> Cell:
    """A cell for CSV: a text that a spreadsheet would take for a formula gets an apostrophe; so does one that
    has it already, so that `plain` gives back the very text."""
    return f"'{value}" if isinstance(value, str) and value.startswith((*GUARDED, *ALREADY)) else value


def plain(value: Cell) -> Cell:
    """The cell as it was before `harmless`."""
    return value[1:] if isinstance(value, str) and value.startswith(ALREADY) else value
