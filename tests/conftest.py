"""One private MariaDB for the whole run, a fresh database for each test that asks for a store."""

from __future__ import annotations

import itertools
import os
import shutil
import tempfile
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import settings

from cronaca.db import Address, Store
from cronaca.db.disks import DISK_SPACE
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer

# How long one example takes says more about who else uses the machine than about the code.
settings.register_profile("shared machine", deadline=None)
settings.load_profile("shared machine")
_numbers = itertools.count(1)
_IN_MEMORY = Path("/dev/shm")
_ROOM_BYTES = 6 << 30


def _keep_files_in_memory() -> None:
    """Waiting for the disk is most of what a test with a database takes; what a test looks at when it kills
    a process is the same in memory. Where that has no room, files lie where they usually do."""
    if "PYTEST_DEBUG_TEMPROOT" in os.environ or not os.access(_IN_MEMORY, os.W_OK):
        return
    if shutil.disk_usage(_IN_MEMORY).free >= _ROOM_BYTES:
        os.environ["PYTEST_DEBUG_TEMPROOT"] = str(_IN_MEMORY)


_keep_files_in_memory()
tempfile.tempdir = os.environ.get("PYTEST_DEBUG_TEMPROOT")


_SLOW_FOLDERS = ("browser", "recorder", "faults")
"""Where single tests take longest, the longest first: what is short fills the end of a run evenly."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The slow ones first. Workers take whole files, so what a file shares is started, and filled, once."""

    def place(item: pytest.Item) -> int:
        folder = item.path.relative_to(Path(__file__).parent).parts[0]
        return _SLOW_FOLDERS.index(folder) if folder in _SLOW_FOLDERS else len(_SLOW_FOLDERS)

    items.sort(key=place)


@pytest.fixture(scope="session")
def database() -> Iterator[PrivateServer]:
    """Not among pytest's own folders: these are for root alone, and the server has an account of its own."""
    with tempfile.TemporaryDirectory(prefix="cronaca-test-") as folder:
        server = PrivateServer(Path(folder) / "mariadb")
        server.start()
        yield server
        server.stop()


@pytest.fixture
def open_folder() -> Iterator[Path]:
    """A folder that every account of the machine may write, so the database's too."""
    with tempfile.TemporaryDirectory(prefix="cronaca-test-") as folder:
        Path(folder).chmod(0o777)
        yield Path(folder)


@pytest.fixture
def empty_store(database: PrivateServer) -> Iterator[Store]:
    """A database without tables."""
    yield from _fresh(database)


@pytest.fixture(scope="module")
def module_store(database: PrivateServer) -> Iterator[Store]:
    """A database without tables that all tests of a module share: filling it takes long."""
    yield from _fresh(database)


def _fresh(database: PrivateServer) -> Iterator[Store]:
    address = _create(database)
    store = Store(address)
    yield store
    store.close()
    _drop(database, address)


@pytest.fixture
def store(empty_store: Store) -> Store:
    """A database with the program's schema."""
    migrate(empty_store)
    return empty_store


def _create(server: PrivateServer) -> Address:
    """A database in which the program's account has the rights that it has in its own."""
    name = f"test_{next(_numbers)}"
    admin = Store(server.admin_address, connections=1)
    with admin.transaction() as tx:
        tx.execute(f"CREATE DATABASE {name} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci")
        tx.execute(f"GRANT ALL ON {name}.* TO 'cronaca'@'127.0.0.1'")
        tx.execute(DISK_SPACE.format(database=name))
    admin.close()
    return replace(server.address, database=name)


def _drop(server: PrivateServer, address: Address) -> None:
    admin = Store(server.admin_address, connections=1)
    with admin.transaction() as tx:
        tx.execute(f"DROP DATABASE {address.database}")
    admin.close()
