"""What is looked for: words, in any order."""

from __future__ import annotations

import pytest

from cronaca.core.search import MOST_WORDS, search_words


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", []),
        ("  ", []),
        ("line 2  temperature ", ["line", "2", "temperature"]),
        ("a b c d e f g", ["a", "b", "c", "d", "e", "f g"]),
    ],
)
def test_a_text_is_a_fixed_number_of_words(text: str, words: list[str]) -> None:
    found = search_words(text)
    assert len(found) == MOST_WORDS
    assert [word.strip() for word in found if word] == words
