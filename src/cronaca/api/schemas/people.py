"""People and sign-in over the wire."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, SecretStr

from cronaca.api.schemas import Micros, Model, Uid
from cronaca.core.access import Permission

_LONGEST_PASSWORD = 200


Password = Annotated[SecretStr, Field(min_length=1, max_length=_LONGEST_PASSWORD)]
"""A field that no log and no error shows."""


class Person(Model):
    """Who acts, and what they may do. `account` is none for a guest (`is_guest`: nobody is signed in);
    nothing may be done before a password was changed that has to be (`must_change`)."""

    name: str
    permissions: list[Permission]
    account: Uid | None
    must_change: bool
    is_guest: bool


class SignInIn(Model):
    """Name and password."""

    name: str = Field(min_length=1, max_length=200)
    password: Password


class FirstIn(Model):
    """The first administrator; `code`: printed where the server was started."""

    name: str = Field(max_length=100)
    full_name: str = Field("", max_length=200)
    password: Password
    code: str = Field(max_length=100)


class FirstOut(Model):
    """Whether the first administrator is still to be set up."""

    is_needed: bool


class GuestViewOut(Model):
    """Whether people may look without signing in."""

    enabled: bool
    revision: int


class GuestViewIn(Model):
    """The guest view as it is to be; `revision`: of the one that was seen."""

    enabled: bool
    revision: int = Field(ge=0)


class PasswordIn(Model):
    """One's own password: the present one and a new one."""

    old: Password
    new: Password


class SessionOut(Model):
    """One sign-in. `is_this`: the one that asks."""

    uid: Uid
    created_us: Micros
    seen_us: Micros
    address: str
    agent: str
    is_this: bool


class TokenIn(Model):
    """A token for a program: its name, some of one's own permissions, and its end within a year."""

    name: str = Field(max_length=100)
    permissions: list[Permission] = Field(max_length=50)
    ends_us: Micros


class TokenOut(Model):
    """A token without the token itself. `used_us`: its last use, to a minute."""

    uid: Uid
    name: str
    permissions: list[Permission]
    created_us: Micros
    ends_us: Micros
    used_us: Micros | None
    address: str
    """From where it was used last."""


class NewTokenOut(Model):
    """A token, which is told this once."""

    uid: Uid
    token: str


class PersonIn(Model):
    """An account; `name` is typed to sign in."""

    name: str = Field(max_length=100)
    full_name: str = Field("", max_length=200)
    role: str
    enabled: bool = True


class NewPersonIn(PersonIn):
    """An account and its first password, which has to be changed at the first sign-in."""

    password: Password


class PersonEditIn(PersonIn):
    """An account as it is to be; `revision`: the one that was changed."""

    revision: int


class PersonOut(PersonIn):
    """An account. `must_change`: the password was given by somebody else, and not changed yet."""

    uid: Uid
    revision: int
    must_change: bool
    seen_us: Micros | None
    """The last sign-in."""


class NewPasswordIn(Model):
    """A password that its person has to change at the next sign-in."""

    password: Password


class RoleIn(Model):
    """A role of one's own."""

    name: str = Field(max_length=100)
    permissions: list[Permission] = Field(max_length=50)


class RoleEditIn(RoleIn):
    """A role as it is to be; `revision`: the one that was changed."""

    revision: int


class RoleOut(RoleIn):
    """A role. `key`: what stands in an account that has it; `uid`: of one's own, none of the program's."""

    key: str
    uid: Uid | None
    revision: int
    people: int
    """How many accounts have it."""
