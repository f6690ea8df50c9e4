"""Small frozen types that travel as JSON beside the name of their kind; msgspec reads and writes them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypeVar

import msgspec

from cronaca.core.errors import CorruptPayload

T = TypeVar("T")


def to_text(content: object) -> str:
    """As it travels, beside its kind."""
    return msgspec.json.encode(content).decode()


def from_text(kinds: Mapping[str, type[T]], kind: str, text: str, what: str, reader: str) -> T:
    """What `to_text` has made of one of these kinds. Raises CorruptPayload, which says `what` it is and who
    its `reader` is, for a kind or content that is none."""
    if kind not in kinds:
        raise CorruptPayload(what, f"this {reader} does not know {kind!r}")
    try:
        return msgspec.json.decode(text, type=kinds[kind])
    except msgspec.DecodeError as exc:
        raise CorruptPayload(what, f"its content is not known to this {reader} ({exc})") from exc
