"""Equipment of one kind: of one class, or found by what its tags are called.

A tag belongs to the first part of its equipment path ("Line 1" of "Line 1/Zone 2"); what its name says after
that is its member ("Zone 2 exhaust damper"). Equipment that shares most of its members is of one kind.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from cronaca.core.model import Tag

_ALIKE: Final = 0.5
"""Share of all members of two pieces of equipment that both have, from which on they are of one kind."""


@dataclass(frozen=True, slots=True)
class Kind:
    """Equipment of one kind: names in order, and for each member the tag of each piece (None: it has none).

    Members are those that at least two pieces have; a piece that has no like has all its own."""

    name: str
    equipment: tuple[str, ...]
    members: dict[str, tuple[Tag | None, ...]]


def member_of(tag: Tag) -> tuple[str, str] | None:
    """The equipment of a tag and its member there; None: it belongs to none."""
    root = tag.equipment.partition("/")[0]
    if not root:
        return None
    return root, tag.name.removeprefix(root).strip() or tag.name


def kinds_of(tags: Iterable[Tag], classes: Sequence[Kind] = ()) -> list[Kind]:
    """The kinds of equipment, those with the most pieces first. What is of an equipment class is of that
    kind; the rest is found by its names."""
    members_of: dict[str, dict[str, Tag]] = {}
    taken = {name for kind in classes for name in kind.equipment}
    for tag in tags:
        member = member_of(tag)
        if member is not None and member[0] not in taken:
            members_of.setdefault(member[0], {})[member[1]] = tag
    groups: list[list[str]] = []
    for name in sorted(members_of, key=_in_order):
        like = next((group for group in groups if _alike(members_of[group[0]], members_of[name])), None)
        if like is None:
            groups.append([name])
        else:
            like.append(name)
    shared = [_common(names) for names in groups]
    kinds = [
        # Two kinds may be called alike: then the name of its first piece tells which.
        _kind(common if shared.count(common) == 1 else f"{common} as {names[0]}", names, members_of)
        for common, names in zip(shared, groups, strict=True)
    ]
    return sorted([*classes, *kinds], key=lambda kind: -len(kind.equipment))


def _alike(left: dict[str, Tag], two: dict[str, Tag]) -> bool:
    return len(left.keys() & two.keys()) >= _ALIKE * len(left.keys() | two.keys())


def _kind(name: str, equipment: Sequence[str], members_of: Mapping[str, Mapping[str, Tag]]) -> Kind:
    count = Counter(member for each in equipment for member in members_of[each])
    least = min(2, len(equipment))
    members = sorted((member for member, n in count.items() if n >= least), key=_in_order)
    tags = {member: tuple(members_of[each].get(member) for each in equipment) for member in members}
    return Kind(name, tuple(equipment), tags)


def _common(names: Sequence[str]) -> str:
    """What the names begin with, without their numbers."""
    if len(names) == 1:
        return names[0]
    first, last = min(names), max(names)
    length = next((i for i, (a, b) in enumerate(zip(first, last, strict=False)) if a != b), len(first))
    return first[:length].strip(" -_0123456789") or names[0]


def _in_order(name: str) -> list[tuple[int, str]]:
    """Numbers inside names count as numbers: Line 2 stands before Line 10."""
    parts: list[tuple[int, str]] = []
    digits = ""
    for letter in f"{name}\0":
        if letter.isdecimal():
            digits += letter
            continue
        if digits:
            parts.append((int(digits), ""))
            digits = ""
        parts.append((-1, letter))
    return parts
