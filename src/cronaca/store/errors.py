"""The one edge at which the driver's errors become ours."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

import pymysql

from cronaca.core.errors import CronacaError, StoreConflict, StoreError, StoreUnavailable
from cronaca.store.address import Address

CONFLICTS: Final = frozenset({1205, 1213})
"""Lock wait timeout, deadlock (also Galera's certification failure)."""
UNAVAILABLE: Final = frozenset(
    {1040, 1047, 1053, 1077, 1079, 1152, 1158, 1159, 1160, 1161, 1927, 2002, 2003, 2006, 2013, 2055}
)
"""Too many connections, node without its cluster, server shutting down, network errors,
connection killed, cannot connect, gone."""
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
    if code in UNAVAILABLE or isinstance(exc, pymysql.InterfaceError):
        reason = str(exc.args[1]) if len(exc.args) > 1 else type(exc).__name__
        return StoreUnavailable(str(address), reason)
    return StoreError(f"The database refused: {exc}")


@contextmanager
def foreign_errors(address: Address) -> Iterator[None]:
    """Lets no error of the driver through."""
    try:
        yield
    except pymysql.MySQLError as exc:
        raise translate(exc, address) from exc
