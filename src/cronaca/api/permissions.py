"""What each route needs: every one states a permission, and a test walks them all."""

from __future__ import annotations

import asyncio
import contextlib
from typing import Annotated, Final

from fastapi import Depends, WebSocket, WebSocketDisconnect, WebSocketException
from starlette.concurrency import run_in_threadpool
from starlette.requests import HTTPConnection

from cronaca.core.access import Actor, Permission, Permitted
from cronaca.core.errors import NotPermitted, NotSignedIn, StoreError

_POLICY_VIOLATION: Final = 1008
_LOOK_S: Final = 1.0
"""So often it is looked at whether the person of a live link is still signed in."""


async def find_actor(connection: HTTPConnection) -> Actor:
    """Who acts, asked for once in a request. Raises NotSignedIn, StoreError."""
    if not hasattr(connection.state, "actor"):
        find = connection.app.state.find_actor
        quick = getattr(find, "quick", None)
        known = None if quick is None else quick(connection)
        connection.state.actor = known or await run_in_threadpool(find, connection)
    actor: Actor = connection.state.actor
    return actor


class May:
    """A dependency of a route: who acts may do this, or the request is refused."""

    def __init__(self, permission: Permission) -> None:
        self.permission = permission

    async def __call__(self, connection: HTTPConnection) -> Permitted:
        """The person with the permission. Raises NotSignedIn and NotPermitted, and ends a WebSocket."""
        try:
            return (await find_actor(connection)).permitted(self.permission)
        except (NotSignedIn, NotPermitted) as exc:
            if connection.scope["type"] == "websocket":
                raise WebSocketException(_POLICY_VIOLATION, str(exc)[:100]) from exc
            raise


async def end_with_session(socket: WebSocket, actor: Actor) -> None:
    """Ends the connection when its person is signed out, or may do other things than before: the page
    connects anew then, or asks to sign in."""
    while True:
        await asyncio.sleep(_LOOK_S)
        del socket.state.actor
        try:
            now = await find_actor(socket)
        except NotSignedIn:
            break
        except StoreError:
            continue  # as those who are signed in stay so while the database is away
        if now != actor:
            break
    with contextlib.suppress(WebSocketDisconnect, RuntimeError):
        await socket.close(_POLICY_VIOLATION, "The session has ended, or its rights have changed.")


async def acts(connection: HTTPConnection) -> Actor:
    """A dependency of a route that is open to whoever is signed in, whatever they may do."""
    return await find_actor(connection)


Acts = Annotated[Actor, Depends(acts)]
Views = Annotated[Permitted, Depends(May(Permission.VIEW))]
SavesViews = Annotated[Permitted, Depends(May(Permission.SAVE_VIEWS))]
Exports = Annotated[Permitted, Depends(May(Permission.EXPORT))]
Annotates = Annotated[Permitted, Depends(May(Permission.ANNOTATE))]
ManagesReports = Annotated[Permitted, Depends(May(Permission.MANAGE_REPORTS))]
WritesValues = Annotated[Permitted, Depends(May(Permission.WRITE_VALUES))]
ControlsLoggers = Annotated[Permitted, Depends(May(Permission.CONTROL_LOGGERS))]
Corrects = Annotated[Permitted, Depends(May(Permission.CORRECT_HISTORY))]
Configures = Annotated[Permitted, Depends(May(Permission.CONFIGURE))]
ManagesPeople = Annotated[Permitted, Depends(May(Permission.MANAGE_PEOPLE))]
