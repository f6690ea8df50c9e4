"""Accounts, for those who manage people."""

from __future__ import annotations

from typing import Annotated, cast

from fastapi import Depends, Request

from cronaca.api.permissions import ManagesPeople
from cronaca.api.routes.sessions import PeopleDep
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.people import (
    GuestViewIn,
    GuestViewOut,
    NewPasswordIn,
    NewPersonIn,
    PersonEditIn,
    PersonIn,
    PersonOut,
    RoleEditIn,
    RoleIn,
    RoleOut,
)
from cronaca.core.access import Permission
from cronaca.core.people import ROLES
from cronaca.plant.people.accounts import Account, AccountSpec
from cronaca.plant.people.guest_view import GuestView
from cronaca.plant.people.roles import RoleSpec
from cronaca.services.people import Guests, OwnRoles, People

router = api_router("/people", "people", Permission.MANAGE_PEOPLE)


def get_guests(request: Request) -> Guests:
    """The application's guest view."""
    return cast(Guests, request.app.state.guests)


def get_roles(request: Request) -> OwnRoles:
    """The installation's own roles."""
    return cast(OwnRoles, request.app.state.roles)


RolesDep = Annotated[OwnRoles, Depends(get_roles)]
GuestsDep = Annotated[Guests, Depends(get_guests)]


@router.get("")
def list_people(people: PeopleDep) -> list[PersonOut]:
    """All accounts, by name."""
    return _list(people)


@router.get("/roles")
def list_roles(own: RolesDep) -> list[RoleOut]:
    """The roles that people can have, and what each may do: those of the program, then one's own by name."""
    return _roles(own)


@router.post("/roles", status_code=201)
def add_role(own: RolesDep, who: ManagesPeople, body: RoleIn) -> RoleOut:
    """Adds a role of one's own."""
    return _role(own, own.add(who, RoleSpec(body.name, frozenset(body.permissions))))


@router.put("/roles/{uid}")
def change_role(own: RolesDep, who: ManagesPeople, uid: Uid, body: RoleEditIn) -> RoleOut:
    """Changes a role of one's own, for all who have it, within two seconds on every server."""
    own.change(who, uid, RoleSpec(body.name, frozenset(body.permissions)), body.revision)
    return _role(own, uid)


@router.delete("/roles/{uid}", status_code=204)
def remove_role(own: RolesDep, who: ManagesPeople, uid: Uid) -> None:
    """Removes a role of one's own that nobody has."""
    own.remove(who, uid)


def _roles(own: OwnRoles) -> list[RoleOut]:
    found, people = own.list_all()
    programs = [
        RoleOut(
            key=role.name, uid=None, name=role.name, permissions=sorted(role.permissions), revision=0,
            people=people.get(role.name, 0),
        )
        for role in ROLES.values()
    ]  # fmt: skip
    return programs + [
        RoleOut(
            key=one.uid, uid=one.uid, name=one.spec.name, permissions=sorted(one.spec.permissions),
            revision=one.revision, people=one.people,
        )
        for one in found
    ]  # fmt: skip


def _role(own: OwnRoles, uid: str) -> RoleOut:
    return next(one for one in _roles(own) if one.uid == uid)


@router.get("/guest-view")
def get_guest_view(guests: GuestsDep) -> GuestViewOut:
    """Whether people may look without signing in."""
    return _guest_view(guests.read())


@router.put("/guest-view")
def change_guest_view(guests: GuestsDep, who: ManagesPeople, body: GuestViewIn) -> GuestViewOut:
    """Lets people look without signing in, or does not; at work on every server within a second."""
    return _guest_view(guests.change(who, GuestView(body.revision, body.enabled)))


def _guest_view(found: GuestView) -> GuestViewOut:
    return GuestViewOut(enabled=found.enabled, revision=found.revision)


@router.post("", status_code=201)
def add_person(people: PeopleDep, who: ManagesPeople, body: NewPersonIn) -> PersonOut:
    """Adds an account. Its person has to change the password at the first sign-in."""
    uid = people.add(who, _spec(body), body.password.get_secret_value())
    return _one(people, uid)


@router.put("/{uid}")
def change_person(people: PeopleDep, who: ManagesPeople, uid: Uid, body: PersonEditIn) -> PersonOut:
    """Changes an account. One that is disabled, or gets another role, is signed out everywhere. The last
    administrator stays one."""
    people.change(who, uid, _spec(body), body.revision)
    return _one(people, uid)


@router.delete("/{uid}", status_code=204)
def remove_person(people: PeopleDep, who: ManagesPeople, uid: Uid) -> None:
    """Removes an account, and ends its sessions. What its person did stays on record."""
    people.remove(who, uid)


@router.put("/{uid}/password", status_code=204)
def reset_password(people: PeopleDep, who: ManagesPeople, uid: Uid, body: NewPasswordIn) -> None:
    """Gives somebody another password, which they have to change at the next sign-in; their sessions end."""
    people.reset_password(who, uid, body.password.get_secret_value())


@router.delete("/{uid}/sessions", status_code=204)
def end_sessions(people: PeopleDep, who: ManagesPeople, uid: Uid) -> None:
    """Signs somebody out everywhere."""
    people.end_sessions(who, uid)


def _spec(body: PersonIn) -> AccountSpec:
    return AccountSpec(body.name, body.full_name, body.role, body.enabled)


def _list(people: People) -> list[PersonOut]:
    return [_out(account, seen_us) for account, seen_us in people.list_all()]


def _one(people: People, uid: str) -> PersonOut:
    return next(one for one in _list(people) if one.uid == uid)


def _out(account: Account, seen_us: int | None) -> PersonOut:
    spec = account.spec
    return PersonOut(
        uid=account.uid, revision=account.revision, name=spec.name, full_name=spec.full_name, role=spec.role,
        enabled=spec.enabled, must_change=account.must_change,
        seen_us=None if seen_us is None else str(seen_us),
    )  # fmt: skip
