"""Names of the demo's objects in files and links: the same at every start."""

from __future__ import annotations

import uuid
from typing import Final

PROCESS_VALUES: Final = "Process values"
"""The archive of what is recorded all the time."""
_SPACE: Final = uuid.UUID("6b1f7b0e-52c1-4d8a-9d5e-0e4f4f1c7a10")


def uid_of(name: str) -> str:
    """The uid of an object by a name of its own."""
    return str(uuid.uuid5(_SPACE, name))


def tag_uid(key: str, line: int = 1) -> str:
    """The uid of a line's tag for a signal."""
    return uid_of(f"tag/line{line}/{key}")
