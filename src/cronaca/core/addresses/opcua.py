"""Where in an OPC UA server a tag's value lies, and what is needed to reach the server.

Node ids in the string form of IEC 62541-6, 5.3.1.10: `ns=2;s=Line 2.Temperature`, `i=2258`. Security policies
and modes after IEC 62541-7 (from memory).
"""

from __future__ import annotations

import json
import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Final
from urllib.parse import urlsplit

from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType

NO_SECURITY: Final = "None"
POLICIES: Final = (NO_SECURITY, "Basic256Sha256", "Aes128Sha256RsaOaep", "Aes256Sha256RsaPss")
MODES: Final = ("None", "Sign", "SignAndEncrypt")
DEFAULT_PORT: Final = 4840
_NODE: Final = re.compile(r"(ns=\d{1,5};)?(i=\d{1,10}|s=.+|g=[0-9A-Fa-f-]{36}|b=[A-Za-z0-9+/=]+)", re.DOTALL)
_REMEDY: Final = "Give node, for instance ns=2;s=Temperature, and if wished deadband, scale and offset."
_FIELDS: Final = ("node", "deadband", "scale", "offset")
_LONGEST_NODE: Final = 1024


@dataclass(frozen=True, slots=True)
class OpcUaAddress:
    """A variable of the server; engineering value = raw * scale + offset. With a deadband the server reports
    a value only when it moved by more than that, in its own unit."""

    node: str
    deadband: float = 0.0
    scale: float = 1.0
    offset: float = 0.0

    def to_engineering(self, raw: float) -> float:
        """The value in the tag's unit. Scaled values are rounded to 12 significant digits: 713 * 0.1 is 71.3,
        not 71.30000000000001."""
        if (self.scale, self.offset) == (1.0, 0.0):
            return raw
        return float(f"{raw * self.scale + self.offset:.12g}")

    def to_raw(self, value: float) -> float:
        """What is written for a value in the tag's unit."""
        return (value - self.offset) / self.scale


@lru_cache(maxsize=16_384)  # looked up with every value that comes in
def parse_opcua_address(text: str, value_type: ValueType) -> OpcUaAddress:
    """An address from its JSON form; raises InvalidInput that names the field."""
    try:
        given = json.loads(text)
        for field in given:
            if field not in _FIELDS:
                raise InvalidInput(
                    "address",
                    "opc-ua-node-no",
                    "an OPC UA node has no {field_name!r}",
                    _REMEDY,
                    field_name=field,
                )
        node = given["node"]
        deadband, scale, offset = (
            float(given.get(name, default))
            for name, default in (("deadband", 0), ("scale", 1), ("offset", 0))
        )
    except InvalidInput:
        raise
    except (KeyError, TypeError, ValueError) as exc:
        raise InvalidInput(
            "address", "no-opc-ua-node", "{text} is not an OPC UA node ({exc})", _REMEDY, text=text, exc=exc
        ) from exc
    if not isinstance(node, str) or len(node) > _LONGEST_NODE or not _NODE.fullmatch(node.strip()):
        raise InvalidInput("address", "not-node-id", "{node!r} is not a node id", _REMEDY, node=node)
    if not all(map(math.isfinite, (deadband, scale, offset))) or deadband < 0 or scale == 0:
        raise InvalidInput(
            "address", "deadband-scale-offset-cannot", "its deadband, scale or offset cannot be used", _REMEDY
        )
    if value_type is ValueType.TEXT:
        raise InvalidInput(
            "value_type",
            "texts-not-recorded-yet",
            "texts are not recorded yet",
            "Take a number, a boolean or a state.",
        )
    if value_type is not ValueType.FLOAT and (deadband, scale, offset) != (0.0, 1.0, 0.0):
        raise InvalidInput(
            "address",
            "only-float-tags-scale",
            "only float tags have a scale or a deadband at the server",
            "Make the tag a float, or leave them out.",
        )
    return OpcUaAddress(node.strip(), deadband, scale, offset)


def check_endpoint(value: object) -> str:
    """The server's address, with its port; raises InvalidInput."""
    text = value.strip() if isinstance(value, str) else ""
    try:
        parts = urlsplit(text)
        port = parts.port
    except ValueError as exc:
        raise InvalidInput(
            "endpoint",
            "not-address",
            "{text!r} is not an address",
            "Give opc.tcp://host:port; {default_port} is the usual port.",
            text=text,
            default_port=DEFAULT_PORT,
        ) from exc
    if parts.scheme != "opc.tcp" or not parts.hostname:
        raise InvalidInput(
            "endpoint",
            "not-address-opc-ua",
            "{text!r} is not an address of an OPC UA server",
            "Give opc.tcp://host:port; {default_port} is the usual port.",
            text=text,
            default_port=DEFAULT_PORT,
        )
    if parts.username is not None:
        raise InvalidInput(
            "endpoint",
            "holds-user-name",
            "it holds a user name",
            "Give user and password in their own fields.",
        )
    return text if port else text.replace(parts.netloc, f"{parts.netloc}:{DEFAULT_PORT}", 1)


def check_security(policy: object, mode: object) -> tuple[str, str]:
    """Policy and mode that go together; raises InvalidInput."""
    if policy not in POLICIES:
        raise InvalidInput(
            "security",
            "security-unknown",
            "{policy!r} is unknown",
            "Use one of: {policies}.",
            policy=policy,
            policies=", ".join(POLICIES),
        )
    if mode not in MODES:
        raise InvalidInput(
            "mode",
            "mode-unknown",
            "{mode!r} is unknown",
            "Use one of: {modes}.",
            mode=mode,
            modes=", ".join(MODES),
        )
    if (policy == NO_SECURITY) != (mode == "None"):
        raise InvalidInput(
            "mode",
            "not-go-with",
            "{mode} does not go with {policy}",
            "Without a policy nothing is signed; with one, take Sign or SignAndEncrypt.",
            mode=mode,
            policy=policy,
        )
    return str(policy), str(mode)


def check_thumbprint(value: object) -> str:
    """The SHA-256 of a certificate as 64 hex digits, or nothing; raises InvalidInput."""
    text = re.sub(r"[\s:]", "", value).lower() if isinstance(value, str) else "?"
    if text and not re.fullmatch(r"[0-9a-f]{64}", text):
        raise InvalidInput(
            "trusted",
            "no-sha-certificate",
            "it is not the SHA-256 of a certificate",
            "Test the source, and trust what it shows.",
        )
    return text
