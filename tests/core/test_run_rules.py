"""What people say of runs, schedules and places of the recorder's own values: made regular, or refused."""

from __future__ import annotations

import json

import pytest

from cronaca.core.addresses.system import Item, SystemAddress, parse_system_address
from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules.schedule import MOST_SPANS, checked_spans
from cronaca.core.loggers import TriggerSpec, WhenSpec
from cronaca.core.model import LoggerMode, RunOrigin, ValueType, WeekSpan
from cronaca.core.setup import ArchiveSpec, RunRuleSpec
from cronaca.core.setup.specs import MOST_ATTRIBUTES
from tests.support.builders import a_spec

UID = "00000000-0000-0000-0000-000000000001"


def test_a_rule_keeps_what_its_origin_uses() -> None:
    both = RunRuleSpec(" Lot ", RunOrigin.CHANGE, "t", "l", ("a", "b", "a")).checked()
    assert (both.name, both.tag, both.logger, both.attributes) == ("Lot", "t", None, ("a", "b"))
    trial = RunRuleSpec("Trial", RunOrigin.LOGGER, "t", "l").checked()
    assert (trial.tag, trial.logger) == (None, "l")


@pytest.mark.parametrize(
    ("spec", "field"),
    [
        (RunRuleSpec("x", RunOrigin.PERSON), "origin"),
        (RunRuleSpec("x", RunOrigin.TAG), "tag"),
        (RunRuleSpec("x", RunOrigin.LOGGER, "t"), "logger"),
        (RunRuleSpec("", RunOrigin.TAG, "t"), "name"),
        (
            RunRuleSpec("x", RunOrigin.TAG, "t", attributes=tuple(map(str, range(MOST_ATTRIBUTES + 1)))),
            "attributes",
        ),
    ],
)
def test_a_rule_that_means_nothing_names_its_field(spec: RunRuleSpec, field: str) -> None:
    with pytest.raises(InvalidInput) as refused:
        spec.checked()
    assert refused.value.field == field
    assert refused.value.remedy


@pytest.mark.parametrize(
    "span",
    [
        WeekSpan((), 0, 1),
        WeekSpan((0,), 0, 1),
        WeekSpan((8,), 0, 1),
        WeekSpan((1,), -1, 1),
        WeekSpan((1,), 0, 1440),
    ],
)
def test_a_stretch_of_the_week_that_cannot_be_is_refused(span: WeekSpan) -> None:
    with pytest.raises(InvalidInput) as refused:
        checked_spans([span])
    assert refused.value.field == "schedule"


def test_too_many_stretches_are_refused_and_days_are_sorted() -> None:
    assert checked_spans([WeekSpan((5, 1, 5), 0, 1)]) == (WeekSpan((1, 5), 0, 1),)
    with pytest.raises(InvalidInput, match=str(MOST_SPANS)):
        checked_spans([WeekSpan((1,), 0, 1)] * (MOST_SPANS + 1))


def test_only_a_logger_by_the_clock_takes_its_interval_from_a_tag() -> None:
    when = WhenSpec(tag="w", interval_tag="i")
    clock = a_spec("x", "a", LoggerMode.PERIODIC, 1_000_000, when=when).checked()
    change = a_spec("x", "a", LoggerMode.ON_CHANGE, when=when).checked()
    assert (clock.when.interval_tag, change.when.interval_tag, change.when.tag) == ("i", None, "w")


def test_around_a_trigger_tells_the_plant_nothing() -> None:
    wanted = a_spec("x", "a", LoggerMode.AROUND, after_us=1, trigger=TriggerSpec("t", number_tag="n"))
    with pytest.raises(InvalidInput) as refused:
        wanted.checked()
    assert refused.value.field == "trigger"


@pytest.mark.parametrize(
    ("place", "kind", "expected"),
    [
        ({"item": "hour"}, ValueType.INTEGER, SystemAddress(Item.HOUR)),
        ({"item": "hour", "of": UID}, ValueType.FLOAT, SystemAddress(Item.HOUR)),
        ({"item": "logger_rate", "of": UID}, ValueType.FLOAT, SystemAddress(Item.LOGGER_RATE, UID)),
        ({"item": "logger_rate"}, ValueType.FLOAT, None),
        ({"item": "mood"}, ValueType.FLOAT, None),
        ({"item": "hour", "frob": 1}, ValueType.FLOAT, None),
        ({"item": "hour"}, ValueType.TEXT, None),
        ([], ValueType.FLOAT, None),
    ],
)
def test_places_of_the_recorders_own_values(
    place: object, kind: ValueType, expected: SystemAddress | None
) -> None:
    if expected is not None:
        assert parse_system_address(json.dumps(place), kind) == expected
        return
    with pytest.raises(InvalidInput):
        parse_system_address(json.dumps(place), kind)


def test_a_directory_loses_its_end_stroke() -> None:
    assert ArchiveSpec("x", directory=" /srv/history/ ").checked().directory == "/srv/history"
