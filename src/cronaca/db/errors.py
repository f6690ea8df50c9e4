"""The one edge at which the driver's errors become ours."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

import pymysql

from cronaca.core.errors import (
    CronacaError,
    StoreConflict,
    StoreError,
    StoreRejected,
    StoreUnable,
    StoreUnavailable,
)
from cronaca.db.address import Address

CONFLICTS: Final = frozenset({1205, 1213})
"""Lock wait timeout, deadlock (also Galera's certification failure)."""
UNAVAILABLE: Final = frozenset(
    {1040, 1047, 1053, 1077, 1079, 1152, 1158, 1159, 1160, 1161, 1927, 2002, 2003, 2006, 2013, 2055}
)
"""Too many connections, node without its cluster, server shutting down, network errors,
connection killed, cannot connect, gone."""
UNABLE: Final = frozenset(
    {3, 1015, 1020, 1021, 1023, 1025, 1026, 1030, 1036, 1037, 1038, 1041, 1044, 1045, 1049, 1114, 1135, 1142,
     1143, 1180, 1194, 1195, 1203, 1226, 1227, 1290, 1317, 1568, 1836, 1969}
)  # fmt: skip
"""The database is there and cannot do it at present, whatever it is given: disk or table full, read-only, out
of memory or of resources, no right, query interrupted (MariaDB's error code reference, from memory)."""
NO_PARTITION: Final = 1526


class NoPartition(StoreError):
    """A partition that was there has been dropped."""


def translate(exc: pymysql.MySQLError, address: Address) -> CronacaError:
    """Our error for one of the driver's."""
    code = exc.args[0] if exc.args and isinstance(exc.args[0], int) else 0
    if code == NO_PARTITION:
        return NoPartition("There is no partition for these samples.")
    if code in CONFLICTS:
        return StoreConflict(f"The transaction collided with another one ({code}).")
    if code in UNAVAILABLE or code in UNABLE or isinstance(exc, pymysql.InterfaceError):
        reason = str(exc.args[1]) if len(exc.args) > 1 else type(exc).__name__
        kind = StoreUnable if code in UNABLE else StoreUnavailable
        return kind(str(address), reason)
    reason = str(exc.args[1]) if len(exc.args) > 1 else str(exc)
    return StoreRejected(f"The database refused: {reason} ({code})")


@contextmanager
def foreign_errors(address: Address) -> Iterator[None]:
    """Lets no error of the driver through."""
    try:
        yield
    except pymysql.MySQLError as exc:
        raise translate(exc, address) from exc
