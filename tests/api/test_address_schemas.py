"""The description of the API knows each protocol's address and settings, by the fields of the rules."""

from __future__ import annotations

import json
from dataclasses import fields
from typing import get_args

import pytest

from cronaca.api.schemas.addresses import (
    AddressModel,
    GivenModel,
    ModbusSettingsModel,
    NoSettingsModel,
    OpcUaSettingsModel,
    protocol_of,
)
from cronaca.core.addresses import PROTOCOLS, SourceSettings, load_settings
from cronaca.core.addresses.settings import ModbusSettings, NoSettings, OpcUaSettings
from cronaca.db import Store
from tests.api.conftest import api, source
from tests.api.setup_support import Api, Json

__all__ = ["api", "source"]
UNION = get_args(AddressModel)[0]
MODELS: dict[str, type[GivenModel]] = {get_args(kind)[1].tag: get_args(kind)[0] for kind in get_args(UNION)}


def test_each_protocol_has_an_address_with_the_fields_of_the_rules() -> None:
    assert set(MODELS) == set(PROTOCOLS)
    for name, protocol in PROTOCOLS.items():
        assert list(MODELS[name].model_fields) == [column.name for column in fields(protocol.address)], name


@pytest.mark.parametrize(
    ("model", "kind"),
    [
        (ModbusSettingsModel, ModbusSettings),
        (OpcUaSettingsModel, OpcUaSettings),
        (NoSettingsModel, NoSettings),
    ],
)
def test_settings_have_the_fields_and_defaults_of_the_rules(
    model: type[GivenModel], kind: type[SourceSettings]
) -> None:
    assert {name: one.default for name, one in model.model_fields.items()} == {
        column.name: column.default for column in fields(kind)
    }


@pytest.mark.parametrize(
    ("address", "protocol"),
    [
        ({"table": "coil", "address": 1, "data_type": "bool"}, "modbus_tcp"),
        ({"address": 3}, "modbus_tcp"),
        ({"node": "i=2258"}, "opc_ua"),
        ({"shape": "sine"}, "generator"),
        ({"inputs": {}}, "calculated"),
        ({"item": "disk"}, "system"),
        ({"keep": True}, "internal"),
        ({}, "internal"),
        ({"colour": "red"}, "internal"),
    ],
)
def test_an_address_is_known_by_its_fields(address: Json, protocol: str) -> None:
    assert protocol_of(address) == protocol


def test_an_address_is_answered_as_it_was_given(api: Api, source: Json) -> None:
    given = {"table": "holding_register", "address": 7, "data_type": "float32", "scale": 2}
    tag = {"name": "Dryer 2 outlet", "source": source["uid"], "address": given}
    api.ok("POST", "/setup/tags", {"tags": [tag]})
    assert api.ok("GET", "/setup/tags")["tags"][0]["address"] == given


def test_what_is_wrong_is_named_by_its_path_in_what_was_sent(api: Api, source: Json) -> None:
    tag = {"name": "Dryer 2 outlet", "source": source["uid"], "address": {"table": "coil", "address": "high"}}
    assert api.field("POST", "/setup/tags", {"tags": [tag]}) == "tags.0.address.address"
    bad = {"name": "Line 9", "protocol": "modbus_tcp", "config": {"host": 5}}
    assert api.field("POST", "/setup/sources", bad) == "config.host"
    assert api.field("POST", "/setup/sources", {"name": "Line 9"}) == "protocol"


def test_settings_that_another_version_has_stored_are_read_without_a_fault() -> None:
    assert load_settings("modbus_tcp", {"host": "h", "colour": "red"}) == ModbusSettings("h")
    assert load_settings("pigeon", {"loft": 3}) == NoSettings()


def test_one_address_or_source_that_does_not_fit_keeps_no_other_from_being_listed(
    api: Api, source: Json, store: Store
) -> None:
    """Older versions passed over what they did not know in an address, and kept it."""
    good = {"table": "coil", "address": 1, "data_type": "bool"}
    tags = [
        {"name": name, "source": source["uid"], "address": {**good, "address": i}, "value_type": "boolean"}
        for i, name in enumerate(("Line 5 door", "Line 5 jam"))
    ]
    api.ok("POST", "/setup/tags", {"tags": tags})
    odd = json.dumps({**good, "address": 1, "remark": "behind the press", "low_word_first": "perhaps"})
    with store.transaction() as tx:
        tx.execute("UPDATE tag SET address = %(odd)s WHERE name = 'Line 5 jam'", odd=odd)
        tx.execute("UPDATE source SET config = %(odd)s", odd='{"host": 5, "port": "x"}')
    listed = api.ok("GET", "/setup/tags")["tags"]
    assert [one["name"] for one in listed] == ["Line 5 door", "Line 5 jam"]
    assert listed[0]["address"] == {**good, "address": 0}
    assert listed[1]["address"]["table"] == "coil"
    assert [one["config"]["host"] for one in api.ok("GET", "/setup/sources")] == [5]
