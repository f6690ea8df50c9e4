"""Who we are to OPC UA servers: a key and a certificate of our own, made at the first use."""

from __future__ import annotations

import hashlib
import os
import socket
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

from asyncua.crypto.cert_gen import (
    dump_private_key_as_pem,
    generate_private_key,
    generate_self_signed_app_certificate,
)
from cryptography import x509
from cryptography.hazmat.primitives.serialization import Encoding
from cryptography.x509.oid import ExtendedKeyUsageOID

APPLICATION_URI: Final = "urn:cronaca:recorder"
_DAYS: Final = 365 * 10
_RENEW_BEFORE: Final = timedelta(days=30)


def thumbprint(certificate: bytes | None) -> str:
    """The SHA-256 of a certificate (DER) as hex; nothing for none."""
    return hashlib.sha256(certificate).hexdigest() if certificate else ""


def shown(print_: str) -> str:
    """A thumbprint in groups that can be read out: 3A:F0:…"""
    return ":".join(print_[i : i + 2] for i in range(0, len(print_), 2)).upper()


@dataclass(frozen=True, slots=True)
class Identity:
    """Where our key and certificate lie."""

    folder: Path
    uri: str = APPLICATION_URI

    @property
    def key_file(self) -> Path:
        """The private key, as PEM; nobody else may read it."""
        return self.folder / "key.pem"

    @property
    def certificate_file(self) -> Path:
        """The certificate, as DER: what a server's administrator has to trust."""
        return self.folder / "certificate.der"

    def ensure(self) -> bytes:
        """The certificate (DER); made when there is none yet, or when it soon ends. Raises OSError."""
        if self.certificate_file.exists() and self.key_file.exists():
            certificate = self.certificate_file.read_bytes()
            ends = x509.load_der_x509_certificate(certificate).not_valid_after_utc
            if ends > datetime.now(UTC) + _RENEW_BEFORE:
                return certificate
        return self._make()

    def _make(self) -> bytes:
        self.folder.mkdir(parents=True, exist_ok=True)
        key = generate_private_key()
        host = socket.gethostname()
        names: list[x509.GeneralName] = [x509.UniformResourceIdentifier(self.uri), x509.DNSName(host)]
        usage = [ExtendedKeyUsageOID.CLIENT_AUTH, ExtendedKeyUsageOID.SERVER_AUTH]
        made = generate_self_signed_app_certificate(key, f"Cronaca on {host}", {}, names, usage, _DAYS)
        certificate = made.public_bytes(Encoding.DER)
        with open(self.key_file, "wb", opener=_private) as file:
            file.write(dump_private_key_as_pem(key))
        self.certificate_file.write_bytes(certificate)
        return certificate


def _private(path: str, flags: int) -> int:
    return os.open(path, flags, 0o600)
