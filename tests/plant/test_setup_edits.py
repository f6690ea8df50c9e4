"""Edits of the set-up below the API: what is refused names what is wrong, filters take texts as they are."""

from __future__ import annotations

import json

import pytest

from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.loggers import EdgeSpec, LoggerSpec, TriggerSpec, WhenSpec, from_plain
from cronaca.core.model import Edge, Keeps, LoggerMode, RuleSpec, ValueType
from cronaca.core.setup import ArchiveSpec, PlantSpec, SourceSpec, TagSpec, check_overlaps, named_series
from cronaca.core.windows import Shift
from cronaca.db import Store
from cronaca.plant import archives, document, loggers, sources, tag_changes, tags
from cronaca.plant.changes import By
from cronaca.plant.tags import TagFilter
from tests.support.builders import NOW, a_spec

BY = By("Operator", NOW)
SINE = json.dumps({"shape": "sine"})


@pytest.fixture
def source(store: Store) -> str:
    return store.run(lambda tx: sources.add_source(tx, SourceSpec("Generator", "generator"), BY))


def tag(source: str, name: str, **fields: object) -> TagSpec:
    return TagSpec(name, source, SINE, **fields)  # type: ignore[arg-type]


def add(store: Store, *wanted: TagSpec) -> list[str]:
    return store.run(lambda tx: tag_changes.add_tags(tx, wanted, BY))


class TestPlant:
    def test_shifts_are_ordered_and_the_zone_is_one(self) -> None:
        shifts = (Shift("Late", 840), Shift("Early", 360))
        found = PlantSpec(" Pastificio Ombralta ", "Europe/Rome", 1, shifts).checked()
        assert found.name == "Pastificio Ombralta"
        assert [shift.name for shift in found.shifts] == ["Early", "Late"]

    @pytest.mark.parametrize(
        ("spec", "field"),
        [
            (PlantSpec("", "UTC"), "name"),
            (PlantSpec("P", "Mars/Olympus"), "zone"),
            (PlantSpec("P", "../../etc/passwd"), "zone"),
            (PlantSpec("P", ""), "zone"),
            (PlantSpec("P", "UTC", 8), "first_weekday"),
            (PlantSpec("P", "UTC", 1, (Shift("a", 1440),)), "shifts"),
            (PlantSpec("P", "UTC", 1, (Shift("a", 5), Shift("b", 5))), "shifts"),
            (PlantSpec("P", "UTC", 1, (Shift(" ", 5),)), "shifts"),
        ],
    )
    def test_bad_fields_name_their_field(self, spec: PlantSpec, field: str) -> None:
        with pytest.raises(InvalidInput) as caught:
            spec.checked()
        assert caught.value.field == field

    def test_a_document_cannot_bring_a_zone_that_is_none(self, store: Store) -> None:
        """It would be written, and every window of a day would fail from then on."""
        plant = {"name": "P", "zone": "Mars/Olympus", "first_weekday": 1, "shifts": []}
        with pytest.raises(InvalidInput) as caught, store.transaction() as tx:
            document.write_document(tx, {"format": "cronaca-setup", "version": 1, "plant": plant}, BY)
        assert caught.value.field == "plant.zone"
        with pytest.raises(InvalidInput) as caught, store.transaction() as tx:
            document.write_document(tx, {"plant": {"name": "P"}}, BY)
        assert caught.value.field == "plant"


