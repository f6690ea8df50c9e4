"""Who is signed in, and what was tried: sessions and attempts. Tokens are kept as hashes alone."""

from __future__ import annotations

import hashlib
import uuid
from dataclasses import dataclass
from typing import Final

from cronaca.core.access import Permission
from cronaca.core.model import DAY, MINUTE
from cronaca.core.people import Failures, SessionTimes
from cronaca.db.transaction import Transaction
from cronaca.plant.people.roles import permissions_with

_LONGEST_AGENT: Final = 200
_ADDRESS: Final = 45
_KNOWN_US: Final = 30 * DAY
"""So long an address from which somebody signed in is known for them."""
_KEPT_US: Final = 30 * DAY
_MOST_HERE: Final = 100

_ADD: Final = """
INSERT INTO session (token_hash, uid, account_id, created_us, seen_us, address, agent)
VALUES (%(token_hash)s, %(uid)s, %(account_id)s, %(now_us)s, %(now_us)s, %(address)s, %(agent)s)
"""
_FIND: Final = """
SELECT s.uid, s.created_us, s.seen_us, a.uid, a.name, a.role, r.permissions, a.must_change
FROM session s JOIN account a ON a.account_id = s.account_id LEFT JOIN own_role r ON r.uid = a.role
WHERE s.token_hash = %(token_hash)s AND a.removed_us IS NULL AND a.enabled
"""
_SEEN: Final = "UPDATE session SET seen_us = %(now_us)s WHERE token_hash = %(token_hash)s"
_END: Final = "DELETE FROM session WHERE token_hash = %(token_hash)s"
_END_ONE: Final = "DELETE FROM session WHERE account_id = %(account_id)s AND uid = %(uid)s"
_END_ALL: Final = "DELETE FROM session WHERE account_id = %(account_id)s AND uid != %(kept)s"
_LIST: Final = """
SELECT uid, created_us, seen_us, address, agent FROM session WHERE account_id = %(account_id)s
ORDER BY seen_us DESC
"""
_CLEAR: Final = "DELETE FROM session WHERE seen_us < %(before_us)s OR created_us < %(begun_us)s LIMIT 1000"
_TRY: Final = """
INSERT INTO sign_in_attempt (at_us, name_hash, address, succeeded)
VALUES (%(at_us)s, %(name_hash)s, %(address)s, FALSE)
"""
_MARK: Final = "UPDATE sign_in_attempt SET succeeded = TRUE WHERE attempt_id = %(attempt)s"
_HERE: Final = """
SELECT at_us FROM sign_in_attempt
WHERE name_hash = %(name_hash)s AND address = %(address)s AND NOT succeeded AND at_us > COALESCE(
    (SELECT MAX(at_us) FROM sign_in_attempt
     WHERE name_hash = %(name_hash)s AND address = %(address)s AND succeeded), 0)
    AND at_us > %(since_us)s
ORDER BY at_us DESC LIMIT %(limit)s
"""
_ANYWHERE: Final = """
SELECT at_us FROM sign_in_attempt WHERE name_hash = %(name_hash)s AND NOT succeeded AND at_us > %(since_us)s
ORDER BY at_us DESC LIMIT %(limit)s
"""
_KNOWN: Final = """
SELECT 1 FROM sign_in_attempt
WHERE name_hash = %(name_hash)s AND address = %(address)s AND succeeded AND at_us > %(since_us)s LIMIT 1
"""
_FORGET: Final = """
DELETE FROM sign_in_attempt
WHERE at_us < %(before_us)s OR (at_us < %(failed_us)s AND NOT succeeded) LIMIT 1000
"""


@dataclass(frozen=True, slots=True)
class SignedIn:
    """Whom a token stands for."""

    session: str
    times: SessionTimes
    account: str
    name: str
    permissions: frozenset[Permission]
    must_change: bool


@dataclass(frozen=True, slots=True)
class SessionRow:
    """One sign-in of a person."""

    uid: str
    times: SessionTimes
    address: str
    agent: str


