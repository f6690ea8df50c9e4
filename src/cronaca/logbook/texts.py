"""The dictionary of texts: history holds their codes, which never change."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from typing import Final

from cronaca.core.errors import InvalidInput
from cronaca.db.transaction import Transaction

LONGEST: Final = 4000
_ADD: Final = "INSERT IGNORE INTO text_value (digest, value) VALUES (%s, %s)"
_BY_DIGEST: Final = "SELECT digest, code FROM text_value WHERE digest IN %(digests)s"
_BY_CODE: Final = "SELECT code, value FROM text_value WHERE code IN %(codes)s"


def codes_of(tx: Transaction, values: list[str]) -> list[int]:
    """The codes of texts, in order; new ones are added. Raises InvalidInput for one that is too long."""
    for value in values:
        if len(value) > LONGEST:
            raise InvalidInput(
                "value",
                "value-text-characters",
                "a text has {value} characters",
                "Keep to {longest}.",
                value=len(value),
                longest=LONGEST,
            )
    if not values:
        return []
    digests = [hashlib.sha256(value.encode()).digest() for value in values]
    known: dict[bytes, int] = dict(tx.fetch(_BY_DIGEST, digests=digests))
    missing = {d: v for d, v in zip(digests, values, strict=True) if d not in known}
    if missing:
        tx.execute_many(_ADD, list(missing.items()))
        known |= dict(tx.fetch(_BY_DIGEST, digests=list(missing)))
    return [int(known[digest]) for digest in digests]


def texts_of(tx: Transaction, codes: Iterable[int]) -> dict[int, str]:
    """The texts of codes."""
    distinct = sorted(set(codes))
    return dict(tx.fetch(_BY_CODE, codes=distinct)) if distinct else {}
