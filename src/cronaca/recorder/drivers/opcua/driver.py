"""The OPC UA driver: one session, one subscription; a core.ports.ReportingDriver."""

from __future__ import annotations

import asyncio
import contextlib
import math
import time
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from asyncua import Client, Node, ua
from asyncua.common.subscription import Subscription
from asyncua.ua.uaerrors import UaError

from cronaca.core import quality as q
from cronaca.core.addresses.opcua import OpcUaAddress, parse_opcua_address
from cronaca.core.errors import InvalidInput, SourceRefused, SourceUnreachable
from cronaca.core.model import SECOND, Series, Tag, Window
from cronaca.core.ports import Clock, Heard
from cronaca.core.readings import Values
from cronaca.recorder.drivers.opcua.connection import Login, open_client, plain_reasons
from cronaca.recorder.drivers.opcua.subscription import Report, Reports
from cronaca.recorder.drivers.opcua.values import has_overflowed, source_us, to_moment, to_sample, to_variant

_ALIVE_S: Final = 1.0
"""So often the server gives a sign of life when nothing changes."""
_SILENT_S: Final = 4.0
"""After so long without one the connection is given up."""
_AGAIN_S: Final = 1.0
_HELD_UP_S: Final = 15
"""So long this process may stand still without a change being lost on the server."""
_MOST_AHEAD_US: Final = 600 * SECOND
"""A source time further ahead than this is not believed."""
_BATCH: Final = 500
"""Items in one request."""


@dataclass(slots=True)
class _Item:
    """A tag that is followed."""

    tag: Tag
    place: OpcUaAddress
    number: int | None = None
    """The server's number of it, once it has answered."""


class OpcUaDriver:
    """Follows tags of one server."""

    def __init__(self, login: Login, clock: Clock | None = None) -> None:
        self._login = login
        self._clock = clock
        self._client: Client | None = None
        self._reports = Reports()
        self._subscription: Subscription | None = None
        self._items: dict[int, _Item] = {}
        self._handle = 0
        self._refused: list[tuple[Tag, int]] = []

    async def connect(self) -> None:
        """Opens the session; raises SourceError."""
        self._client = await open_client(self._login)
        self._reports = Reports()
        self._client.connection_lost_callback = self._reports.connection_lost

    async def close(self) -> None:
        """Closes the session; never raises."""
        client, self._client, self._subscription, self._items = self._client, None, None, {}
        if client is not None:
            # What a dead connection says to being closed is of no use to anybody.
            with contextlib.suppress(Exception):
                await asyncio.wait_for(client.disconnect(), self._login.settings.timeout_s)

    async def read(self, tags: Sequence[Tag]) -> Values:
        """The tags' values now; what the server refuses is Bad. Raises SourceError."""
        client = self._connected()
        bits = np.zeros(len(tags), np.int64)
        quality = np.full(len(tags), q.BAD_CONFIGURATION, np.uint16)
        usable = [(i, *located) for i, tag in enumerate(tags) if (located := _place(tag)) is not None]
        async with plain_reasons(self._login):
            nodes = [client.get_node(node) for _, _, node in usable]
            values = await client.read_attributes(nodes) if nodes else []
        for (i, place, _), value in zip(usable, values, strict=True):
            bits[i], quality[i] = to_sample(value, place, tags[i].value_type)
        return Values(bits, quality)

    async def write(self, tag: Tag, value: float) -> None:
        """Writes a value in the type of the node; raises SourceRefused, SourceUnreachable."""
        client, place = self._connected(), _place(tag)
        if place is None:
            raise SourceRefused("its node id cannot be used")
        async with plain_reasons(self._login):
            node = client.get_node(place[1])
            kind = await node.read_data_type_as_variant_type()
            try:
                variant = to_variant(value, place[0], kind)
            except ValueError as exc:
                raise SourceRefused(str(exc)) from exc
            await node.write_value(ua.DataValue(variant))

    async def follow(self, tags: Sequence[Tag]) -> None:
        """Subscribes to these tags. One that the server refuses is reported Bad, once."""
        client = self._connected()
        async with plain_reasons(self._login):
            if self._subscription is None:
                self._subscription = await _subscribe(client, self._reports, tags)
            known = {item.tag.tag_id: item.tag for item in self._items.values()}
            by_id = {tag.tag_id: tag for tag in tags}
            await self._unfollow(self._subscription, by_id)
            new = [tag for tag in tags if known.get(tag.tag_id) != tag]
            for start in range(0, len(new), _BATCH):
                await self._add(client, self._subscription, new[start : start + _BATCH])

    async def _unfollow(self, subscription: Subscription, by_id: dict[int, Tag]) -> None:
        gone = [h for h, item in self._items.items() if by_id.get(item.tag.tag_id) != item.tag]
        items = [self._items.pop(handle) for handle in gone]
        numbers = [item.number for item in items if item.number is not None]
        if numbers:
            await subscription.unsubscribe(numbers)

    async def _add(self, client: Client, subscription: Subscription, tags: Sequence[Tag]) -> None:
        """A report may come before the answer to the request: its items are known before they are asked."""
        requests, items = [], []
        for tag in tags:
            place = _place(tag)
            if place is None:
                self._refused.append((tag, q.BAD_CONFIGURATION))
                continue
            self._handle += 1
            items.append((self._handle, _Item(tag, place[0])))
            requests.append(_request(client.get_node(place[1]), self._handle, tag, place[0]))
        self._items.update(items)
        results = await subscription.create_monitored_items(requests) if requests else []
        for result, (handle, item) in zip(results, items, strict=True):
            if isinstance(result, ua.StatusCode):
                del self._items[handle]
                self._refused.append((item.tag, result.value >> 16))
            else:
                item.number = result

    async def hear(self) -> Heard:
        """The next report; raises SourceUnreachable when none came for too long."""
        if self._refused:
            return self._tell_refused()
        report = await self._next_report()
        if report.lost:
            raise SourceUnreachable(report.lost)
        return self._heard(report)

    async def _next_report(self) -> Report:
        """A process that was held up has its reports in the socket: they are asked for once more."""
        for seconds in (_SILENT_S, _AGAIN_S):
            with contextlib.suppress(TimeoutError):
                return await asyncio.wait_for(self._reports.next(), seconds)
        raise SourceUnreachable(f"no sign of life from {self._login.settings.endpoint} for {_SILENT_S:g} s")

    def _now_us(self) -> int:
        return time.time_ns() // 1000 if self._clock is None else self._clock.now_us()

    def _tell_refused(self) -> Heard:
        refused, self._refused = self._refused, []
        now_us = self._now_us()
        return _columns([(tag.tag_id, now_us, 0, code, False) for tag, code in refused])

    def _heard(self, report: Report) -> Heard:
        now_us = self._now_us()
        rows = []
        for handle, value in report.values:
            item = self._items.get(handle)
            if item is None:
                continue
            bits, quality = to_sample(value, item.place, item.tag.value_type)
            ts_us = source_us(value)
            if ts_us is None:
                ts_us = now_us
            elif ts_us > now_us + _MOST_AHEAD_US:
                ts_us, quality = now_us, max(quality, q.UNCERTAIN)
            rows.append((item.tag.tag_id, ts_us, bits, quality, has_overflowed(value)))
        return _columns(rows)

    async def read_past(self, tag: Tag, window: Window) -> Series | None:
        """What the server's history holds of a tag from the window's start to its end, both included."""
        client, at = self._connected(), _place(tag)
        if at is None or not self._login.settings.history:
            return None
        place, number = at
        async with plain_reasons(self._login):
            node = client.get_node(number)
            if not await _remembers(node):
                return None
            values = await node.read_raw_history(
                to_moment(window.start_us), to_moment(window.end_us), return_bounds=False
            )
        return _series(values, place, tag, window)

    def _connected(self) -> Client:
        if self._client is None:
            raise SourceUnreachable(f"the session with {self._login.settings.endpoint} is closed")
        return self._client


