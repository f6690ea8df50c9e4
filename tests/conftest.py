"""One private MariaDB for the whole run, a fresh database for each test that asks for a store."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import replace

import pytest
from hypothesis import settings

from cronaca.store import Address, Store
from cronaca.store.migrate import migrate
from cronaca.store.private_server import PrivateServer

# How long one example takes says more about who else uses the machine than about the code.
settings.register_profile("shared machine", deadline=None)
settings.load_profile("shared machine")
_numbers = itertools.count(1)


@pytest.fixture(scope="session")
def database(tmp_path_factory: pytest.TempPathFactory) -> Iterator[PrivateServer]:
    server = PrivateServer(tmp_path_factory.mktemp("mariadb"))
    server.start()
    yield server
    server.stop()


@pytest.fixture
def empty_store(database: PrivateServer) -> Iterator[Store]:
    """A database without tables."""
    yield from _fresh(database)


@pytest.fixture(scope="module")
def module_store(database: PrivateServer) -> Iterator[Store]:
    """A database without tables that all tests of a module share: filling it takes long."""
    yield from _fresh(database)


def _fresh(database: PrivateServer) -> Iterator[Store]:
    address = _create(database.address)
    store = Store(address)
    yield store
    store.close()
    _drop(database.address, address)


@pytest.fixture
def store(empty_store: Store) -> Store:
    """A database with the program's schema."""
    migrate(empty_store)
    return empty_store


def _create(server: Address) -> Address:
    name = f"test_{next(_numbers)}"
    admin = Store(server, connections=1)
    with admin.transaction() as tx:
        tx.execute(f"CREATE DATABASE {name} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci")
    admin.close()
    return replace(server, database=name)


def _drop(server: Address, address: Address) -> None:
    admin = Store(server, connections=1)
    with admin.transaction() as tx:
        tx.execute(f"DROP DATABASE {address.database}")
    admin.close()
