"""Signing in and out, and whom a token stands for."""

from __future__ import annotations

import secrets
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from cronaca.core.access import Actor, Permission
from cronaca.core.errors import NotSignedIn, TooManyAttempts
from cronaca.core.model import MINUTE, SECOND
from cronaca.core.people import SessionLimits, held_back_us
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.logbook.actions import Action, add_action
from cronaca.plant.people import accounts, sign_ins
from cronaca.plant.people.accounts import Account
from cronaca.plant.people.sign_ins import SignedIn
from cronaca.services.people.passwords import Passwords
from cronaca.services.people.recalled import Recalled

_TOUCH_US: Final = MINUTE
_SIGN_IN: Final = "sign_in"
_WRONG: Final = "The name or the password is wrong."
_USUAL: Final = SessionLimits()


@dataclass(frozen=True, slots=True)
class From:
    """Where a request comes from: its address, and what the browser calls itself."""

    address: str
    agent: str = ""


class SignIns:
    """Signs people in and out, for one server."""

    def __init__(
        self, store: Store, passwords: Passwords, now_us: Callable[[], int],
        limits: SessionLimits = _USUAL,
    ) -> None:  # fmt: skip
        self._store = store
        self._passwords = passwords
        self._now_us = now_us
        self._limits = limits
        self._recalled: Recalled[SignedIn] = Recalled()
        self._one_by_one = threading.Lock()

    def sign_in(self, name: str, password: str, where: From, before: str = "") -> str:
        """Signs somebody in; returns the token of a new session, and ends that of the token `before`. Raises
        NotSignedIn, the same for an unknown name and a wrong password, and TooManyAttempts."""
        name = name.strip()
        with self._one_by_one:
            account, attempt = self._store.run(lambda tx: self._begin(tx, name, where))
        kept = account.password_hash if account is not None and account.spec.enabled else None
        if not self._passwords.fits(password, kept) or account is None:
            self._store.run(lambda tx: self._refuse(tx, where))
            raise NotSignedIn(_WRONG)
        token = secrets.token_urlsafe(32)
        again = self._passwords.hash(password) if self._passwords.is_outdated(account.password_hash) else ""

        def end(tx: Transaction) -> None:
            now = accounts.get_account(tx, account.uid, to_change=True)
            if now.password_hash != account.password_hash:
                raise NotSignedIn(_WRONG)  # it was changed while it was looked at
            sign_ins.mark_succeeded(tx, attempt)
            if before:
                sign_ins.end_session(tx, before)
            if again:
                accounts.set_password(tx, now, again, must_change=now.must_change)
            self._open(tx, now, token, where)

        self._store.run(end)
        self.forget(before)
        return token

    def _begin(self, tx: Transaction, name: str, where: From) -> tuple[Account | None, int]:
        """The attempt counts as one in vain before it is looked at: many at a time are counted as well."""
        account = accounts.find_by_name(tx, name)
        # However it is written: to the database, é and e are the same letter.
        known_as = name if account is None else account.spec.name
        return account, begin_attempt(tx, known_as, where.address, self._now_us())

    def _open(self, tx: Transaction, account: Account, token: str, where: From) -> None:
        now_us = self._now_us()
        uid = sign_ins.add_session(tx, token, account.account_id, where.address, where.agent, now_us)
        self._clear(tx)
        _note(tx, now_us, account.spec.name, uid, "signed in", where)

    def _refuse(self, tx: Transaction, where: From) -> None:
        # What was typed is in no trail: it may be a password in the wrong field.
        _note(tx, self._now_us(), "", "", "refused", where)
        self._clear(tx)

    def _clear(self, tx: Transaction) -> None:
        sign_ins.clear_old(tx, self._now_us(), self._limits.idle_us, self._limits.absolute_us)

    def sign_out(self, token: str) -> None:
        """Ends the session of a token, whatever it stands for."""
        who = self.find(token)
        now_us = self._now_us()

        def end(tx: Transaction) -> None:
            sign_ins.end_session(tx, token)
            if who is not None:
                _note(tx, now_us, who.name, who.session, "signed out", None)

        self._store.run(end)
        self.forget(token)

    def known(self, token: str) -> tuple[bool, SignedIn | None]:
        """Whether it is known from a moment ago whom a token stands for, and whom: without asking."""
        is_known, found = self._recalled.known(token)
        return is_known, self._valid(found)

    def find(self, token: str) -> SignedIn | None:
        """Whom a token stands for; None: nobody any more. While the database is away it is what was known
        before, for a quarter of an hour; raises StoreUnavailable where nothing was."""
        return self._valid(self._recalled.find(token, lambda: self._ask(token)))

    def _ask(self, token: str) -> SignedIn | None:
        with self._store.snapshot() as tx:
            found = self._valid(sign_ins.find_session(tx, token))
        now_us = self._now_us()
        if found is not None and now_us - found.times.seen_us > _TOUCH_US:
            self._store.run(lambda tx: sign_ins.touch_session(tx, token, now_us))
        return found

    def _valid(self, found: SignedIn | None) -> SignedIn | None:
        """A session that holds at this moment."""
        holds = found is not None and found.times.holds(self._now_us(), self._limits)
        return found if holds else None

    def forget(self, token: str) -> None:
        """What the token stands for has changed: it is asked for anew."""
        self._recalled.forget(token)


def actor_of(who: SignedIn) -> Actor:
    """What somebody who is signed in may do: nothing before a password was changed that has to be."""
    permissions: frozenset[Permission] = frozenset() if who.must_change else who.permissions
    return Actor(who.name, permissions, who.account, who.session, who.must_change)


def begin_attempt(tx: Transaction, name: str, place: str, now_us: int) -> int:
    """A password is about to be checked; returns the number of the attempt, which is in vain as long as it is
    not marked. `place`: an address, or a session. Raises TooManyAttempts."""
    wait_us = held_back_us(sign_ins.failures_of(tx, name, place, now_us), now_us)
    if wait_us > 0:
        raise TooManyAttempts(-(-wait_us // SECOND))
    return sign_ins.add_attempt(tx, name, place, now_us)


def _note(tx: Transaction, now_us: int, name: str, uid: str, action: str, where: From | None) -> None:
    after = None if where is None else {"address": where.address}
    add_action(tx, Action(now_us, name, _SIGN_IN, "session", uid, name, action, None, after))