class TestTags:
    def test_of_many_the_wrong_one_is_named(self, store: Store, source: str) -> None:
        with pytest.raises(InvalidInput, match="of Second"):
            add(store, tag(source, "First"), tag(source, "Second", decimals=20))
        with pytest.raises(InvalidInput) as caught:
            add(store, tag(source, "Second", decimals=20))
        assert "Second" not in caught.value.problem, "a form knows which it is"

    def test_an_equipment_is_a_text_and_no_pattern(self, store: Store, source: str) -> None:
        paths = ("Line_1/Zone", "LineX1/Zone", "Line%/Zone", "Line_10/Zone")
        add(store, *(tag(source, path, equipment=path) for path in paths))

        def found(equipment: str) -> list[str]:
            with store.snapshot() as tx:
                return [
                    row.spec.name for row in tags.search_tags(tx, TagFilter(equipment=equipment), 10, 0)[1]
                ]

        assert found("Line_1") == ["Line_1/Zone"]
        assert found("Line%") == ["Line%/Zone"]

    def test_a_series_by_a_pattern_takes_what_it_needs(self, source: str) -> None:
        place = json.dumps({"table": "holding_register", "address": 10, "data_type": "int16"})
        first = TagSpec("Valve {n:3} at {address}", source, place, description="No. {n}")
        found = named_series(first, "modbus_tcp", 3, start=9, step=4)
        assert [one.name for one in found] == ["Valve 009 at 10", "Valve 010 at 14", "Valve 011 at 18"]
        assert [one.description for one in found] == ["No. 9", "No. 10", "No. 11"]
        for spec, count, step, field in (
            (first, 0, None, "count"),
            (first, 99_999, None, "count"),
            (TagSpec("Valve", source, place), 2, None, "name"),
            (first, 2, 0, "step"),
        ):
            with pytest.raises(InvalidInput) as caught:
                named_series(spec, "modbus_tcp", count, step=step)
            assert caught.value.field == field

    def test_bits_and_registers_of_other_tables_do_not_overlap(self) -> None:
        def place(table: str, address: int, kind: str) -> str:
            return json.dumps({"table": table, "address": address, "data_type": kind})

        good = [
            ("a", place("input_register", 0, "float32"), ValueType.FLOAT),
            ("b", place("holding_register", 1, "float32"), ValueType.FLOAT),
            ("c", place("coil", 1, "bool"), ValueType.BOOLEAN),
            ("d", place("input_register", 2, "int16"), ValueType.INTEGER),
            ("e", place("input_register", 0, "float32"), ValueType.FLOAT),
        ]
        check_overlaps("modbus_tcp", good)
        check_overlaps("generator", [("a", "{}", ValueType.FLOAT)])
        with pytest.raises(InvalidInput, match="share registers"):
            check_overlaps(
                "modbus_tcp", [*good, ("f", place("input_register", 1, "int16"), ValueType.INTEGER)]
            )


class TestLoggers:
    @pytest.fixture
    def archive(self, store: Store) -> str:
        return store.run(lambda tx: archives.add_archive(tx, ArchiveSpec("Process values"), BY))

    def test_who_records_a_tag_is_told_in_words(self, store: Store, source: str, archive: str) -> None:
        first, second = add(store, tag(source, "a"), tag(source, "b"))
        own = ((first, RuleSpec(width=2)),)
        spec = a_spec("Changes", archive, LoggerMode.ON_CHANGE, tags=(first, second), overrides=own)
        store.run(lambda tx: loggers.add_logger(tx, spec, BY))
        with store.snapshot() as tx:
            numbers = {row.uid: row.tag_id for row in tags.get_rows(tx, [first, second])}
            found = {one.tag_id: one.text for one in loggers.list_recorded_by(tx, list(numbers.values()))}
            (summary,) = loggers.list_summaries(tx)
            assert loggers.list_recorded_by(tx, []) == []
        assert found == {numbers[first]: "on change by more than 2", numbers[second]: "on every change"}
        assert (summary.name, summary.archive, summary.members) == ("Changes", "Process values", 2)

    @pytest.mark.parametrize(
        ("mode", "fields", "text"),
        [
            (LoggerMode.PERIODIC, {"interval_us": 90_000_000, "keeps": Keeps.MEAN}, "mean, every 90 s"),
            (
                LoggerMode.PERIODIC,
                {"interval_us": 3_600_000_000, "phase_us": 1_500_000},
                "every 1 h, 1500 ms later",
            ),
            (LoggerMode.ON_TRIGGER, {}, "records at its trigger"),
        ],
    )
    def test_words(
        self, store: Store, source: str, archive: str, mode: LoggerMode, fields: dict[str, object], text: str
    ) -> None:
        (uid,) = add(store, tag(source, "a"))
        wanted: LoggerSpec[str] = a_spec("L", archive, mode, **{"tags": (uid,), **fields})  # type: ignore[arg-type]
        store.run(lambda tx: loggers.add_logger(tx, wanted, BY))
        with store.snapshot() as tx:
            assert loggers.list_summaries(tx)[0].text == text

    def test_what_cannot_be_is_refused(self, store: Store, source: str, archive: str) -> None:
        (uid,) = add(store, tag(source, "a"))
        plain = a_spec("L", archive, LoggerMode.ON_TRIGGER, tags=(uid,))
        store.run(lambda tx: loggers.add_logger(tx, plain, BY))

        def refused(spec: LoggerSpec[str]) -> str:
            try:
                store.run(lambda tx: loggers.add_logger(tx, spec, BY))
            except (InvalidInput, NotFound) as exc:
                return exc.field
            return "nothing"

        other = a_spec("M", archive, LoggerMode.ON_TRIGGER)
        assert refused(a_spec("l", archive, LoggerMode.ON_TRIGGER)) == "name", "names do not differ by case"
        assert refused(a_spec("M", archive, LoggerMode.ON_CHANGE, tags=(uid,))) == "tags"
        assert refused(a_spec("M", archive, LoggerMode.ON_TRIGGER, tags=("f" * 36,))) == "tags"
        number = TriggerSpec(uid, Edge.CHANGE, number_tag=uid)
        assert refused(a_spec(other.name, archive, other.mode.kind, trigger=number)) == "number_tag"
        assert refused(a_spec("M", archive, other.mode.kind, trigger=TriggerSpec(reset=True))) == "reset"
        twice = a_spec("M", archive, other.mode.kind, tags=("a", "b"), columns=(("a", "x"), ("b", "X")))
        assert refused(twice) == "columns"


