"""What is refused: texts with their parameters, and a code that stays with the fault that is passed on."""

from __future__ import annotations

import pytest

from cronaca.core.errors import EditConflict, InvalidInput, NotFound


def refused() -> InvalidInput:
    return InvalidInput(
        "limit", "too-many", "{count:,} of {kind!r} are too many", "Give at most {most}.",
        count=12_000, kind="tags", most=100,
    )  # fmt: skip


def test_both_texts_have_their_parameters_as_they_are_written_there() -> None:
    exc = refused()
    assert (exc.field, exc.code) == ("limit", "too-many")
    assert exc.problem == "12,000 of 'tags' are too many"
    assert exc.remedy == "Give at most 100."
    assert exc.parameters == {"count": "12,000", "kind": "'tags'", "most": "100"}
    assert str(exc) == "limit: 12,000 of 'tags' are too many. Give at most 100."


def test_a_brace_that_is_no_place_stands_for_itself() -> None:
    exc = InvalidInput(
        "name", "unknown-word", "{{word}} of {name}", 'Give {"a": "b"} or {folder}.', word="base"
    )
    assert exc.problem == "{base} of {name}"
    assert exc.remedy == 'Give {"a": "b"} or {folder}.'
    assert exc.parameters == {"word": "base"}


def test_a_value_with_braces_is_not_read_again() -> None:
    exc = InvalidInput("name", "taken", "there is {name!r}", "Take another.", name="{most}", most=3)
    assert exc.problem == "there is '{most}'"
    assert exc.parameters == {"name": "'{most}'"}


@pytest.mark.parametrize(
    ("moved", "field", "problem"),
    [
        (refused().at("rules.1.limit"), "rules.1.limit", "12,000 of 'tags' are too many"),
        (refused().of("Line 5"), "limit", "of Line 5: 12,000 of 'tags' are too many"),
    ],
)
def test_a_fault_that_is_passed_on_keeps_its_code(moved: InvalidInput, field: str, problem: str) -> None:
    assert (moved.field, moved.problem) == (field, problem)
    assert (moved.code, moved.remedy, moved.parameters) == (
        "too-many",
        "Give at most 100.",
        refused().parameters,
    )


def test_other_errors_say_what_they_are_about() -> None:
    assert dict(NotFound("tag", "7").parameters) == {"kind": "tag", "key": "7"}
    conflict = EditConflict("logger", "Line 1", "Anna", 0)
    assert dict(conflict.parameters) == {"kind": "logger", "name": "Line 1", "person": "Anna"}
