"""The one door for what people change: with the person, the permission it needs, before and after."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import asdict, dataclass, field, is_dataclass, replace
from typing import Any, TypeVar

import msgspec

from cronaca.core.access import Permitted
from cronaca.core.errors import CronacaError
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.logbook.actions import Action, Content, add_action, put_outcome
from cronaca.plant.changes import By

T = TypeVar("T")


@dataclass(frozen=True)
class Act(By):
    """What one person changes in one transaction. Whatever does not keep its own trail is noted here."""

    permission: str
    noted: list[Action] = field(default_factory=list)

    def note(self, kind: str, uid: str, before: object, after: object) -> None:
        """One object was added (nothing before), changed, or removed (nothing after). Objects are dataclasses
        or mappings."""
        action = "added" if before is None else "removed" if after is None else "changed"
        contents = _content(before), _content(after)
        name = next(
            (str(content["name"]) for content in reversed(contents) if content and "name" in content), ""
        )
        self.noted.append(
            Action(self.created_us, self.person, self.permission, kind, uid, name, action, *contents)
        )


def act(store: Store, who: Permitted, work: Callable[[Transaction, Act], T]) -> T:
    """Lets a person change something in one transaction; what they did is put on record with it. Raises what
    `work` raises, and then nothing was changed."""

    def run(tx: Transaction) -> T:
        doing = _act_of(who)
        result = work(tx, doing)
        for done in doing.noted:
            add_action(tx, _by_program(done, who.actor.program))
        return result

    return store.run(run)


def _by_program(done: Action, program: str) -> Action:
    """What a program did for a person says so."""
    return replace(done, after={**(done.after or {}), "by_program": program}) if program else done


def act_apart(
    store: Store, who: Permitted, kind: str, uid: str, name: str, asked: Content, work: Callable[[By], T]
) -> T:
    """Lets a person do something that is no one transaction (the recorder is asked, history is corrected). It
    is on record before it begins, and its end when it has ended."""
    doing = _act_of(who)
    entry = Action(
        doing.created_us, doing.person, doing.permission, kind, uid, name, "asked", None, asked, "under way"
    )
    number = store.run(lambda tx: add_action(tx, _by_program(entry, who.actor.program)))
    outcome = "failed"
    try:
        result = work(doing)
        outcome = "done"
    except CronacaError as exc:
        outcome = f"refused: {exc}"
        raise
    finally:
        ended = outcome
        store.run(lambda tx: put_outcome(tx, number, ended))
    return result


def _act_of(who: Permitted) -> Act:
    return Act(who.actor.name, time.time_ns() // 1000, who.permission.value)


def _content(thing: object) -> Content | None:
    if thing is None:
        return None
    plain: Any = asdict(thing) if is_dataclass(thing) and not isinstance(thing, type) else thing
    content: Content = msgspec.to_builtins(plain)
    return content
