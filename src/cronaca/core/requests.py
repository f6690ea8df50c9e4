"""What people ask of a running recorder: a union of small frozen types, each with the name of its kind.

msgspec writes and reads them by their types; a new kind is a class and a row in KINDS, and what the recorder
does.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Final

from cronaca.core import tagged
from cronaca.core.model import ValueType


@dataclass(frozen=True, slots=True)
class RecordNow:
    """One sample or record of a logger's tags now."""

    kind: ClassVar[str] = "record_now"

    logger_id: int


@dataclass(frozen=True, slots=True)
class WriteValue:
    """A value for a tag, to be written to its source."""

    kind: ClassVar[str] = "write"

    tag_id: int
    value: float


@dataclass(frozen=True, slots=True)
class Signed:
    """Whose password a request goes with: one given with it, or the one kept for a source (by uid)."""

    source: str = ""
    secret: str | None = field(default=None, repr=False)


@dataclass(frozen=True, slots=True)
class PlaceToRead:
    """An address as JSON, and the type of what stands there."""

    address: str
    value_type: ValueType


@dataclass(frozen=True, slots=True)
class SourceTest:
    """Connect as a source would, and read; nothing is saved."""

    kind: ClassVar[str] = "test_source"

    protocol: str
    config: dict[str, Any]
    places: tuple[PlaceToRead, ...] = ()
    signed: Signed = Signed()


@dataclass(frozen=True, slots=True)
class Discover:
    """What a server at an endpoint offers."""

    kind: ClassVar[str] = "discover"

    endpoint: str
    timeout_s: float


@dataclass(frozen=True, slots=True)
class Browse:
    """What lies under a node of a server."""

    kind: ClassVar[str] = "browse"

    protocol: str
    config: dict[str, Any]
    node: str
    signed: Signed = Signed()


RecorderRequest = RecordNow | WriteValue | SourceTest | Discover | Browse
KINDS: Final[Mapping[str, type[RecorderRequest]]] = {
    one.kind: one for one in (RecordNow, WriteValue, SourceTest, Discover, Browse)
}


def to_text(request: RecorderRequest) -> str:
    """As it travels, beside its kind."""
    return tagged.to_text(request)


def from_text(kind: str, text: str) -> RecorderRequest:
    """What `to_text` has made. Raises CorruptPayload for a kind or content that is none."""
    return tagged.from_text(KINDS, kind, text, "request", "recorder")
