"""Sister tags: those that stand for the same thing at other equipment, told by their names (Line 1 Press
vacuum and Line 2 Press vacuum)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from cronaca.core.model import Tag
from cronaca.core.ordering import natural_key


def top_equipment(path: str) -> str:
    """The equipment of a tag without its parts: Line 1 of Line 1/Zone 3."""
    return path.split("/", maxsplit=1)[0]


def find_sister(tag: Tag, equipment: str, by_name: Mapping[str, str]) -> str | None:
    """The uid of the tag that other equipment has in the place of this one; None: it has none."""
    own = top_equipment(tag.equipment)
    if not own or not tag.name.startswith(own):
        return None
    return by_name.get(tag.name.replace(own, equipment, 1))


def count_sisters(tags: Sequence[Tag], everything: Sequence[Tag]) -> dict[str, int]:
    """How many of these tags have a sister at each other equipment; equipment without any is left out."""
    by_name = {tag.name: tag.uid for tag in everything}
    own = {top_equipment(tag.equipment) for tag in tags}
    others = {top_equipment(tag.equipment) for tag in everything} - own - {""}
    counts = {
        one: sum(find_sister(tag, one, by_name) is not None for tag in tags)
        for one in sorted(others, key=natural_key)
    }
    return {equipment: count for equipment, count in counts.items() if count > 0}
