"""The whole exception tree of Cronaca.

CronacaError
├── InvalidInput          a field holds something unusable; nothing was written
├── NotFound              the named object does not exist
├── EditConflict          someone else has changed the object since it was read; nothing was written
├── NotSignedIn           nobody is signed in, or the name or password is wrong
├── NotPermitted          the person who acts may not do this
├── PasswordChangeNeeded  a password that somebody else gave has to be changed first
├── TooManyAttempts       passwords were guessed at: try again later
├── CorruptPayload        stored bytes fail their checksum or their format
├── StoreError
│   ├── StoreUnavailable  the database cannot be reached, or cannot write at present: try again later
│   │   └── StoreBusy     no connection or no capacity was free in time
│   ├── StoreConflict     deadlock or certification failure: the transaction may be repeated
│   ├── StoreRejected     the database refuses what it was given, and always will
│   ├── SchemaMismatch    the database is newer than the program, or a migration was altered
│   └── (store)           NoPartition, PartitionsMissing: a month's partition has to be made first
├── Overloaded            more is asked at once than is worked on: try again a little later
├── Cancelled             who asked has gone; the work ends
├── TooLarge              a request brings more than is taken
├── WrongType             the body of a request is of a type that is not taken there
├── LeaseLost             another recorder holds the plant: this one must stop writing
└── SourceError
    ├── SourceUnreachable the device does not answer
    └── SourceRefused     the device answers with an exception
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from types import MappingProxyType
from typing import Final


class CronacaError(Exception):
    """Root of every error that Cronaca raises on purpose."""

    parameters: Mapping[str, str] = MappingProxyType({})
    """What a message in another language needs besides the kind of the error: the values within its text."""


class InvalidInput(CronacaError, ValueError):
    """A field holds an unusable value: names the field, what is wrong and the remedy.

    `code` names what is wrong for programs and for other languages: it stays when the wording changes.
    `problem` and `remedy` are English texts with places as `str.format` has them (`{name}`, `{count:,}`,
    `{text!r}`), which `parameters` fill. Any other brace stands for itself."""

    def __init__(self, field: str, code: str, problem: str, remedy: str, /, **parameters: object) -> None:
        self.field = field
        self.code = code
        self.problem, in_problem = _filled(problem, parameters)
        self.remedy, in_remedy = _filled(remedy, parameters)
        self.parameters = {**in_problem, **in_remedy}
        """What stands in the places, as it is written there."""
        super().__init__(f"{field}: {self.problem}. {self.remedy}")

    def at(self, field: str) -> InvalidInput:
        """The same fault, found at another field: that of the whole which this one is a part of."""
        return self._moved(field, self.problem)

    def of(self, name: str) -> InvalidInput:
        """The same fault of one among many, which it names."""
        return self._moved(self.field, f"of {name}: {self.problem}")

    def _moved(self, field: str, problem: str) -> InvalidInput:
        moved = InvalidInput(field, self.code, problem, self.remedy)
        moved.parameters = self.parameters
        return moved


_PLACE: Final = re.compile(r"\{(\w+)(![rsa])?(:[^{}]*)?\}")


def _filled(text: str, parameters: Mapping[str, object]) -> tuple[str, dict[str, str]]:
    """The text with its parameters, and those as they stand there."""
    stood: dict[str, str] = {}

    def put(place: re.Match[str]) -> str:
        name = place[1]
        if name not in parameters:
            return place[0]
        stood[name] = place[0].format(**{name: parameters[name]})
        return stood[name]

    return _PLACE.sub(put, text), stood


class NotFound(CronacaError, LookupError):
    """The object of this kind and key does not exist."""

    def __init__(self, kind: str, key: str, *, field: str = "") -> None:
        super().__init__(f"There is no {kind} {key!r}.")
        self.kind = kind
        self.key = key
        self.parameters = {"kind": kind, "key": key}
        self.field = field or kind


class EditConflict(CronacaError):
    """An object was changed by someone else since the one who edits it has read it."""

    def __init__(
        self,
        kind: str,
        name: str,
        person: str,
        created_us: int,
        *,
        since: str = "you opened it",
        remedy: str = "look at what was changed, and save again",
    ) -> None:
        by = f" by {person}" if person else ""
        super().__init__(f"The {kind} {name!r} was changed{by} since {since}. Nothing was written: {remedy}.")
        self.kind = kind
        self.name = name
        self.person = person
        self.created_us = created_us
        self.parameters = {"kind": kind, "name": name, "person": person}


class NotSignedIn(CronacaError):
    """Nobody is signed in who may do this."""


class PasswordChangeNeeded(CronacaError):
    """Nothing may be done before the password was changed that somebody else has given."""

    def __init__(self) -> None:
        super().__init__("Your password was given by somebody else. Choose one of your own first.")


class TooManyAttempts(CronacaError):
    """So many wrong passwords were given that the next one has to wait."""

    def __init__(self, retry_after_s: int) -> None:
        super().__init__(
            f"Too many wrong passwords were given for this name. Try again in {retry_after_s} s, "
            "or have an administrator give you a new password."
        )
        self.retry_after_s = retry_after_s
        self.parameters = {"retry_after_s": str(retry_after_s)}


class NotPermitted(CronacaError):
    """The person who acts lacks a permission."""

    def __init__(self, person: str, permission: str) -> None:
        super().__init__(
            f"This needs the permission {permission!r}, which {person or 'an anonymous user'} does not "
            "have. Ask an administrator for it."
        )
        self.permission = permission
        self.parameters = {"person": person, "permission": permission}


class CorruptPayload(CronacaError):
    """Stored bytes cannot be trusted: truncated, altered or of an unknown version."""

    def __init__(self, what: str, problem: str) -> None:
        super().__init__(f"{what}: {problem}")
        self.what = what
        self.problem = problem

    def within(self, what: str) -> CorruptPayload:
        """The same finding, named by the object that holds the bytes."""
        return CorruptPayload(what, self.problem)


class Overloaded(CronacaError):
    """More is asked at once than is worked on; nothing was done."""

    def __init__(self, what: str, retry_after_s: int) -> None:
        super().__init__(
            f"Too many requests to {what} at once. Nothing was done: try again in {retry_after_s} s."
        )
        self.retry_after_s = retry_after_s
        self.parameters = {"what": what, "retry_after_s": str(retry_after_s)}


class Cancelled(CronacaError):
    """Who asked has gone: the work ends where it is."""


class TooLarge(CronacaError):
    """A request brings more than is taken."""

    def __init__(self, most_bytes: int) -> None:
        super().__init__(
            f"The body is larger than {most_bytes:,} bytes. Nothing was written: send less at once."
        )
        self.most_bytes = most_bytes
        self.parameters = {"most_bytes": str(most_bytes)}


class WrongType(CronacaError):
    """The body of a request says that it is something else than what is taken there."""

    def __init__(self, expected: str) -> None:
        super().__init__(f"The Content-Type does not fit. Nothing was done: send it as {expected}.")
        self.wanted = expected
        self.parameters = {"expected": expected}


class StoreError(CronacaError):
    """Something about the database."""


class StoreUnavailable(StoreError):
    """The database at this address does not answer."""

    def __init__(self, address: str, reason: str) -> None:
        super().__init__(
            f"The database at {address} does not answer ({reason}). "
            "Start it, or set CRONACA_DATABASE_URL to a running MariaDB."
        )
        self.address = address
        self.reason = reason


class StoreUnable(StoreUnavailable):
    """The database is there and cannot do it at present: its disk is full, it is read-only, our account has
    no right to it. Whatever it is given, the answer is the same until somebody mends that."""

    def __init__(self, address: str, reason: str) -> None:
        CronacaError.__init__(
            self,
            f"The database at {address} cannot do this at present ({reason}). "
            "Fix that; nothing needs to be restarted.",
        )
        self.address = address
        self.reason = reason


class StoreBusy(StoreUnavailable):
    """Every connection was in use for too long. The database itself may be well."""

    def __init__(self, address: str, waited_s: float) -> None:
        super().__init__(address, f"no connection was free within {waited_s:g} s")
        self.waited_s = waited_s


class StoreRejected(StoreError):
    """The database refuses what it was given (a value out of a column's range, a missing table): the same
    again will be refused again."""


class StoreConflict(StoreError):
    """Two transactions collided; repeating this one may succeed."""


class SchemaMismatch(StoreError):
    """Program and database do not belong together."""


class LeaseLost(StoreError):
    """This recorder's epoch was closed by another one: it may not write any more."""

    def __init__(self, epoch: int) -> None:
        super().__init__(f"Epoch {epoch} was closed by another recorder; this one stops writing.")
        self.epoch = epoch


class SourceError(CronacaError):
    """Something about a device that values come from."""

    def __init__(self, reason: str) -> None:
        super().__init__(reason)
        self.reason = reason


class SourceUnreachable(SourceError):
    """No connection, or no answer in time."""


class SourceRefused(SourceError):
    """The device answered that it will not."""
