"""Accounts: added, changed and removed by those who manage people; the first one; one's own password."""

from __future__ import annotations

import hmac
import secrets
import time
from typing import Final

from cronaca.core.access import BEFORE_ACCOUNTS, EVERYTHING, Actor, Permission, Permitted
from cronaca.core.errors import EditConflict, InvalidInput, NotPermitted
from cronaca.core.names import check_name, check_text
from cronaca.core.people import ADMINISTRATOR, ROLES
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.plant.people import accounts, roles, sign_ins
from cronaca.plant.people.accounts import Account, AccountSpec
from cronaca.plant.people.sign_ins import SessionRow
from cronaca.services.acting import Act, act
from cronaca.services.people.passwords import Passwords, check_password
from cronaca.services.people.signing_in import begin_attempt
from cronaca.views.sheets import give_private_sheets

_LONGEST_NAME: Final = 100
_LONGEST_FULL_NAME: Final = 200


class People:
    """The accounts of an installation."""

    def __init__(self, store: Store, passwords: Passwords) -> None:
        self._store = store
        self._passwords = passwords
        self._code = secrets.token_hex(4)

    def is_empty(self) -> bool:
        """Whether there is no account yet."""
        with self._store.snapshot() as tx:
            return not accounts.exists_any(tx)

    @property
    def first_code(self) -> str:
        """What the first administrator has to give; it is printed where this server was started."""
        return self._code

    def add_first(self, spec: AccountSpec, password: str, code: str) -> None:
        """Adds the first administrator. Raises InvalidInput for a wrong code, and NotPermitted once there is
        an account."""
        if not hmac.compare_digest(code.strip().lower().encode(), self._code.encode()):
            raise InvalidInput(
                "code", "first-code-wrong", "it is wrong",
                "Copy the code that this server printed when it was started.",
            )  # fmt: skip
        spec = _checked(spec)
        check_password(password, [spec.name, spec.full_name])
        kept = self._passwords.hash(password)
        who = Actor(spec.name, EVERYTHING).permitted(Permission.MANAGE_PEOPLE)

        def work(tx: Transaction, by: Act) -> None:
            if accounts.exists_any(tx):
                raise NotPermitted(spec.name, Permission.MANAGE_PEOPLE.value)
            first = AccountSpec(spec.name, spec.full_name, ADMINISTRATOR)
            uid = accounts.insert_account(tx, first, kept, by.created_us, must_change=False)
            # What was saved for one alone before there were accounts is the first administrator's.
            give_private_sheets(tx, BEFORE_ACCOUNTS, spec.name)
            by.note("person", uid, None, first)

        act(self._store, who, work)
        self._code = secrets.token_hex(4)

    def list_all(self) -> list[tuple[Account, int | None]]:
        """All accounts by name, each with its last sign-in, µs."""
        with self._store.snapshot() as tx:
            return accounts.list_accounts(tx)

    def add(self, who: Permitted, spec: AccountSpec, password: str) -> str:
        """Adds an account whose password is to be changed at first; returns its uid. Raises InvalidInput."""
        spec = _checked(spec)
        check_password(password, [spec.name, spec.full_name])
        kept = self._passwords.hash(password)

        def work(tx: Transaction, by: Act) -> str:
            _check_role(tx, spec.role)
            uid = accounts.insert_account(tx, spec, kept, by.created_us, must_change=True)
            by.note("person", uid, None, spec)
            return uid

        return act(self._store, who, work)

    def change(self, who: Permitted, uid: str, spec: AccountSpec, seen: int) -> None:
        """Changes an account; one that may do other things is signed out, and signs in anew. `seen`: the
        revision that was changed. Raises InvalidInput, NotFound, EditConflict."""
        spec = _checked(spec)

        def work(tx: Transaction, by: Act) -> None:
            account = _seen(accounts.get_account(tx, uid, to_change=True), seen)
            _check_role(tx, spec.role)
            if account.spec.role == ADMINISTRATOR and (spec.role != ADMINISTRATOR or not spec.enabled):
                _check_another(tx, account)
            accounts.change_account(tx, account, spec)
            if spec.name != account.spec.name:
                give_private_sheets(tx, account.spec.name, spec.name)
            if not spec.enabled or spec.role != account.spec.role:
                sign_ins.end_all(tx, account.account_id)
            by.note("person", uid, account.spec, spec)

        act(self._store, who, work)

    def remove(self, who: Permitted, uid: str) -> None:
        """Removes an account and ends its sessions. Raises NotFound, and InvalidInput for the last
        administrator."""

        def work(tx: Transaction, by: Act) -> None:
            account = accounts.get_account(tx, uid, to_change=True)
            if account.spec.role == ADMINISTRATOR:
                _check_another(tx, account)
            sign_ins.end_all(tx, account.account_id)
            accounts.remove_account(tx, account, by.created_us)
            # Who is given the name later does not see them.
            give_private_sheets(tx, account.spec.name, account.uid)
            by.note("person", uid, account.spec, None)

        act(self._store, who, work)

    def reset_password(self, who: Permitted, uid: str, password: str) -> None:
        """Gives somebody another password, to be changed at the next sign-in, and ends their sessions. Raises
        InvalidInput, NotFound."""
        with self._store.snapshot() as tx:
            spec = accounts.get_account(tx, uid).spec
        check_password(password, [spec.name, spec.full_name])
        kept = self._passwords.hash(password)

        def work(tx: Transaction, by: Act) -> None:
            account = accounts.get_account(tx, uid, to_change=True)
            accounts.set_password(tx, account, kept, must_change=True)
            sign_ins.end_all(tx, account.account_id)
            by.note("password", uid, {"name": account.spec.name}, {"name": account.spec.name})

        act(self._store, who, work)

    def reset_at_machine(self, name: str, password: str, by_whom: str) -> None:
        """Gives the account of a name another password, by somebody who commands the machine; its sessions
        end. Raises InvalidInput."""
        with self._store.snapshot() as tx:
            account = accounts.find_by_name(tx, name.strip())
        if account is None:
            raise InvalidInput(
                "name", "person-unknown", "there is no account {name!r}", "Name one.", name=name
            )
        check_password(password, [account.spec.name, account.spec.full_name])
        kept = self._passwords.hash(password)

        def work(tx: Transaction, by: Act) -> None:
            accounts.set_password(tx, account, kept, must_change=False)
            sign_ins.end_all(tx, account.account_id)
            by.note("password", account.uid, {"name": account.spec.name}, {"name": account.spec.name})

        act(self._store, Actor(by_whom, EVERYTHING).permitted(Permission.MANAGE_PEOPLE), work)

    def end_sessions(self, who: Permitted, uid: str) -> None:
        """Signs somebody out everywhere. Raises NotFound."""

        def work(tx: Transaction, by: Act) -> None:
            account = accounts.get_account(tx, uid)
            sign_ins.end_all(tx, account.account_id)
            by.note("session", uid, {"name": account.spec.name}, None)

        act(self._store, who, work)

    def change_own_password(self, actor: Actor, old: str, new: str) -> None:
        """One's own password; all other sessions of one's own end. Who has taken over a session guesses at
        the old one no more often than at a sign-in. Raises InvalidInput, TooManyAttempts."""

        def begin(tx: Transaction) -> tuple[Account, int]:
            account = accounts.get_account(tx, actor.account)
            now_us = time.time_ns() // 1000
            return account, begin_attempt(tx, account.spec.name, actor.session, now_us)

        account, attempt = self._store.run(begin)
        if not self._passwords.fits(old, account.password_hash):
            raise InvalidInput(
                "old", "password-wrong", "it is not the present one", "Type your present password."
            )
        self._store.run(lambda tx: sign_ins.mark_succeeded(tx, attempt))
        if old == new:
            raise InvalidInput("new", "password-same", "it is the present one", "Choose another one.")
        check_password(new, [account.spec.name, account.spec.full_name], "new")
        kept = self._passwords.hash(new)

        def work(tx: Transaction, by: Act) -> None:
            accounts.set_password(tx, account, kept, must_change=False)
            sign_ins.end_all(tx, account.account_id, but=actor.session)
            by.note("password", account.uid, {"name": account.spec.name}, {"name": account.spec.name})

        act(self._store, Permitted(actor, Permission.VIEW), work)

    def own_sessions(self, actor: Actor) -> list[SessionRow]:
        """One's own sign-ins, the last used one first."""
        with self._store.snapshot() as tx:
            return sign_ins.list_sessions(tx, accounts.get_account(tx, actor.account).account_id)

    def end_own(self, actor: Actor, uid: str) -> None:
        """Ends one of one's own sessions; `uid` empty: all but this one."""

        def work(tx: Transaction, by: Act) -> None:
            account = accounts.get_account(tx, actor.account)
            if uid:
                sign_ins.end_one(tx, account.account_id, uid)
            else:
                sign_ins.end_all(tx, account.account_id, but=actor.session)
            by.note("session", uid, {"name": account.spec.name}, None)

        act(self._store, Permitted(actor, Permission.VIEW), work)


def _checked(spec: AccountSpec) -> AccountSpec:
    name = check_name(spec.name, _LONGEST_NAME)
    full_name = check_text(spec.full_name, _LONGEST_FULL_NAME, "full_name")
    return AccountSpec(name, full_name, spec.role, spec.enabled)


def _check_role(tx: Transaction, role: str) -> None:
    """Raises InvalidInput for a role that there is not."""
    if role in ROLES:
        return
    own = roles.list_roles(tx)
    if role not in {one.uid for one in own}:
        raise InvalidInput(
            "role", "role-unknown", "{name!r} is not a role", "Use one of: {known}.",
            name=role, known=", ".join([*ROLES, *(one.uid for one in own)]),
        )  # fmt: skip


def _seen(account: Account, seen: int) -> Account:
    if account.revision != seen:
        raise EditConflict("person", account.spec.name, "", time.time_ns() // 1000)
    return account


def _check_another(tx: Transaction, account: Account) -> None:
    if not accounts.has_another(tx, ADMINISTRATOR, account.uid):
        raise InvalidInput(
            "role", "last-administrator", "{name} is the last administrator",
            "Make somebody else an administrator first.", name=account.spec.name,
        )  # fmt: skip
