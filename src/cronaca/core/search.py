"""What people type to find something."""

from __future__ import annotations

from typing import Final

MOST_WORDS: Final = 6


def search_words(text: str) -> tuple[str, ...]:
    """The words of a text that is looked for, each to be found somewhere, in any order: exactly MOST_WORDS,
    empty ones at the end (these are everywhere). What comes after is part of the last one."""
    words = text.split(maxsplit=MOST_WORDS - 1)
    return (*words, *[""] * (MOST_WORDS - len(words)))