def _columns(rows: Sequence[tuple[int, int, int, int, bool]]) -> Heard:
    ids, ts, bits, quality, torn = zip(*rows, strict=True) if rows else ((), (), (), (), ())
    return Heard(
        np.array(ids, np.int64),
        np.array(ts, np.int64),
        np.array(bits, np.int64),
        np.array(quality, np.uint16),
        np.array(torn, np.bool_),
    )


async def _remembers(node: Node) -> bool:
    access = await node.get_access_level()
    return ua.AccessLevel.HistoryRead in access


async def _subscribe(client: Client, reports: Reports, tags: Sequence[Tag]) -> Subscription:
    quickest_us = min((tag.scan_us for tag in tags), default=SECOND)
    interval_ms = min(max(quickest_us / 2000, 50.0), 250.0)
    params = ua.CreateSubscriptionParameters()
    params.RequestedPublishingInterval = interval_ms
    params.RequestedMaxKeepAliveCount = max(1, round(_ALIVE_S * 1000 / interval_ms))
    params.RequestedLifetimeCount = max(30, round(60_000 / interval_ms))
    params.MaxNotificationsPerPublish = 0
    params.PublishingEnabled = True
    return await reports.subscribe(client, params)


def _request(node: Node, handle: int, tag: Tag, place: OpcUaAddress) -> ua.MonitoredItemCreateRequest:
    item = ua.ReadValueId()
    item.NodeId, item.AttributeId = node.nodeid, ua.AttributeIds.Value
    asked = ua.MonitoringParameters()
    asked.ClientHandle = handle
    asked.SamplingInterval = tag.scan_us / 1000
    # All that is sampled while this process is held up is kept.
    asked.QueueSize = max(30, math.ceil(_HELD_UP_S * SECOND / tag.scan_us))
    asked.DiscardOldest = True
    changes = ua.DataChangeFilter()
    changes.Trigger = ua.DataChangeTrigger.StatusValue
    if place.deadband:
        changes.DeadbandType, changes.DeadbandValue = ua.DeadbandType.Absolute, place.deadband
    asked.Filter = changes
    request = ua.MonitoredItemCreateRequest()
    request.ItemToMonitor, request.MonitoringMode = item, ua.MonitoringMode.Reporting
    request.RequestedParameters = asked
    return request


def _series(values: Sequence[ua.DataValue], place: OpcUaAddress, tag: Tag, window: Window) -> Series:
    rows: dict[int, tuple[int, int]] = {}
    for value in values:
        ts_us = source_us(value)
        if ts_us is not None and window.start_us <= ts_us <= window.end_us:
            rows.setdefault(ts_us, to_sample(value, place, tag.value_type))
    ts = np.array(sorted(rows), np.int64)
    bits = np.array([rows[t][0] for t in ts.tolist()], np.int64)
    quality = np.array([rows[t][1] for t in ts.tolist()], np.uint16)
    return Series.of(tag.value_type, ts, bits.view(tag.value_type.dtype), quality)


def _place(tag: Tag) -> tuple[OpcUaAddress, ua.NodeId] | None:
    """The tag's node; None for one that cannot be used: its own tag is Bad, the others are not stopped."""
    try:
        place = parse_opcua_address(tag.address, tag.value_type)
        return place, ua.NodeId.from_string(place.node)
    except (InvalidInput, UaError, ValueError):
        return None