def test_what_a_logger_may_have_of_late_is_kept_and_travels(store: Store, source: str) -> None:
    """A member's own inhibit tag, a sample at an edge, no interval: in the store, in the record of changes,
    in a document; a tag that is removed is named nowhere any more."""
    archive = store.run(lambda tx: archives.add_archive(tx, ArchiveSpec("Samples"), BY))
    a, b, stop, edge = add(store, *(tag(source, name) for name in ("a", "b", "stop", "edge")))
    wanted: LoggerSpec[str] = a_spec(
        "On demand", archive, LoggerMode.PERIODIC, tags=(a, b), inhibits=((b, stop),),
        sample_on=EdgeSpec(edge, Edge.EITHER),
    )  # fmt: skip
    uid = store.run(lambda tx: loggers.add_logger(tx, wanted, BY))
    with store.snapshot() as tx:
        assert loggers.get_row(tx, uid).spec == wanted.checked()
        (logger,) = loggers.list_loggers(tx)
        assert loggers.list_summaries(tx)[0].text == "on demand"
        whole = document.read_document(tx)
    numbers = {name: number for number, name in enumerate(("a", "b", "stop", "edge"), logger.tags[0])}
    assert logger.inhibits == ((numbers["b"], numbers["stop"]),)
    assert logger.sample_on == EdgeSpec(numbers["edge"], Edge.EITHER)
    (plain,) = whole["loggers"]
    assert (plain["inhibits"], plain["sample_on"]) == ({b: stop}, {"tag": edge, "edge": "either"})
    assert store.run(lambda tx: document.write_document(tx, whole, BY)) == []
    older = {name: value for name, value in plain.items() if name not in ("inhibits", "sample_on")}
    store.run(lambda tx: document.write_document(tx, {**whole, "loggers": [older]}, BY))
    with store.snapshot() as tx:
        assert loggers.get_row(tx, uid).spec == wanted.checked(), "what an older file does not say stays"
    renamed = {**older, "name": "Asked for"}
    store.run(lambda tx: document.write_document(tx, {**whole, "loggers": [renamed]}, BY))
    with store.snapshot() as tx:
        kept = loggers.get_row(tx, uid).spec
    assert (kept.name, kept.inhibits, kept.sample_on) == ("Asked for", wanted.inhibits, wanted.sample_on)
    store.run(lambda tx: tag_changes.remove_tags(tx, [stop, edge], BY, {}))
    with store.snapshot() as tx:
        spec = loggers.get_row(tx, uid).spec
    assert (spec.inhibits, spec.sample_on) == ((), None)


@pytest.mark.parametrize(
    ("fields", "field"),
    [
        ({"inhibits": (("x", "y"),)}, "inhibits"),
        ({"mode": LoggerMode.PERIODIC, "interval_us": 0, "keeps": Keeps.MEAN}, "keeps"),
        ({"mode": LoggerMode.PERIODIC, "when": WhenSpec(interval_tag="i")}, "interval_us"),
        ({"mode": LoggerMode.PERIODIC, "interval_us": 1}, "interval_us"),
    ],
)
def test_what_has_no_meaning_names_its_field(fields: dict[str, object], field: str) -> None:
    spec = a_spec("L", "a", **{"mode": LoggerMode.ON_CHANGE, "tags": ("t",), **fields})  # type: ignore[arg-type]
    with pytest.raises(InvalidInput) as refused:
        spec.checked()
    assert refused.value.field == field


@pytest.mark.parametrize(
    "part", [{"wish": 1}, {"trigger": {"tags": 1}}, {"rule": {"size": 1}}, {"mode": "x"}]
)
def test_a_field_that_is_none_is_refused(part: dict[str, object]) -> None:
    with pytest.raises(ValueError, match=r"wish|tags|size|mode"):
        from_plain({"name": "L", "archive": "a", "mode": "on_change", **part})
