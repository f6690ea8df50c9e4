"""Names in the order in which people count: Unit 2 before Unit 10."""

from __future__ import annotations

import re
from typing import Final

_DIGITS: Final = re.compile(r"(\d+)")


def natural_key(name: str) -> tuple[tuple[int, int, str], ...]:
    """Sorts names without regard to case, with the numbers in them as numbers."""
    parts = _DIGITS.split(name.casefold())
    # Every second part is a number; at one place there may be a number in one name and letters in another.
    return tuple((0, int(part), part) if i % 2 else (1, 0, part) for i, part in enumerate(parts) if part)
