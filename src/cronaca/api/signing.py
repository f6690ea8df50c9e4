"""Whom a request is of: the cookie of a session, and the person it stands for."""

from __future__ import annotations

from typing import Final

from fastapi import Response
from starlette.requests import HTTPConnection

from cronaca.core.access import GUEST, Actor
from cronaca.core.errors import NotSignedIn
from cronaca.core.people import SessionLimits
from cronaca.services.people import Guests, ProgramTokens, SignIns, Whoever
from cronaca.services.people.signing_in import From, actor_of

_COOKIE: Final = "session"
_NO_PROGRAM: Final = "The token is unknown, revoked, or at its end. Make another one under your name."
_SIGN_IN: Final = "Nobody is signed in, or the session has ended. Sign in."
_NO_ACCOUNT: Final = "There is no account yet. Set up the first administrator."


class Gate:
    """Finds who acts, by the session that a request names."""

    def __init__(
        self, signs: SignIns, tokens: ProgramTokens, guests: Guests, base: str, limits: SessionLimits
    ) -> None:
        self._signs = signs
        self._tokens = tokens
        self._guests = guests
        self._path = f"{base}/"
        self._limits = limits

    def __call__(self, connection: HTTPConnection) -> Actor:
        """Who acts; asks the database where it has to. Raises NotSignedIn, StoreError."""
        bearer = _bearer_of(connection)
        if bearer:
            program = self._tokens.find(bearer, where_of(connection).address)
            if program is None:
                raise NotSignedIn(_NO_PROGRAM)
            return program
        token = self.token_of(connection)
        found = self._signs.find(token) if token else None
        return _without_sign_in(self._guests.find()) if found is None else actor_of(found)

    def quick(self, connection: HTTPConnection) -> Actor | None:
        """The same where it is known from a moment ago; None: ask. Raises NotSignedIn."""
        bearer = _bearer_of(connection)
        if bearer:
            return self._tokens.known(bearer)[1]
        token = self.token_of(connection)
        is_known, found = self._signs.known(token) if token else (True, None)
        if found is not None:
            return actor_of(found)
        whoever = self._guests.known() if is_known else None
        return None if whoever is None else _without_sign_in(whoever)

    def token_of(self, connection: HTTPConnection) -> str:
        """The token that a request brings; empty: none."""
        return connection.cookies.get(self._cookie(connection), "")

    def keep(self, connection: HTTPConnection, response: Response, token: str) -> None:
        """Has the browser keep a token where no script reads it, and no other site sends it."""
        response.set_cookie(
            self._cookie(connection), token, max_age=self._limits.absolute_us // 1_000_000, path=self._path,
            secure=_is_secure(connection), httponly=True, samesite="lax",
        )  # fmt: skip

    def drop(self, connection: HTTPConnection, response: Response) -> None:
        """Has the browser forget its token."""
        response.delete_cookie(
            self._cookie(connection), path=self._path, secure=_is_secure(connection), httponly=True,
            samesite="lax",
        )  # fmt: skip

    def _cookie(self, connection: HTTPConnection) -> str:
        """Its name: under TLS with the prefix that lets no other host, and no plain connection, set it."""
        if not _is_secure(connection):
            return _COOKIE
        return f"__Host-{_COOKIE}" if self._path == "/" else f"__Secure-{_COOKIE}"


def _without_sign_in(whoever: Whoever) -> Actor:
    """Who acts without being signed in; raises NotSignedIn."""
    if not whoever.has_accounts:
        raise NotSignedIn(_NO_ACCOUNT)
    if not whoever.guest_view:
        raise NotSignedIn(_SIGN_IN)
    return GUEST


def _bearer_of(connection: HTTPConnection) -> str:
    """The token of a program (RFC 6750); empty: none."""
    kind, _, token = connection.headers.get("authorization", "").partition(" ")
    return token.strip() if kind.lower() == "bearer" else ""


def _is_secure(connection: HTTPConnection) -> bool:
    return connection.url.scheme in ("https", "wss")


def where_of(connection: HTTPConnection) -> From:
    """Where a request comes from."""
    address = connection.client.host if connection.client is not None else ""
    return From(address, connection.headers.get("user-agent", ""))
