"""An OPC UA server that serves drying lines: a folder a line, a variable a signal, with its past."""

from __future__ import annotations

import asyncio
import logging
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final, cast

from asyncua import Node, Server, ua
from asyncua.crypto.permission_rules import User, UserRole
from asyncua.server.history import HistoryDict
from asyncua.server.user_managers import UserManager

from cronaca.core.model import ValueType
from cronaca.demo.plant import SIGNALS, Signal

NAMESPACE: Final = "urn:cronaca:plant"
SERVER_URI: Final = "urn:cronaca:plant:server"
_TYPES: Final = {
    ValueType.FLOAT: ua.VariantType.Double,
    ValueType.INTEGER: ua.VariantType.Int64,
    ValueType.BOOLEAN: ua.VariantType.Boolean,
    ValueType.STATE: ua.VariantType.Int32,
}
TOLD: Final = "record_number"
_SECURE: Final = [
    ua.SecurityPolicyType.Basic256Sha256_SignAndEncrypt,
    ua.SecurityPolicyType.Basic256Sha256_Sign,
]
_INT32: Final = ua.VariantType.Int32
_KEPT: Final = timedelta(minutes=30)


def endpoint_of(port: int) -> str:
    """Where a stand-in on this port is found."""
    return f"opc.tcp://127.0.0.1:{port}/plant"


@dataclass(frozen=True, slots=True)
class Guard:
    """How the server protects itself: its key and certificate, and who may sign in. An open one lets in those
    too who want no security."""

    key_file: Path
    certificate_file: Path
    users: Mapping[str, str] = field(default_factory=dict)
    open: bool = False

    def knows(self, username: str | None, password: str | None) -> bool:
        """Without users everybody may sign in."""
        return not self.users or (username is not None and self.users.get(username) == password)


class _Gatekeeper(UserManager):
    """Asked by the server at each sign-in."""

    def __init__(self, guard: Guard) -> None:
        self._guard = guard

    def get_user(
        self,
        iserver: object,
        username: str | None = None,
        password: str | None = None,
        certificate: object = None,
    ) -> User | None:
        """The user, or None for one who may not."""
        del iserver, certificate
        if not self._guard.knows(username, password):
            return None
        return User(role=UserRole.User, name=username or "anonymous")


class OpcUaStandIn:
    """The server; values are set by line and signal key. What its variables were stays known over a stop,
    as with a device whose connection is cut."""

    def __init__(
        self, port: int, lines: Sequence[int] = (1,), *, guard: Guard | None = None,
        most_per_read: int = 1000, clock_off: timedelta = timedelta(0),
    ) -> None:  # fmt: skip
        logging.getLogger("asyncua").setLevel(logging.CRITICAL)
        self.port = port
        self.clock_off = clock_off
        self.lines = tuple(lines)
        self._guard = guard
        self._past = HistoryDict(max_history_data_response_size=most_per_read)
        self._server: Server | None = None
        self._told: dict[int, Node] = {}
        self._nodes: dict[tuple[int, str], Node] = {}
        self._values: dict[tuple[int, str], ua.DataValue] = {}

    @property
    def endpoint(self) -> str:
        """Its address."""
        return endpoint_of(self.port)

    @property
    def certificate(self) -> bytes:
        """The one it shows, as DER; nothing without a guard."""
        return b"" if self._guard is None else self._guard.certificate_file.read_bytes()

    async def start(self) -> None:
        """Listens."""
        server = Server(user_manager=None if self._guard is None else _Gatekeeper(self._guard))
        await server.init()
        server.set_endpoint(self.endpoint)
        server.set_server_name("Plant stand-in")
        await server.set_application_uri(SERVER_URI)
        server.set_security_policy([ua.SecurityPolicyType.NoSecurity])
        if self._guard is not None:
            free = [ua.SecurityPolicyType.NoSecurity] if self._guard.open else []
            server.set_security_policy([*free, *_SECURE])
            await server.load_certificate(str(self._guard.certificate_file))
            await server.load_private_key(str(self._guard.key_file))
        server.iserver.history_manager.set_storage(self._past)
        index = await server.register_namespace(NAMESPACE)
        for line in self.lines:
            await self._add_line(server, index, line)
        await server.start()
        self._server = server

    async def _add_line(self, server: Server, index: int, line: int) -> None:
        folder = await server.nodes.objects.add_folder(f"ns={index};s=Line{line}", f"{index}:Line {line}")
        for signal in SIGNALS:
            number = _node_id(index, line, signal.key)
            kind = _TYPES[signal.value_type]
            name = ua.QualifiedName(f"{signal.part} {signal.name.lower()}", index)
            node = await folder.add_variable(number, name, _raw(0, kind), kind)
            if (line, signal.key) not in self._nodes:
                await self._past.new_historized_node(node.nodeid, _KEPT)
            self._nodes[line, signal.key] = node
            last = self._values.get((line, signal.key))
            await node.write_attribute(ua.AttributeIds.Historizing, ua.DataValue(ua.Variant(Value=True)))
            level = ua.AccessLevel.CurrentRead.mask | ua.AccessLevel.HistoryRead.mask
            for attribute in (ua.AttributeIds.AccessLevel, ua.AttributeIds.UserAccessLevel):
                await node.write_attribute(attribute, ua.DataValue(ua.Variant(level, ua.VariantType.Byte)))
            if last is not None:
                await server.write_attribute_value(node.nodeid, last)
        limit_node = _node_id(index, line, TOLD)
        number_node = await folder.add_variable(
            limit_node, ua.QualifiedName("Record number", index), 0, _INT32
        )
        await number_node.set_writable()
        self._told[line] = number_node

    async def told(self, line: int) -> int:
        """The number that was written last to the one variable of a line that takes values."""
        return int(await self._told[line].read_value())

    async def stop(self) -> None:
        """Ends the server: sessions and subscriptions are gone."""
        if self._server is not None:
            await self._server.stop()
            self._server = None

    async def set_values(self, line: int, values: Mapping[str, float], at: datetime | None = None) -> None:
        """Sets signals by key. Also while nobody can connect: the device goes on."""
        moment = (at or datetime.now(UTC)) + self.clock_off
        for signal in SIGNALS:
            if signal.key in values:
                await self._set(line, signal, values[signal.key], moment)
                await asyncio.sleep(0)  # whoever else is served by this loop has a turn

    async def _set(self, line: int, signal: Signal, value: float, moment: datetime) -> None:
        kind = _TYPES[signal.value_type]
        last = self._values.get((line, signal.key))
        stamp = cast(ua.DateTime, moment)
        data_value = ua.DataValue(
            ua.Variant(_raw(value, kind), kind), SourceTimestamp=stamp, ServerTimestamp=stamp
        )
        if last is not None and last.Value == data_value.Value:
            return
        self._values[line, signal.key] = data_value
        node = self._nodes[line, signal.key]
        await self._past.save_node_value(node.nodeid, data_value)
        if self._server is not None:
            await self._server.write_attribute_value(node.nodeid, data_value)


def _raw(value: float, kind: ua.VariantType) -> float | int | bool:
    if kind is ua.VariantType.Boolean:
        return bool(value)
    return float(value) if kind is ua.VariantType.Double else int(value)


def _node_id(index: int, line: int, key: str) -> ua.NodeId:
    return ua.NodeId.from_string(f"ns={index};s=Line{line}.{key}")
