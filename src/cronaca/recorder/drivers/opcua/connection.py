"""Reaching an OPC UA server: trust, sign-in, and what its refusals mean in plain words."""

from __future__ import annotations

import logging
from collections.abc import AsyncIterator, Mapping
from contextlib import asynccontextmanager
from dataclasses import dataclass, field
from typing import Any, Final

from asyncua import Client, ua
from asyncua.crypto import security_policies, uacrypto
from asyncua.ua.uaerrors import UaError, UaStatusCodeError

from cronaca.core.addresses.opcua import NO_SECURITY
from cronaca.core.addresses.settings import OpcUaSettings, parse_as
from cronaca.core.errors import CronacaError, SourceError, SourceRefused, SourceUnreachable
from cronaca.recorder.drivers.opcua.identity import APPLICATION_URI, Identity, shown, thumbprint

# The library tells each lost answer at length; states are reported by ourselves.
logging.getLogger("asyncua").setLevel(logging.CRITICAL)

_POLICIES: Final[dict[str, type[security_policies.SecurityPolicy]]] = {
    "Basic256Sha256": security_policies.SecurityPolicyBasic256Sha256,
    "Aes128Sha256RsaOaep": security_policies.SecurityPolicyAes128Sha256RsaOaep,
    "Aes256Sha256RsaPss": security_policies.SecurityPolicyAes256Sha256RsaPss,
}
_WHO: Final = "the server does not know this user, or the password is wrong"
_MEANING: Final = {
    ua.StatusCodes.BadUserAccessDenied: _WHO,
    ua.StatusCodes.BadIdentityTokenRejected: _WHO,
    ua.StatusCodes.BadIdentityTokenInvalid: "the server wants another way to sign in: give user and password",
    ua.StatusCodes.BadNodeIdUnknown: "the server has no such node",
    ua.StatusCodes.BadNodeIdInvalid: "the server cannot read this node id",
    ua.StatusCodes.BadNotReadable: "the node may not be read",
    ua.StatusCodes.BadNotWritable: "the node may not be written",
    ua.StatusCodes.BadTypeMismatch: "the value has not the type of the node",
    ua.StatusCodes.BadTooManySessions: "the server has no session left for us",
    ua.StatusCodes.BadTooManySubscriptions: "the server has no subscription left for us",
    ua.StatusCodes.BadCertificateTimeInvalid: "a certificate is not valid at this time: look at the clocks",
    ua.StatusCodes.BadCertificateHostNameInvalid: "the certificate is for another host",
}
"""Status codes of IEC 62541-4 and -6 (from memory) in plain words."""
_OUR_CERTIFICATE: Final = frozenset({
    ua.StatusCodes.BadSecurityChecksFailed, ua.StatusCodes.BadCertificateUntrusted,
    ua.StatusCodes.BadCertificateInvalid, ua.StatusCodes.BadCertificateUriInvalid,
})  # fmt: skip


_PASSING: Final = frozenset({
    ua.StatusCodes.BadTimeout, ua.StatusCodes.BadRequestTimeout, ua.StatusCodes.BadConnectionClosed,
    ua.StatusCodes.BadCommunicationError, ua.StatusCodes.BadServerNotConnected, ua.StatusCodes.BadShutdown,
    ua.StatusCodes.BadServerHalted, ua.StatusCodes.BadSessionIdInvalid, ua.StatusCodes.BadSessionClosed,
    ua.StatusCodes.BadSessionNotActivated, ua.StatusCodes.BadSecureChannelIdInvalid,
    ua.StatusCodes.BadSecureChannelClosed, ua.StatusCodes.BadSubscriptionIdInvalid,
    ua.StatusCodes.BadTcpServerTooBusy, ua.StatusCodes.BadTooManyOperations,
    ua.StatusCodes.BadResourceUnavailable, ua.StatusCodes.BadOutOfMemory,
})  # fmt: skip
"""What another connection, or a later time, may mend: no refusal."""
_STUMBLES: Final = (ValueError, TypeError, LookupError, AttributeError, ArithmeticError, RuntimeError)
_NO_ENDPOINT: Final = "No matching endpoints"
"""What the library says; with security the endpoints were looked through before."""
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Login:
    """A source's settings, complete, and the password of its user."""

    settings: OpcUaSettings
    password: str = field(repr=False)
    identity: Identity

    @classmethod
    def of(cls, config: Mapping[str, Any], password: str, identity: Identity) -> Login:
        """From settings as they are kept; raises InvalidInput."""
        return cls(parse_as(OpcUaSettings, config), password, identity)

    @property
    def secure(self) -> bool:
        """Whether messages are signed."""
        return self.settings.security != NO_SECURITY


