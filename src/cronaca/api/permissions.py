"""What each route needs: every one states a permission, and a test walks them all."""

from __future__ import annotations

from typing import Annotated, Final

from fastapi import Depends, WebSocketException
from starlette.requests import HTTPConnection

from cronaca.core.access import EVERYTHING, Actor, Permission, Permitted
from cronaca.core.errors import NotPermitted

_POLICY_VIOLATION: Final = 1008
OPERATOR: Final = Actor("Operator", EVERYTHING)


def fixed_actor(_: HTTPConnection) -> Actor:
    """Who acts: one fixed person for now. Sign-in replaces it, in `app.state.find_actor`."""
    return OPERATOR


class May:
    """A dependency of a route: who acts may do this, or the request is refused."""

    def __init__(self, permission: Permission) -> None:
        self.permission = permission

    async def __call__(self, connection: HTTPConnection) -> Permitted:
        """The person with the permission. Raises NotPermitted, and ends a WebSocket."""
        actor: Actor = connection.app.state.find_actor(connection)
        try:
            return actor.permitted(self.permission)
        except NotPermitted as exc:
            if connection.scope["type"] == "websocket":
                raise WebSocketException(_POLICY_VIOLATION, str(exc)[:100]) from exc
            raise


Views = Annotated[Permitted, Depends(May(Permission.VIEW))]
SavesViews = Annotated[Permitted, Depends(May(Permission.SAVE_VIEWS))]
Exports = Annotated[Permitted, Depends(May(Permission.EXPORT))]
Annotates = Annotated[Permitted, Depends(May(Permission.ANNOTATE))]
ManagesReports = Annotated[Permitted, Depends(May(Permission.MANAGE_REPORTS))]
Operates = Annotated[Permitted, Depends(May(Permission.OPERATE))]
Corrects = Annotated[Permitted, Depends(May(Permission.CORRECT_HISTORY))]
Configures = Annotated[Permitted, Depends(May(Permission.CONFIGURE))]
