"""Rules that find runs, as they are set up: read, added, changed, removed."""

from __future__ import annotations

import json
import uuid
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, Final

from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.model import RunOrigin, RunRule
from cronaca.core.setup import RunRuleSpec
from cronaca.db.transaction import Transaction
from cronaca.plant.changes import By, Log, check_revision
from cronaca.plant.tags import list_tags

_RULES: Final = """
SELECT rule_id, uid, name, origin, tag_id, logger_id, attributes, enabled FROM run_rule
ORDER BY NATURAL_SORT_KEY(name), name
"""
_REVISIONS: Final = "SELECT uid, revision FROM run_rule"
_TAGS: Final = "SELECT tag_id, uid FROM tag WHERE removed_us IS NULL"
_LOGGERS: Final = "SELECT logger_id, uid FROM logger"
_ADD: Final = """
INSERT INTO run_rule (uid, name, origin, tag_id, logger_id, attributes, enabled)
VALUES (%(uid)s, %(name)s, %(origin)s, %(tag_id)s, %(logger_id)s, %(attributes)s, %(enabled)s)
"""
_CHANGE: Final = """
UPDATE run_rule SET name = %(name)s, origin = %(origin)s, tag_id = %(tag_id)s, logger_id = %(logger_id)s,
    attributes = %(attributes)s, enabled = %(enabled)s, revision = revision + 1
WHERE uid = %(uid)s
"""
_REMOVE: Final = "DELETE FROM run_rule WHERE uid = %(uid)s"


@dataclass(frozen=True, slots=True)
class RunRuleRow:
    """A rule as it is set up."""

    rule_id: int
    uid: str
    revision: int
    spec: RunRuleSpec


def list_rules(tx: Transaction) -> list[RunRule]:
    """All rules by name."""
    return [
        RunRule(
            number, uid, name, RunOrigin(origin), tag_id, logger_id, tuple(json.loads(attributes)), bool(on)
        )
        for number, uid, name, origin, tag_id, logger_id, attributes, on in tx.fetch(_RULES)
    ]


def list_rows(tx: Transaction) -> list[RunRuleRow]:
    """All rules by name. Tags and loggers that are gone are left out."""
    revisions: dict[str, int] = dict(tx.fetch(_REVISIONS))
    tags: dict[int, str] = dict(tx.fetch(_TAGS))
    loggers: dict[int, str] = dict(tx.fetch(_LOGGERS))
    return [
        RunRuleRow(
            rule.rule_id, rule.uid, revisions[rule.uid],
            RunRuleSpec(
                rule.name, rule.origin, tags.get(rule.tag_id or 0), loggers.get(rule.logger_id or 0),
                tuple(tags[number] for number in rule.attributes if number in tags), rule.enabled,
            ),
        )
        for rule in list_rules(tx)
    ]  # fmt: skip


def get_rule(tx: Transaction, uid: str) -> RunRuleRow:
    """One rule; raises NotFound."""
    for row in list_rows(tx):
        if row.uid == uid:
            return row
    raise NotFound("run rule", uid)


def add_rule(tx: Transaction, spec: RunRuleSpec, by: By, uid: str = "") -> str:
    """Adds a rule; returns its uid. Raises InvalidInput, NotFound."""
    spec = spec.checked()
    log = Log(tx, "run", by)
    uid = uid or str(uuid.uuid4())
    _check_free(tx, spec.name, "")
    tx.insert(_ADD, uid=uid, **_columns(_Known.read(tx), spec))
    log.note(uid, None, to_plain(spec))
    log.write()
    return uid


def change_rule(tx: Transaction, uid: str, spec: RunRuleSpec, by: By, seen: int | None = None) -> None:
    """Changes a rule. Raises InvalidInput, NotFound, EditConflict."""
    spec = spec.checked()
    log = Log(tx, "run", by)
    row = get_rule(tx, uid)
    check_revision(tx, "run rule", uid, row.spec.name, has=row.revision, seen=seen)
    _check_free(tx, spec.name, uid)
    tx.execute(_CHANGE, uid=uid, **_columns(_Known.read(tx), spec))
    log.note(uid, to_plain(row.spec), to_plain(spec))
    log.write()


def remove_rule(tx: Transaction, uid: str, by: By, seen: int | None = None) -> None:
    """Removes a rule; the runs it has found stay. Raises NotFound, EditConflict."""
    log = Log(tx, "run", by)
    row = get_rule(tx, uid)
    check_revision(tx, "run rule", uid, row.spec.name, has=row.revision, seen=seen)
    tx.execute(_REMOVE, uid=uid)
    log.note(uid, to_plain(row.spec), None)
    log.write()


class RuleWriting:
    """Adds and changes many rules: what they are checked against is read once."""

    def __init__(self, tx: Transaction, by: By) -> None:
        self._tx = tx
        self._log = Log(tx, "run", by)
        self._known = _Known.read(tx)
        self._before = {row.uid: row.spec for row in list_rows(tx)}
        self._names = {spec.name.casefold(): uid for uid, spec in self._before.items()}

    def put(self, uid: str, spec: RunRuleSpec) -> None:
        """One rule. Raises InvalidInput, NotFound."""
        spec = spec.checked()
        if self._names.get(spec.name.casefold(), uid) != uid:
            raise InvalidInput(
                "name", "rule-name-taken", "there is a rule {spec!r}", "Take another name.", spec=spec.name
            )
        self._names[spec.name.casefold()] = uid
        old = self._before.get(uid)
        columns = _columns(self._known, spec)
        if old is None:
            self._tx.insert(_ADD, uid=uid, **columns)
        else:
            self._tx.execute(_CHANGE, uid=uid, **columns)
        self._log.note(uid, None if old is None else to_plain(old), to_plain(spec))

    def finish(self) -> None:
        """Puts all on record."""
        self._log.write()


def to_plain(spec: RunRuleSpec) -> dict[str, Any]:
    """As it is kept on record."""
    return {**asdict(spec), "origin": spec.origin.value, "attributes": list(spec.attributes)}


@dataclass(frozen=True, slots=True)
class _Known:
    """Numbers of tags and loggers by uid."""

    tags: dict[str, int]
    loggers: dict[str, int]

    @classmethod
    def read(cls, tx: Transaction) -> _Known:
        tags = {tag.uid: tag.tag_id for tag in list_tags(tx)}
        return cls(tags, {uid: number for number, uid in tx.fetch(_LOGGERS)})


def _columns(known: _Known, spec: RunRuleSpec) -> dict[str, object]:
    of_tag = spec.origin in (RunOrigin.TAG, RunOrigin.CHANGE)
    return {
        "name": spec.name,
        "origin": spec.origin.value,
        "tag_id": _number(known.tags, spec.tag, "tag") if of_tag else None,
        "logger_id": None if of_tag else _number(known.loggers, spec.logger, "logger"),
        "attributes": json.dumps([_number(known.tags, uid, "tag") for uid in spec.attributes]),
        "enabled": spec.enabled,
    }


def _number(known: Mapping[str, int], uid: str | None, kind: str) -> int:
    if uid is None or uid not in known:
        raise NotFound(kind, uid or "", field=kind)
    return known[uid]


def _check_free(tx: Transaction, name: str, own_uid: str) -> None:
    for rule in list_rules(tx):
        if rule.uid != own_uid and rule.name.casefold() == name.casefold():
            raise InvalidInput(
                "name", "name-rule", "there is a rule {name!r}", "Take another name.", name=name
            )
