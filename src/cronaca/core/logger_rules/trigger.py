"""When a triggered logger takes a record: an edge of a value, as its readings come."""

from __future__ import annotations

from cronaca.core import quality as q
from cronaca.core.model import Edge, ValueType


class Trigger:
    """Watches one tag. The first usable value after a start is no edge; a Bad one is none either, and what
    follows it is compared with the last usable value."""

    __slots__ = ("_edge", "_last")

    def __init__(self, edge: Edge) -> None:
        self._edge = edge
        self._last: float | int | None = None

    def offer(self, value: float | int, quality: int) -> bool:
        """Whether this reading triggers."""
        if quality >= q.BAD:
            return False
        last, self._last = self._last, value
        if last is None:
            return False
        rises, falls = last == 0 != value, last != 0 == value
        if self._edge is Edge.RISING:
            return rises
        if self._edge is Edge.FALLING:
            return falls
        return (rises or falls) if self._edge is Edge.EITHER else value != last


def reason_text(name: str, kind: ValueType, value: float | int | bool) -> str:
    """Why a record was taken, as it stands beside it."""
    shown = f"{value:g}" if kind is ValueType.FLOAT else str(value)
    return f"{name} = {shown}"[:200]
