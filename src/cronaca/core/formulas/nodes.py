"""What a formula says, as a tree."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Number:
    """A constant; durations are in seconds."""

    value: float


@dataclass(frozen=True, slots=True)
class Input:
    """The value of an input, by its name in the formula."""

    name: str


@dataclass(frozen=True, slots=True)
class Call:
    """A function of the catalogue, or an operator by its sign."""

    function: str
    arguments: tuple[Node, ...]


Node = Number | Input | Call


def inputs_of(node: Node) -> tuple[str, ...]:
    """The names of the inputs, each once, in their order."""
    return tuple(dict.fromkeys(part.name for part in walk(node) if isinstance(part, Input)))


def walk(node: Node) -> Iterator[Node]:
    """The node and all below it."""
    yield node
    if isinstance(node, Call):
        for argument in node.arguments:
            yield from walk(argument)
