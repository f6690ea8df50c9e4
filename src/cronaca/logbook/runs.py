"""Runs: named stretches of time with a start, an end (open while they last) and attributes."""

from __future__ import annotations

import json
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from cronaca.core import quality as q
from cronaca.core.bits import from_bits
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.groups import WHOLE_PLANT
from cronaca.core.model import RunOrigin, ValueType, Window
from cronaca.core.outputs import RunAttribute, RunMark
from cronaca.core.topics import Topic
from cronaca.db.transaction import Row, Transaction

_COLUMNS: Final = (
    "r.run_id, r.uid, r.rule_id, r.origin, r.name, r.start_us, r.end_us, r.cut, r.start_attributes, "
    "r.end_attributes, r.person"
)
_LIST: Final = f"""
SELECT {_COLUMNS} FROM run r LEFT JOIN run_rule u ON u.rule_id = r.rule_id
WHERE r.start_us < %(end_us)s AND COALESCE(r.end_us, %(end_us)s) >= %(start_us)s
    AND (%(text)s = '' OR INSTR(r.name, %(text)s) OR INSTR(COALESCE(r.start_attributes, ''), %(text)s))
    AND (%(rule)s = '' OR u.uid = %(rule)s) AND (%(origin)s = '' OR r.origin = %(origin)s)
    AND (r.start_us, r.run_id) < (%(before_us)s, %(before_id)s)
ORDER BY r.start_us DESC, r.run_id DESC LIMIT %(limit)s
"""
_GET: Final = f"SELECT {_COLUMNS} FROM run r WHERE r.uid = %(uid)s"
_ADD: Final = """
INSERT INTO run (uid, rule_id, origin, name, start_us, end_us, cut, epoch, start_attributes, end_attributes,
    person)
VALUES (%(uid)s, %(rule_id)s, %(origin)s, %(name)s, %(start_us)s, %(end_us)s, %(cut)s, %(epoch)s,
    %(attributes)s, %(end_attributes)s, %(person)s)
"""
_END: Final = """
UPDATE run SET end_us = GREATEST(start_us, %(end_us)s), end_attributes = %(attributes)s, cut = FALSE
WHERE rule_id = %(rule_id)s AND epoch = %(epoch)s AND (end_us IS NULL OR cut)
ORDER BY start_us DESC LIMIT 1
"""
_CUT: Final = """
UPDATE run SET end_us = GREATEST(start_us, %(at_us)s), cut = TRUE WHERE end_us IS NULL AND rule_id IS NOT NULL
    AND epoch IN (SELECT epoch FROM recorder_epoch WHERE group_id = %(group_id)s)
"""
_CARRY: Final = """
UPDATE run SET epoch = %(epoch)s WHERE end_us IS NULL AND rule_id IS NOT NULL
    AND epoch IN (SELECT epoch FROM recorder_epoch WHERE group_id = %(group_id)s)
"""
_CHANGE: Final = "UPDATE run SET name = %(name)s, end_us = %(end_us)s WHERE uid = %(uid)s"
_REMOVE: Final = "DELETE FROM run WHERE uid = %(uid)s"
_FIRST: Final = "SELECT MIN(start_us) FROM run WHERE rule_id = %(rule_id)s"
_FAR: Final = (1 << 62) - 1


@dataclass(frozen=True, slots=True)
class AttributeValue:
    """What a tag was when a run began or ended; None where it was Bad."""

    tag_id: int
    value: float | int | bool | None
    quality: int


@dataclass(frozen=True, slots=True)
class Run:
    """A run on record."""

    run_id: int
    uid: str
    rule_id: int | None
    origin: RunOrigin
    name: str
    start_us: int
    end_us: int | None
    cut: bool
    start_attributes: tuple[AttributeValue, ...]
    end_attributes: tuple[AttributeValue, ...]
    person: str


@dataclass(frozen=True, slots=True)
class RunFilter:
    """Which runs: a text in name or attributes, a rule by uid, an origin."""

    text: str = ""
    rule: str = ""
    origin: str = ""


def put_marks(tx: Transaction, epoch: int, marks: Sequence[RunMark], *, cut_us: int | None = None) -> None:
    """Begins and ends runs as an epoch's recorder says. Of an epoch that is over what begins is cut off at
    `cut_us`, where the knowledge of its flush ends, until its own end comes along."""
    tx.changes(Topic.RUNS)
    for mark in marks:
        attributes = json.dumps([_plain(value) for value in mark.attributes])
        if mark.begins:
            _add(tx, mark, epoch, attributes, cut_us)
        else:
            tx.execute(_END, rule_id=mark.rule_id, epoch=epoch, end_us=mark.at_us, attributes=attributes)


