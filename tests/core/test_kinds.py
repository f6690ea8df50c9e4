"""Equipment of one kind, found by what its tags are called."""

from __future__ import annotations

from cronaca.core.model import Tag
from cronaca.core.statistics import kinds_of, member_of
from tests.support.builders import a_tag


def tags(line: str, *members: str) -> list[Tag]:
    return [a_tag(f"{line} {member}", equipment=f"{line}/Zone") for member in members]


def test_a_tag_belongs_to_the_first_part_of_its_path_and_its_member_is_the_rest_of_its_name() -> None:
    assert member_of(a_tag("Line 1 Zone 2 exhaust damper", equipment="Line 1/Zone 2")) == (
        "Line 1",
        "Zone 2 exhaust damper",
    )
    assert member_of(a_tag("Dew point", equipment="Line 1")) == ("Line 1", "Dew point")
    assert member_of(a_tag("Line 1", equipment="Line 1")) == ("Line 1", "Line 1")
    assert member_of(a_tag("Loose", equipment="")) is None


def test_pieces_that_share_half_of_all_their_members_are_of_one_kind() -> None:
    found = kinds_of([
        *tags("Line 1", "vacuum", "power", "speed"), *tags("Line 2", "vacuum", "power"),
        *tags("Boiler", "steam pressure"),
    ])  # fmt: skip
    assert [(kind.name, kind.equipment) for kind in found] == [
        ("Line", ("Line 1", "Line 2")),
        ("Boiler", ("Boiler",)),
    ]
    assert list(found[0].members) == ["power", "vacuum"], "speed has nothing to be compared with"
    assert found[0].members["vacuum"][1] is not None


def test_a_member_that_one_piece_lacks_has_no_tag_there() -> None:
    (kind,) = kinds_of([
        *tags("Line 1", "a", "b", "c"), *tags("Line 2", "a", "b"), *tags("Line 3", "a", "b", "c")
    ])  # fmt: skip
    assert [tag is None for tag in kind.members["c"]] == [False, True, False]


def test_numbers_count_as_numbers() -> None:
    (kind,) = kinds_of([tag for n in (10, 2, 1) for tag in tags(f"Line {n}", "Zone 10", "Zone 9")])
    assert kind.equipment == ("Line 1", "Line 2", "Line 10")
    assert list(kind.members) == ["Zone 9", "Zone 10"]


def test_kinds_that_are_called_alike_are_told_apart() -> None:
    found = kinds_of([
        *tags("Line 1", "a", "b"), *tags("Line 2", "a", "b"), *tags("Line 3", "x", "y"),
        *tags("Line 4", "x", "y"),
    ])  # fmt: skip
    assert [kind.name for kind in found] == ["Line as Line 1", "Line as Line 3"]


def test_pieces_without_a_common_name_take_that_of_the_first() -> None:
    (kind,) = kinds_of([*tags("North", "a"), *tags("South", "a")])
    assert kind.name == "North"
