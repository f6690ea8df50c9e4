"""Finding one's way: what a server offers, and what lies under a node."""

from __future__ import annotations

from typing import Any, Final

from asyncua import Client, Node, ua
from asyncua.ua.uaerrors import UaError

from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType
from cronaca.recorder.drivers.opcua.connection import Login, open_client, plain_reasons
from cronaca.recorder.drivers.opcua.identity import Identity, shown, thumbprint

MOST_SHOWN: Final = 1000
_SHOWN_CLASSES: Final = ua.NodeClass.Object | ua.NodeClass.Variable
_ROOT: Final = "i=85"
_WHOLE: Final = ("SByte", "Byte", "Int16", "UInt16", "Int32", "UInt32", "Int64", "UInt64")
_KINDS: Final = {
    ua.VariantType.Boolean: ValueType.BOOLEAN,
    ua.VariantType.Float: ValueType.FLOAT,
    ua.VariantType.Double: ValueType.FLOAT,
    **{ua.VariantType[name]: ValueType.INTEGER for name in _WHOLE},
}
_TOKENS: Final = {
    ua.UserTokenType.Anonymous: "anonymous",
    ua.UserTokenType.UserName: "user name",
    ua.UserTokenType.Certificate: "certificate",
    ua.UserTokenType.IssuedToken: "token",
}


async def discover(endpoint: str, timeout_s: float, identity: Identity) -> dict[str, Any]:
    """What a server offers: security, ways to sign in, its certificate. Raises InvalidInput, SourceError."""
    login = Login.of({"endpoint": endpoint, "timeout_s": timeout_s}, "", identity)
    async with plain_reasons(login):
        endpoints = await Client(
            login.settings.endpoint, timeout=timeout_s
        ).connect_and_get_server_endpoints()
    own = identity.ensure()  # in the loop, as for a connection: two at once would make two keys
    offers = [_offer(endpoint) for endpoint in endpoints]
    return {"ok": True, "reason": "", "offers": offers, "own_certificate": shown(thumbprint(own))}


def _offer(endpoint: ua.EndpointDescription) -> dict[str, Any]:
    policy = (endpoint.SecurityPolicyUri or "").rpartition("#")[2] or "None"
    print_ = thumbprint(endpoint.ServerCertificate)
    return {
        "endpoint": endpoint.EndpointUrl or "",
        "name": endpoint.Server.ApplicationName.Text or "",
        "security": policy,
        "mode": endpoint.SecurityMode.name.rstrip("_"),
        "sign_in": sorted({_TOKENS[token.TokenType] for token in endpoint.UserIdentityTokens or ()}),
        "certificate": print_,
    }  # fmt: skip


async def browse(login: Login, node: str) -> dict[str, Any]:
    """What lies under a node (the server's objects for an empty one): folders and variables. Raises
    InvalidInput, SourceError."""
    try:
        start = ua.NodeId.from_string(node or _ROOT)
    except (UaError, ValueError) as exc:
        raise InvalidInput(
            "node", "node-not-node-id", "{node!r} is not a node id", "Take one that was shown.", node=node
        ) from exc
    client = await open_client(login)
    try:
        async with plain_reasons(login):
            under = client.get_node(start)
            await under.read_node_class()  # a node that is not there has no children: that would be no answer
            descriptions = await under.get_children_descriptions(
                nodeclassmask=_SHOWN_CLASSES  # type: ignore[arg-type]  # it is a mask, not one class
            )
            nodes = await _describe(client, descriptions[:MOST_SHOWN])
            return {"ok": True, "reason": "", "nodes": nodes, "more": len(descriptions) > MOST_SHOWN}
    finally:
        await client.disconnect()


async def _describe(client: Client, descriptions: list[ua.ReferenceDescription]) -> list[dict[str, Any]]:
    rows = []
    for description in descriptions:
        number = (
            description.NodeId.to_string()
            if isinstance(description.NodeId, ua.NodeId)
            else str(description.NodeId)
        )
        row: dict[str, Any] = {
            "node": number, "name": description.DisplayName.Text or description.BrowseName.Name or number,
            "variable": description.NodeClass is ua.NodeClass.Variable, "value_type": "", "value": None,
        }  # fmt: skip
        if row["variable"]:
            row |= await _look_at(client.get_node(description.NodeId))
        rows.append(row)
    return rows


async def _look_at(node: Node) -> dict[str, Any]:
    """Type and value of a variable; neither when it cannot be recorded or read."""
    value = await node.read_data_value(raise_on_bad_status=False)
    if value.Value is None or value.Value.is_array:
        return {}
    kind = _KINDS.get(value.Value.VariantType)
    if kind is None:
        return {}
    return {"value_type": kind.name.lower(), "value": value.Value.Value}
