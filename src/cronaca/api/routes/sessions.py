"""Signing in and out; one's own sessions and password; the first administrator."""

from __future__ import annotations

from typing import Annotated, cast

from fastapi import Depends, Request, Response

from cronaca.api.permissions import Acts
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.people import (
    FirstIn,
    FirstOut,
    NewTokenOut,
    PasswordIn,
    Person,
    SessionOut,
    SignInIn,
    TokenIn,
    TokenOut,
)
from cronaca.api.signing import Gate, where_of
from cronaca.core.access import Actor
from cronaca.core.errors import NotPermitted, NotSignedIn
from cronaca.core.people import ADMINISTRATOR
from cronaca.plant.people.accounts import AccountSpec
from cronaca.plant.people.program_tokens import TokenSpec
from cronaca.services.people import People, ProgramTokens, SignIns

router = api_router("", "people", permission=None)


def get_people(request: Request) -> People:
    """The application's accounts."""
    return cast(People, request.app.state.people)


def get_signs(request: Request) -> SignIns:
    """The application's door for signing in."""
    return cast(SignIns, request.app.state.signs)


def get_gate(request: Request) -> Gate:
    """What knows the cookie of a session."""
    return cast(Gate, request.app.state.gate)


def get_tokens(request: Request) -> ProgramTokens:
    """The application's tokens for programs."""
    return cast(ProgramTokens, request.app.state.tokens)


PeopleDep = Annotated[People, Depends(get_people)]
SignsDep = Annotated[SignIns, Depends(get_signs)]
GateDep = Annotated[Gate, Depends(get_gate)]
TokensDep = Annotated[ProgramTokens, Depends(get_tokens)]


@router.get("/me")
def get_me(actor: Acts) -> Person:
    """Who is acting, and what they may do."""
    return _person(actor)


def _person(actor: Actor) -> Person:
    return Person(
        name=actor.name, permissions=sorted(actor.permissions), account=actor.account or None,
        must_change=actor.must_change, is_guest=actor.is_guest,
    )  # fmt: skip


@router.post("/session", status_code=204)
def sign_in(request: Request, response: Response, signs: SignsDep, gate: GateDep, body: SignInIn) -> None:
    """Signs in: the browser gets a cookie for a new session, and the one before ends. The answer is the same
    for an unknown name and a wrong password; after several wrong ones the next has to wait (429)."""
    before = gate.token_of(request)
    token = signs.sign_in(body.name, body.password.get_secret_value(), where_of(request), before)
    gate.keep(request, response, token)


@router.delete("/session", status_code=204)
def sign_out(request: Request, response: Response, signs: SignsDep, gate: GateDep) -> None:
    """Signs out: the session ends, and its token is of no more use."""
    token = gate.token_of(request)
    if token:
        signs.sign_out(token)
    gate.drop(request, response)


@router.get("/first")
def get_first(people: PeopleDep) -> FirstOut:
    """Whether the first administrator is still to be set up."""
    return FirstOut(is_needed=people.is_empty())


@router.post("/first", status_code=204)
def add_first(
    request: Request, response: Response, people: PeopleDep, signs: SignsDep, gate: GateDep, body: FirstIn
) -> None:
    """Sets up the first administrator, with the code that the server printed when it was started, and signs
    in. There is no other account before; afterwards this is refused."""
    password = body.password.get_secret_value()
    people.add_first(AccountSpec(body.name, body.full_name, ADMINISTRATOR), password, body.code)
    gate.keep(request, response, signs.sign_in(body.name, password, where_of(request)))


@router.post("/me/password")
def change_password(
    request: Request, people: PeopleDep, signs: SignsDep, gate: GateDep, actor: Acts, body: PasswordIn
) -> Person:
    """Changes one's own password; all other sessions of one's own end. Says what one may do from now on."""
    _check_signed_in(actor)
    people.change_own_password(actor, body.old.get_secret_value(), body.new.get_secret_value())
    signs.forget(gate.token_of(request))
    return _person(gate(request))


@router.get("/me/sessions")
def list_own_sessions(people: PeopleDep, actor: Acts) -> list[SessionOut]:
    """One's own sessions, the last used one first."""
    _check_signed_in(actor)
    return [
        SessionOut(
            uid=row.uid, created_us=str(row.times.created_us), seen_us=str(row.times.seen_us),
            address=row.address, agent=row.agent, is_this=row.uid == actor.session,
        )
        for row in people.own_sessions(actor)
    ]  # fmt: skip


@router.delete("/me/sessions", status_code=204)
def end_other_sessions(people: PeopleDep, actor: Acts) -> None:
    """Signs out everywhere but here."""
    _check_signed_in(actor)
    people.end_own(actor, "")


@router.delete("/me/sessions/{uid}", status_code=204)
def end_own_session(people: PeopleDep, actor: Acts, uid: Uid) -> None:
    """Ends one of one's own sessions."""
    _check_signed_in(actor)
    people.end_own(actor, uid)


@router.get("/me/tokens")
def list_own_tokens(tokens: TokensDep, actor: Acts) -> list[TokenOut]:
    """One's own tokens for programs, the newest first."""
    _check_signed_in(actor)
    return [
        TokenOut(
            uid=row.uid, name=row.spec.name, permissions=sorted(row.spec.permissions),
            created_us=str(row.created_us), ends_us=str(row.spec.ends_us),
            used_us=None if row.used_us is None else str(row.used_us), address=row.address,
        )
        for row in tokens.list_own(actor)
    ]  # fmt: skip


@router.post("/me/tokens", status_code=201)
def issue_token(tokens: TokensDep, actor: Acts, body: TokenIn) -> NewTokenOut:
    """Makes a token with which a program acts for one (`Authorization: Bearer ...`), with some of one's own
    permissions. It is told this once; the database keeps its hash."""
    _check_signed_in(actor)
    spec = TokenSpec(body.name, frozenset(body.permissions), int(body.ends_us))
    uid, token = tokens.issue(actor, spec)
    return NewTokenOut(uid=uid, token=token)


@router.delete("/me/tokens/{uid}", status_code=204)
def revoke_token(tokens: TokensDep, actor: Acts, uid: Uid) -> None:
    """Ends one of one's own tokens."""
    _check_signed_in(actor)
    tokens.revoke(actor, uid)


def _check_signed_in(actor: Actor) -> None:
    """Of one's own account a program changes nothing."""
    if not actor.account:
        raise NotSignedIn("Nobody is signed in. Sign in.")
    if not actor.session:
        raise NotPermitted(actor.program, "sign_in")
