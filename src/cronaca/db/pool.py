"""Connections and transactions."""

from __future__ import annotations

import random
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, Final, TypeVar

import pymysql
from dbutils.pooled_db import PooledDB

from cronaca.core.errors import StoreBusy, StoreConflict, StoreUnavailable
from cronaca.core.setup.places import NO_PLACES, ArchivePlaces
from cronaca.db.address import Address
from cronaca.db.errors import foreign_errors
from cronaca.db.topics import count_changes
from cronaca.db.transaction import Transaction

T = TypeVar("T")
_TRIES: Final = 5
_FIRST_PAUSE_S: Final = 0.02


def _is_alive(connection: pymysql.Connection[Any]) -> bool:
    """Asks the server. The pool's own check gives up checking for good when a broken connection answers
    with an AttributeError, as the driver's does after the server was killed. A ping is not enough: a node
    that has lost its cluster answers it, and refuses every query."""
    connection.ping(reconnect=False)
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return True


class _Nodes:
    """Connects to the node that last answered, or to the next one that does."""

    def __init__(self, address: Address, options: dict[str, Any]) -> None:
        self._nodes = address.nodes
        self._options = options
        self._preferred = 0

    def __call__(self) -> pymysql.Connection[Any]:
        failure: pymysql.MySQLError | None = None
        for i in range(len(self._nodes)):
            place = (self._preferred + i) % len(self._nodes)
            host, port = self._nodes[place]
            try:
                connection = pymysql.connect(host=host, port=port, **self._options)
                if len(self._nodes) > 1:
                    _is_alive(connection)
            except pymysql.MySQLError as exc:
                failure = exc
                continue
            self._preferred = place
            return connection
        raise failure or pymysql.OperationalError(2003, "no node is named")


class Store:
    """The database at one address: short transactions on pooled connections."""

    def __init__(
        self,
        address: Address,
        *,
        connections: int = 8,
        timeout_s: float = 10.0,
        wait_s: float = 10.0,
        places: ArchivePlaces = NO_PLACES,
    ) -> None:
        """`timeout_s`: of each answer of the database; `wait_s`: for a free connection; `places`: where
        archives may be put."""
        self.address = address
        self._places = places
        self._free = threading.BoundedSemaphore(connections)
        self._wait_s = wait_s
        self._mine = threading.local()
        self._options = (connections, timeout_s, wait_s)
        options: dict[str, Any] = {
            "user": address.user,
            "password": address.password,
            "database": address.database,
            "charset": "utf8mb4",
            "connect_timeout": min(5.0, timeout_s),
            "read_timeout": timeout_s,
            "write_timeout": timeout_s,
            "autocommit": False,
            # The driver would load all certificates anew for each connection: 50 ms in which no other
            # thread runs, the sampling of a recorder whose database is away least of all.
            "ssl_disabled": address.on_loopback,
            "init_command": "SET time_zone = '+00:00', sql_mode = 'STRICT_ALL_TABLES'",
        }
        self._pool = PooledDB(
            _Nodes(address, options),
            mincached=0,
            maxcached=connections,
            maxconnections=connections,
            blocking=False,  # _turn lets no more in than there are
            reset=True,
            ping=_is_alive,
            failures=(pymysql.OperationalError, pymysql.InterfaceError, pymysql.InternalError),
        )

    @contextmanager
    def transaction(self) -> Iterator[Transaction]:
        """A read-write transaction: committed at the end, rolled back on any error."""
        with self._cursor() as tx:
            yield tx

    @contextmanager
    def snapshot(self) -> Iterator[Transaction]:
        """A read-only transaction in which every query sees the database at one instant."""
        with self._cursor("START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY") as tx:
            yield tx

    def run(self, work: Callable[[Transaction], T]) -> T:
        """Runs `work` in a transaction; repeats it when it collides with another one, and, on a cluster,
        when its node went away: work must bear being done again after a commit whose answer was lost."""
        pause = _FIRST_PAUSE_S
        for _ in range(_TRIES - 1):
            try:
                with self.transaction() as tx:
                    return work(tx)
            except (StoreConflict, StoreUnavailable) as exc:
                if isinstance(exc, StoreBusy):
                    raise
                if isinstance(exc, StoreUnavailable) and len(self.address.nodes) < 2:
                    raise
                time.sleep(pause * (0.5 + random.random()))  # noqa: S311 - jitter, not a secret
                pause *= 2
        with self.transaction() as tx:
            return work(tx)

    def apart(self, connections: int) -> Store:
        """The same database through connections of its own, which nobody else can use up."""
        _, timeout_s, wait_s = self._options
        return Store(
            self.address, connections=connections, timeout_s=timeout_s, wait_s=wait_s, places=self._places
        )

    def close(self) -> None:
        """Ends every pooled connection."""
        self._pool.close()

    @contextmanager
    def _turn(self) -> Iterator[None]:
        """Waits for a connection to be free, not for ever. One who holds a connection and asks for another
        could wait for himself: that is a fault of the program."""
        if getattr(self._mine, "holds", False):
            raise RuntimeError("This thread holds a connection to the database already.")
        if not self._free.acquire(timeout=self._wait_s):
            raise StoreBusy(str(self.address), self._wait_s)
        self._mine.holds = True
        try:
            yield
        finally:
            self._mine.holds = False
            self._free.release()

    @contextmanager
    def _cursor(self, begin: str = "") -> Iterator[Transaction]:
        with self._turn(), foreign_errors(self.address):
            connection = self._pool.connection()
            try:
                connection.begin()
                with connection.cursor() as cursor:
                    if begin:
                        cursor.execute(begin)
                    tx = Transaction(cursor, self._places)
                    yield tx
                    count_changes(cursor, tx.topics)
                connection.commit()
            finally:
                # Gives the connection back; what is not committed by then is rolled back.
                connection.close()
