"""Tokens for programs: named, with some of one's own permissions, until an end."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from typing import Final

from cronaca.core.access import Actor, Permission, Permitted
from cronaca.core.errors import InvalidInput, NotFound, NotPermitted
from cronaca.core.model import DAY, MINUTE
from cronaca.core.names import check_name
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.plant.people import accounts, program_tokens
from cronaca.plant.people.program_tokens import Program, TokenRow, TokenSpec
from cronaca.services.acting import Act, act
from cronaca.services.people.recalled import Recalled

LONGEST_US: Final = 366 * DAY
_MOST: Final = 50
_LONGEST_NAME: Final = 100
_TOUCH_US: Final = MINUTE
_NEVER: Final = frozenset({Permission.MANAGE_PEOPLE})
"""What no program may do: who steals a token must not make accounts."""


class ProgramTokens:
    """Issues tokens to people, and knows what each stands for."""

    def __init__(self, store: Store, now_us: Callable[[], int]) -> None:
        self._store = store
        self._now_us = now_us
        self._recalled: Recalled[Program] = Recalled()

    def issue(self, actor: Actor, spec: TokenSpec) -> tuple[str, str]:
        """Makes a token that acts for a person; returns its uid and the token, which is told this once.
        Raises InvalidInput, and NotPermitted to a program, and for what one may not do oneself."""
        _check_person(actor)
        name = check_name(spec.name, _LONGEST_NAME)
        if not spec.permissions:
            raise InvalidInput("permissions", "token-no-permission", "there are none", "Choose at least one.")
        for permission in sorted(spec.permissions):
            if permission not in actor.permissions or permission in _NEVER:
                raise NotPermitted(actor.name, permission.value)
        token = secrets.token_urlsafe(32)
        kept = TokenSpec(name, spec.permissions, spec.ends_us)

        def work(tx: Transaction, by: Act) -> str:
            if not by.created_us < kept.ends_us <= by.created_us + LONGEST_US:
                raise InvalidInput(
                    "ends_us", "token-end", "it does not lie within the next year", "Choose another end."
                )
            account = accounts.get_account(tx, actor.account, to_change=True)
            if program_tokens.count_tokens(tx, account.account_id) >= _MOST:
                raise InvalidInput(
                    "name", "token-too-many", "you have {most} tokens", "Revoke one first.", most=_MOST
                )
            uid = program_tokens.add_token(tx, token, account.account_id, kept, by.created_us)
            told = {"name": name, "permissions": sorted(kept.permissions), "ends_us": kept.ends_us}
            by.note("token", uid, None, told)
            return uid

        return act(self._store, Permitted(actor, Permission.VIEW), work), token

    def list_own(self, actor: Actor) -> list[TokenRow]:
        """One's own tokens, the newest first."""
        _check_person(actor)
        with self._store.snapshot() as tx:
            account = accounts.get_account(tx, actor.account)
            return program_tokens.list_tokens(tx, account.account_id)

    def revoke(self, actor: Actor, uid: str) -> None:
        """Ends one of one's own tokens, within a second on every server. Raises NotFound."""
        _check_person(actor)

        def work(tx: Transaction, by: Act) -> None:
            account = accounts.get_account(tx, actor.account)
            rows = {row.uid: row for row in program_tokens.list_tokens(tx, account.account_id)}
            if uid not in rows or not program_tokens.remove_token(tx, account.account_id, uid):
                raise NotFound("token", uid)
            by.note("token", uid, {"name": rows[uid].spec.name}, None)

        act(self._store, Permitted(actor, Permission.VIEW), work)
        self._recalled.forget_all()

    def known(self, token: str) -> tuple[bool, Actor | None]:
        """Whether it is known from a moment ago who acts with a token, and who: without asking."""
        is_known, program = self._recalled.known(token)
        return is_known, self._actor(program)

    def find(self, token: str, address: str) -> Actor | None:
        """Who acts with a token: its account, with the permissions that both have; None: nobody. Raises
        StoreError."""
        return self._actor(self._recalled.find(token, lambda: self._ask(token, address)))

    def _ask(self, token: str, address: str) -> Program | None:
        now_us = self._now_us()
        with self._store.snapshot() as tx:
            program = program_tokens.find_program(tx, token)
        if program is not None and now_us - (program.used_us or 0) > _TOUCH_US:
            self._store.run(lambda tx: program_tokens.mark_used(tx, token, now_us, address))
        return program

    def _actor(self, program: Program | None) -> Actor | None:
        if program is None or self._now_us() >= program.spec.ends_us:
            return None
        permissions = program.permissions & program.spec.permissions
        return Actor(program.person, permissions, program.account, program=program.spec.name)


def _check_person(actor: Actor) -> None:
    """A token makes no tokens."""
    if not actor.session:
        raise NotPermitted(actor.name, "sign_in")