async def open_client(login: Login) -> Client:
    """A session with the server; raises SourceError with the plain reason."""
    settings = login.settings
    client = Client(settings.endpoint, timeout=settings.timeout_s)
    client.application_uri = APPLICATION_URI
    client.name = client.description = "Cronaca"
    if settings.user:
        client.set_user(settings.user)
        client.set_password(login.password)
    async with plain_reasons(login):
        if login.secure:
            await _secure(client, login)
        await client.connect()
    return client


async def _secure(client: Client, login: Login) -> None:
    """Only a server whose certificate the engineer has trusted is spoken to."""
    settings = login.settings
    policy = _POLICIES[settings.security]
    mode = ua.MessageSecurityMode[settings.mode]
    endpoints = await client.connect_and_get_server_endpoints()
    fitting = [e for e in endpoints if e.SecurityMode == mode and e.SecurityPolicyUri == policy.URI]
    if not fitting:
        raise SourceRefused(f"the server offers no {settings.security} with {settings.mode}")
    certificate = fitting[0].ServerCertificate
    digest = thumbprint(certificate)
    if not settings.trusted:
        raise SourceRefused(f"the server's certificate is not trusted yet: {shown(digest)}")
    if digest != settings.trusted:
        raise SourceRefused(
            f"the server shows another certificate than the one that is trusted: {shown(digest)}; "
            "ask its administrator before you trust it"
        )
    login.identity.ensure()
    await client.set_security(
        policy, str(login.identity.certificate_file), str(login.identity.key_file),
        server_certificate=uacrypto.CertProperties(certificate, "der"), mode=mode,
    )  # fmt: skip


@asynccontextmanager
async def plain_reasons(login: Login) -> AsyncIterator[None]:
    """Turns what the library raises into SourceError: also where it stumbles over an answer that it does not
    understand. One odd server must not end the recording of the others."""
    where = login.settings.endpoint
    try:
        yield
    except CronacaError:
        raise
    except UaStatusCodeError as exc:
        raise _of_status(exc, login) from exc
    except TimeoutError as exc:
        raise SourceUnreachable(f"no answer from {where} in {login.settings.timeout_s:g} s") from exc
    except (OSError, UaError) as exc:
        text = str(exc) or type(exc).__name__
        if text.startswith(_NO_ENDPOINT):
            raise SourceRefused("the server lets nobody in without security: ask what it offers") from exc
        raise SourceUnreachable(f"no connection to {where}: {text[:200]}") from exc
    except _STUMBLES as exc:
        _log.warning("%s gave an answer that is not understood", where, exc_info=True)
        raise SourceUnreachable(f"{where} gave an answer that is not understood ({exc})"[:300]) from exc


def _of_status(exc: UaStatusCodeError, login: Login) -> SourceError:
    if exc.code in _OUR_CERTIFICATE and login.secure:
        own = shown(thumbprint(login.identity.ensure()))
        return SourceRefused(
            f"the server does not trust our certificate: its administrator has to accept {own}"
        )
    if exc.code in _PASSING:
        return SourceUnreachable(reason_of(exc.code))
    return SourceRefused(reason_of(exc.code))


def reason_of(code: int) -> str:
    """A status code in plain words, with its name."""
    name = ua.StatusCode(ua.UInt32(code)).name
    known = _MEANING.get(code)
    return f"{known} ({name})" if known else f"the server answers {name}"
