"""What the recorder is asked about sources before anything is saved: test, discover, browse."""

from __future__ import annotations

import json
import time
from typing import Any, Final

from cronaca.api.deps import StoreDep
from cronaca.api.routing import api_router
from cronaca.api.schemas.sources import (
    BrowseIn,
    BrowseOut,
    DiscoverIn,
    DiscoverOut,
    TestIn,
    TestOut,
)
from cronaca.core.addresses import check_address, check_config
from cronaca.core.addresses.protocols import OPC_UA
from cronaca.core.model import ValueType
from cronaca.db import Store
from cronaca.services import control

router = api_router("/setup/sources", "set-up")
_PATIENCE_S: Final = 10.0
_LOOK_S: Final = 0.1


@router.post("/test")
def test_source(store: StoreDep, wanted: TestIn) -> TestOut:
    """Lets the recorder connect and read, without saving anything; the live answer or the plain reason."""
    config = check_config(wanted.protocol, wanted.config)
    places = []
    for place in wanted.places:
        kind, address = ValueType[place.value_type.upper()], json.dumps(place.address)
        check_address(wanted.protocol, address, kind)
        places.append({"address": address, "value_type": int(kind)})
    facts = {
        "protocol": wanted.protocol, "config": config, "places": places, **_who(wanted.secret, wanted.source)
    }  # fmt: skip
    return TestOut(**{"values": [], **ask(store, "test_source", facts)})


@router.post("/discover")
def discover(store: StoreDep, wanted: DiscoverIn) -> DiscoverOut:
    """What an OPC UA server offers: security, ways to sign in, its certificate."""
    config = check_config(OPC_UA, {"endpoint": wanted.endpoint, "timeout_s": wanted.timeout_s})
    facts = {"endpoint": config["endpoint"], "timeout_s": config["timeout_s"]}
    return DiscoverOut(**ask(store, "discover", facts))


@router.post("/browse")
def browse(store: StoreDep, wanted: BrowseIn) -> BrowseOut:
    """What lies under a node of an OPC UA server: folders, and variables with their values."""
    config = check_config(OPC_UA, wanted.config)
    facts = {"config": config, "node": wanted.node, **_who(wanted.secret, wanted.source)}
    return BrowseOut(**ask(store, "browse", facts))


def _who(secret: str | None, source: str) -> dict[str, Any]:
    return {"source": source} if secret is None else {"secret": secret}


def ask(store: Store, kind: str, facts: dict[str, Any]) -> dict[str, Any]:
    """The recorder's answer to a request, or that there is none."""
    number = store.run(lambda tx: control.ask(tx, kind, facts))
    deadline = time.monotonic() + _PATIENCE_S
    found = None
    while found is None and time.monotonic() < deadline:
        time.sleep(_LOOK_S)
        with store.snapshot() as tx:
            found = control.find_answer(tx, number)
    store.run(lambda tx: control.withdraw(tx, number))
    return found or {"ok": False, "reason": "The recorder does not answer: start it, then try again."}