def add_past(tx: Transaction, begin: RunMark, end: RunMark | None, until_us: int) -> None:
    """A run that was found in what was recorded before; without an end it is cut off at `until_us`."""
    tx.changes(Topic.RUNS)
    tx.insert(
        _ADD, uid=str(uuid.uuid4()), rule_id=begin.rule_id, origin=begin.origin, name=begin.name,
        start_us=begin.at_us, end_us=until_us if end is None else end.at_us, cut=end is None, epoch=None,
        attributes=json.dumps([_plain(value) for value in begin.attributes]),
        end_attributes=None if end is None else json.dumps([_plain(value) for value in end.attributes]),
        person="",
    )  # fmt: skip


def first_start_us(tx: Transaction, rule_id: int) -> int | None:
    """When the first run of a rule began."""
    row = tx.fetch_one(_FIRST, rule_id=rule_id)
    return None if row is None else row[0]


def _add(tx: Transaction, mark: RunMark, epoch: int, attributes: str, end_us: int | None) -> None:
    tx.insert(
        _ADD, uid=str(uuid.uuid4()), rule_id=mark.rule_id, origin=mark.origin, name=mark.name,
        start_us=mark.at_us, end_us=None if end_us is None else max(end_us, mark.at_us),
        cut=end_us is not None, epoch=epoch, attributes=attributes, end_attributes=None, person="",
    )  # fmt: skip


def _plain(attribute: RunAttribute) -> list[Any]:
    usable = attribute.quality < q.BAD
    value = from_bits(attribute.bits, ValueType(attribute.value_type)) if usable else None
    return [attribute.tag_id, value, attribute.quality]


def cut(tx: Transaction, at_us: int, group: int = WHOLE_PLANT) -> None:
    """The recorder that watched ended: its runs end where its knowledge did."""
    tx.changes(Topic.RUNS)
    tx.execute(_CUT, at_us=at_us, group_id=group)


def carry(tx: Transaction, epoch: int, group: int = WHOLE_PLANT) -> None:
    """The same recorder goes on under another epoch: its runs last."""
    tx.changes(Topic.RUNS)
    tx.execute(_CARRY, epoch=epoch, group_id=group)


def list_runs(
    tx: Transaction,
    window: Window,
    chosen: RunFilter,
    *,
    before: tuple[int, int] | None = None,
    limit: int = 200,
) -> list[Run]:
    """Runs that touch a window, newest first; `before` (start, number): those before it."""
    before_us, before_id = before or (_FAR, _FAR)
    rows = tx.fetch(
        _LIST, start_us=window.start_us, end_us=window.end_us, text=chosen.text, rule=chosen.rule,
        origin=chosen.origin, before_us=before_us, before_id=before_id, limit=limit,
    )  # fmt: skip
    return [_run(row) for row in rows]


def get_run(tx: Transaction, uid: str) -> Run:
    """One run; raises NotFound."""
    row = tx.fetch_one(_GET, uid=uid)
    if row is None:
        raise NotFound("run", uid)
    return _run(row)


def add_run(tx: Transaction, name: str, start_us: int, end_us: int | None, person: str) -> str:
    """A run that a person marks; returns its uid."""
    tx.changes(Topic.RUNS)
    uid = str(uuid.uuid4())
    tx.insert(
        _ADD, uid=uid, rule_id=None, origin=RunOrigin.PERSON.value, name=name, start_us=start_us,
        end_us=end_us, cut=False, epoch=None, attributes="[]", end_attributes=None, person=person,
    )  # fmt: skip
    return uid


def change_run(tx: Transaction, uid: str, name: str, end_us: int | None) -> None:
    """Gives a run another name; one that a person marked another end. Raises NotFound, InvalidInput."""
    tx.changes(Topic.RUNS)
    run = get_run(tx, uid)
    if run.origin is not RunOrigin.PERSON and end_us != run.end_us:
        raise InvalidInput(
            "end_us", "recorder-ends-run", "the recorder ends this run", "Change its name only."
        )
    if end_us is not None and end_us < run.start_us:
        raise InvalidInput(
            "end_us", "end-us-lies-before-start", "it lies before the start", "Give a later moment."
        )
    tx.execute(_CHANGE, uid=uid, name=name, end_us=end_us)


def remove_run(tx: Transaction, uid: str) -> None:
    """Removes a run that a person marked. Raises NotFound, InvalidInput."""
    tx.changes(Topic.RUNS)
    if get_run(tx, uid).origin is not RunOrigin.PERSON:
        raise InvalidInput(
            "run", "recorder-found", "the recorder has found it", "Only runs that people marked are removed."
        )
    tx.execute(_REMOVE, uid=uid)


def _run(row: Row) -> Run:
    number, uid, rule_id, origin, name, start_us, end_us, is_cut, at_start, at_end, person = row
    return Run(
        number, uid, rule_id, RunOrigin(origin), name, start_us, end_us, bool(is_cut), _attributes(at_start),
        _attributes(at_end), person,
    )  # fmt: skip


def _attributes(text: str | None) -> tuple[AttributeValue, ...]:
    rows: Sequence[Any] = [] if text is None else json.loads(text)
    return tuple(AttributeValue(*row) for row in rows)
