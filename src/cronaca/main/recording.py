"""The recorder's process."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Final

from cronaca.core.addresses.names import GENERATOR, INTERNAL, MODBUS, OPC_UA, SYSTEM
from cronaca.core.errors import InvalidInput, StoreUnavailable
from cronaca.core.model import SourceSetup
from cronaca.core.ports import Driver, HistoryOf, LastKnown, StatusBoard
from cronaca.core.setup.whole import Setup
from cronaca.db import Store
from cronaca.db.migrate import check_schema
from cronaca.history.jobs.emptying import empty_live_archives
from cronaca.history.tables.current import BLOCK, read_current
from cronaca.history.tables.stage_states import list_states
from cronaca.logbook.records import ensure_tables
from cronaca.main import (
    database_address,
    holder_name,
    keep_files_private,
    set_priority,
    until_signal,
)
from cronaca.main.setup_cache import SetupCache
from cronaca.main.supervisor import Heartbeat
from cronaca.plant.kept import StoreKeptValues
from cronaca.plant.whole import read_setup
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.drivers.generator import GeneratorDriver
from cronaca.recorder.drivers.internal import InternalDriver, InternalValues
from cronaca.recorder.drivers.modbus import ModbusDriver
from cronaca.recorder.drivers.opcua import Identity, Login, OpcUaDriver, browse, discover
from cronaca.recorder.drivers.system import Machine, SystemDriver
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.outputs.quarantine import Quarantine
from cronaca.recorder.outputs.spool import Spool
from cronaca.recorder.requests import Servers
from cronaca.services.control import StoreControl, get_revision, read_histories
from cronaca.services.jobs.for_recorder import AskedBackfill, AskedHistoryLookup
from cronaca.services.sink import StoreSink
from cronaca.settings import Settings

PREFERRED: Final = -5
"""The recorder's priority: sampling must not wait for whoever looks, sums up or compacts."""


def run_recorder(settings: Settings) -> None:
    """Records until told to end."""
    spool_folder = settings.spool_dir or settings.data_dir / "spool"
    keep_files_private(settings.data_dir, spool_folder)
    niceness = set_priority(PREFERRED)
    cache = SetupCache(settings.data_dir / "setup.json")
    store, beginning = _beginning(settings, cache)
    spool = Spool(
        spool_folder,
        most_bytes=settings.spool_mb << 20,
        when_full=settings.spool_full,
    )
    holder = holder_name()
    values = InternalValues(StoreKeptValues(store))
    identity = Identity(settings.data_dir / "certificates")
    board, machine = StatusBoard(), Machine(settings.data_dir)
    clock = AnchoredClock()  # the one of this process: it follows the steps of the machine's
    makers: dict[str, Callable[[SourceSetup], Driver]] = {
        MODBUS: lambda source: ModbusDriver(source.config),
        OPC_UA: lambda source: OpcUaDriver(
            Login.of(json.loads(source.config), source.secret, identity), clock
        ),
        GENERATOR: lambda _: GeneratorDriver(clock),
        INTERNAL: lambda _: InternalDriver(values),
        SYSTEM: lambda _: SystemDriver(board, machine.read, clock),
    }
    servers = Servers(
        discover=lambda asked: discover(asked.endpoint, asked.timeout_s, identity),
        browse=lambda asked, secret: browse(Login.of(asked.config, secret, identity), asked.node),
    )

    def last_known() -> LastKnown:
        empty_live_archives(store, clock)
        with store.snapshot() as tx:
            return LastKnown(read_current(tx, (0, 0))[1], list_states(tx))

    outlet = Outlet(
        StoreSink(store),
        spool,
        holder,
        StoreControl(store),
        AskedBackfill(store),
        servers,
        last_known,
        board,
        AskedHistoryLookup(store),
        Quarantine(settings.data_dir / "quarantine"),
        Heartbeat(settings.heartbeat).beat,
        cache,
        beginning.last_epoch,
        niceness=niceness,
    )
    recorder = Recorder(
        beginning.setup, partial(_driver, makers), beginning.histories, outlet, block=BLOCK,
        revision=beginning.revision, clock=clock,
    )  # fmt: skip
    asyncio.run(until_signal(recorder.run))
    spool.close()
    store.close()


@dataclass(frozen=True, slots=True)
class _Beginning:
    """What a recorder begins with; `last_epoch` when it comes from its own disk."""

    setup: Setup
    histories: HistoryOf
    revision: int = 0
    last_epoch: int | None = None


def _beginning(settings: Settings, cache: SetupCache) -> tuple[Store, _Beginning]:
    """The set-up as the database has it, or while that is away the one used last."""
    store = Store(database_address(settings))
    try:
        check_schema(store)
        ensure_tables(store)
        with store.snapshot() as tx:
            return store, _Beginning(read_setup(tx), read_histories(tx), get_revision(tx))
    except StoreUnavailable:
        kept = cache.load()
        if kept is None:
            raise
        return store, _Beginning(kept.setup, kept.history_of(), last_epoch=kept.epoch)


def _driver(makers: Mapping[str, Callable[[SourceSetup], Driver]], source: SourceSetup) -> Driver:
    if source.protocol not in makers:
        raise InvalidInput(
            "protocol",
            "recording-protocol-unknown",
            "{protocol} is unknown",
            "Use one of: {makers}.",
            protocol=source.protocol,
            makers=", ".join(makers),
        )
    return makers[source.protocol](source)
