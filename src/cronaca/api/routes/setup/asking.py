"""What the recorder is asked about sources before anything is saved: test, discover, browse."""

from __future__ import annotations

import json

from cronaca.api.deps import StoreDep
from cronaca.api.permissions import Configures
from cronaca.api.routing import api_router
from cronaca.api.schemas.sources import (
    BrowseIn,
    BrowseOut,
    DiscoverIn,
    DiscoverOut,
    TestIn,
    TestOut,
)
from cronaca.core.addresses import check_address, parse_settings, settings_to_plain
from cronaca.core.addresses.names import OPC_UA
from cronaca.core.addresses.settings import OpcUaSettings, parse_as
from cronaca.core.model import ValueType
from cronaca.core.requests import Browse, Discover, PlaceToRead, Signed, SourceTest
from cronaca.services.asking import ask_recorder

router = api_router("/setup/sources", "set-up")


@router.post("/test")
def test_source(store: StoreDep, who: Configures, body: TestIn) -> TestOut:
    """Lets the recorder connect and read, without saving anything; the live answer or the plain reason."""
    config = settings_to_plain(parse_settings(body.protocol, body.config.model_dump()))
    places = []
    for place in body.places:
        kind, address = ValueType[place.value_type.upper()], json.dumps(place.address.model_dump())
        check_address(body.protocol, address, kind)
        places.append(PlaceToRead(address, kind))
    request = SourceTest(body.protocol, config, tuple(places), Signed(body.source, body.secret))
    return TestOut(**{"values": [], **ask_recorder(store, who.actor.name, request)})


@router.post("/discover")
def discover(store: StoreDep, who: Configures, body: DiscoverIn) -> DiscoverOut:
    """What an OPC UA server offers: security, ways to sign in, its certificate."""
    settings = parse_as(OpcUaSettings, {"endpoint": body.endpoint, "timeout_s": body.timeout_s})
    request = Discover(settings.endpoint, settings.timeout_s)
    return DiscoverOut(**ask_recorder(store, who.actor.name, request))


@router.post("/browse")
def browse(store: StoreDep, who: Configures, body: BrowseIn) -> BrowseOut:
    """What lies under a node of an OPC UA server: folders, and variables with their values."""
    config = settings_to_plain(parse_as(OpcUaSettings, body.config.model_dump()))
    request = Browse(OPC_UA, config, body.node, Signed(body.source, body.secret))
    return BrowseOut(**ask_recorder(store, who.actor.name, request))
