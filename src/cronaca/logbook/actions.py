"""What people did: who, with which permission, to what, before and after, and how it ended. What changes the
set-up is kept by `plant.changes`, corrections of history by `history.write.edits`, with the same
person."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Final

from cronaca.db.transaction import Row, Transaction

_ADD: Final = """
INSERT INTO person_action (created_us, person, permission, kind, uid, name, action, facts_before, facts_after,
    outcome)
VALUES (%(created_us)s, %(person)s, %(permission)s, %(kind)s, %(uid)s, %(name)s, %(action)s, %(before)s,
    %(after)s, %(outcome)s)
"""
_PUT_OUTCOME: Final = "UPDATE person_action SET outcome = %(outcome)s WHERE action_id = %(action_id)s"
_LIST: Final = """
SELECT created_us, person, permission, kind, uid, name, action, facts_before, facts_after, outcome
FROM person_action ORDER BY action_id DESC LIMIT %(limit)s
"""
_LONGEST_NAME: Final = 200
_LONGEST_OUTCOME: Final = 500
Content = Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Action:
    """One thing that a person did; `before` and `after` None where it was not there. `outcome` is empty when
    it was done with the transaction that says so."""

    created_us: int
    person: str
    permission: str
    kind: str
    uid: str
    name: str
    action: str
    before: Content | None
    after: Content | None
    outcome: str = ""


def add_action(tx: Transaction, done: Action) -> int:
    """Puts an action on record; returns its number."""
    return tx.insert(
        _ADD, created_us=done.created_us, person=done.person, permission=done.permission, kind=done.kind,
        uid=done.uid, name=done.name[:_LONGEST_NAME], action=done.action, before=_text(done.before),
        after=_text(done.after), outcome=done.outcome[:_LONGEST_OUTCOME],
    )  # fmt: skip


def put_outcome(tx: Transaction, action_id: int, outcome: str) -> None:
    """How an action ended that took longer than its entry."""
    tx.execute(_PUT_OUTCOME, action_id=action_id, outcome=outcome[:_LONGEST_OUTCOME])


def list_actions(tx: Transaction, limit: int = 100) -> list[Action]:
    """Actions, newest first."""
    return [_action(row) for row in tx.fetch(_LIST, limit=limit)]


def _action(row: Row) -> Action:
    created_us, person, permission, kind, uid, name, action, before, after, outcome = row
    was, has = _content(before), _content(after)
    return Action(created_us, person, permission, kind, uid, name, action, was, has, outcome)


def _text(content: Content | None) -> str | None:
    return None if content is None else json.dumps(content)


def _content(text: str | None) -> Content | None:
    return None if text is None else json.loads(text)