def hash_of(token: str) -> bytes:
    """What is kept of a token. It is random and long: no slow hash is needed."""
    return hashlib.sha256(token.encode()).digest()


def add_session(tx: Transaction, token: str, account_id: int, address: str, agent: str, now_us: int) -> str:
    """Opens a session; returns its uid."""
    uid = str(uuid.uuid4())
    tx.execute(
        _ADD, token_hash=hash_of(token), uid=uid, account_id=account_id, now_us=now_us,
        address=address[:_ADDRESS], agent=agent[:_LONGEST_AGENT],
    )  # fmt: skip
    return uid


def find_session(tx: Transaction, token: str) -> SignedIn | None:
    """Whom a token stands for; None: nobody, or an account that is disabled or gone."""
    row = tx.fetch_one(_FIND, token_hash=hash_of(token))
    if row is None:
        return None
    uid, created_us, seen_us, account, name, role, own, must_change = row
    times, permissions = SessionTimes(created_us, seen_us), permissions_with(role, own)
    return SignedIn(uid, times, account, name, permissions, bool(must_change))


def touch_session(tx: Transaction, token: str, now_us: int) -> None:
    """The session was used."""
    tx.execute(_SEEN, token_hash=hash_of(token), now_us=now_us)


def end_session(tx: Transaction, token: str) -> None:
    """Ends the session of a token."""
    tx.execute(_END, token_hash=hash_of(token))


def end_one(tx: Transaction, account_id: int, uid: str) -> bool:
    """Ends one session of a person; returns whether it was there."""
    return tx.execute(_END_ONE, account_id=account_id, uid=uid) > 0


def end_all(tx: Transaction, account_id: int, *, but: str = "") -> None:
    """Ends all sessions of a person, or all but one."""
    tx.execute(_END_ALL, account_id=account_id, kept=but)


def list_sessions(tx: Transaction, account_id: int) -> list[SessionRow]:
    """The sessions of a person, the last used one first."""
    return [
        SessionRow(uid, SessionTimes(created_us, seen_us), address, agent)
        for uid, created_us, seen_us, address, agent in tx.fetch(_LIST, account_id=account_id)
    ]


def add_attempt(tx: Transaction, name: str, address: str, at_us: int) -> int:
    """Somebody tries to sign in; in vain, as long as it is not marked; returns its number."""
    return tx.insert(_TRY, at_us=at_us, name_hash=_name_hash(name), address=address[:_ADDRESS])


def mark_succeeded(tx: Transaction, attempt: int) -> None:
    """Somebody has signed in."""
    tx.execute(_MARK, attempt=attempt)


def failures_of(tx: Transaction, name: str, address: str, now_us: int) -> Failures:
    """What was tried in vain for a name; whether there is such an account does not matter."""
    of = {"name_hash": _name_hash(name), "address": address[:_ADDRESS]}
    here = tx.fetch(_HERE, **of, since_us=now_us - DAY, limit=_MOST_HERE)
    anywhere = tx.fetch(_ANYWHERE, name_hash=of["name_hash"], since_us=now_us - MINUTE, limit=_MOST_HERE)
    known = tx.fetch_one(_KNOWN, **of, since_us=now_us - _KNOWN_US) is not None
    return Failures([at for (at,) in reversed(here)], [at for (at,) in reversed(anywhere)], known)


def clear_old(tx: Transaction, now_us: int, idle_us: int, absolute_us: int) -> None:
    """Removes some of the sessions that hold no more, and attempts that nothing goes by any more."""
    tx.execute(_CLEAR, before_us=now_us - idle_us, begun_us=now_us - absolute_us)
    tx.execute(_FORGET, before_us=now_us - _KEPT_US, failed_us=now_us - DAY)


def _name_hash(name: str) -> bytes:
    return hashlib.sha256(name.strip().lower().encode()).digest()
