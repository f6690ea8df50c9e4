"""A subscription's reports in the order in which the server made them, signs of life included."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass

from asyncua import Client, ua
from asyncua.client.ua_session import UaSession
from asyncua.common.subscription import Subscription


@dataclass(frozen=True, slots=True)
class Report:
    """Values by the handles they were asked for under; none is a sign of life. `lost` says why nothing will
    follow."""

    values: tuple[tuple[int, ua.DataValue], ...] = ()
    lost: str = ""


class Reports:
    """Where the reports of one session wait."""

    def __init__(self) -> None:
        self._queue: asyncio.Queue[Report] = asyncio.Queue()

    async def next(self) -> Report:
        """The next report."""
        return await self._queue.get()

    async def connection_lost(self, exc: Exception) -> None:
        """Called by the session."""
        self._queue.put_nowait(Report(lost=f"the connection broke ({exc or type(exc).__name__})"))

    async def subscribe(self, client: Client, params: ua.CreateSubscriptionParameters) -> Subscription:
        """A subscription whose reports come here."""
        subscription = _Plain(client.uaclient.session, params, self._queue)
        await subscription.init()
        return subscription


class _Plain(Subscription):
    """Hands each report on as it came, also when it is empty."""

    def __init__(
        self, session: UaSession, params: ua.CreateSubscriptionParameters, queue: asyncio.Queue[Report]
    ) -> None:
        super().__init__(session, params)
        self._reports = queue

    async def publish_callback(self, publish_result: ua.PublishResult) -> None:
        """Called for every answer to a publish request."""
        message = publish_result.NotificationMessage
        values: list[tuple[int, ua.DataValue]] = []
        for part in message.NotificationData or ():
            if isinstance(part, ua.DataChangeNotification):
                items = part.MonitoredItems or ()
                values += [(item.ClientHandle, item.Value or ua.DataValue()) for item in items]
            elif isinstance(part, ua.StatusChangeNotification):
                name = ua.StatusCode(part.Status.value).name
                self._reports.put_nowait(Report(lost=f"the server dropped the subscription ({name})"))
                return
        self._reports.put_nowait(Report(tuple(values)))
