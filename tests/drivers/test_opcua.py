"""The OPC UA driver over the real protocol: against the stand-in, which is built on the same library; so is
what the two tell each other no proof against other servers."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import cast

import pytest
import pytest_asyncio
from asyncua import ua

from cronaca.core import quality as q
from cronaca.core.addresses import check_address, parse_settings, settings_to_plain
from cronaca.core.addresses.opcua import OpcUaAddress
from cronaca.core.bits import from_bits
from cronaca.core.errors import InvalidInput, SourceError, SourceRefused, SourceUnreachable
from cronaca.core.model import SECOND, Tag, ValueType, Window
from cronaca.core.ports import Heard
from cronaca.db.ports import find_free_port
from cronaca.demo.opcua_stand_in import SERVER_URI, TOLD, Guard, OpcUaStandIn
from cronaca.recorder.drivers.opcua import Identity, Login, OpcUaDriver, browse, discover
from cronaca.recorder.drivers.opcua.connection import plain_reasons
from cronaca.recorder.drivers.opcua.identity import thumbprint
from cronaca.recorder.drivers.opcua.values import (
    has_overflowed,
    source_us,
    to_moment,
    to_sample,
    to_us,
    to_variant,
)
from tests.support.builders import a_tag


def node_tag(key: str, kind: ValueType = ValueType.FLOAT, tag_id: int = 1, **fields: object) -> Tag:
    address = json.dumps({"node": f"ns=2;s=Line1.{key}", **fields})
    return a_tag(key, kind, tag_id=tag_id, address=address, scan_us=SECOND // 10)


@asynccontextmanager
async def connected(login: Login) -> AsyncIterator[OpcUaDriver]:
    driver = OpcUaDriver(login)
    await driver.connect()
    yield driver
    await driver.close()


ON_ONE_LOOP = pytest.mark.asyncio(loop_scope="module")
"""A server takes two seconds to start: the tests of this file share one."""


@pytest_asyncio.fixture(scope="module", loop_scope="module")
async def server() -> AsyncIterator[OpcUaStandIn]:
    found = OpcUaStandIn(find_free_port(), most_per_read=7)
    await found.start()
    yield found
    await found.stop()


@pytest.fixture
def login(server: OpcUaStandIn, tmp_path: Path) -> Login:
    return Login.of({"endpoint": server.endpoint}, "", Identity(tmp_path / "own"))


async def hear_some(driver: OpcUaDriver, seconds: float = 1.0) -> list[Heard]:
    found = []
    with pytest.raises(TimeoutError):
        async with asyncio.timeout(seconds):
            while True:
                found.append(await driver.hear())
    return [one for one in found if len(one.ts_us)]


class TestAddresses:
    @pytest.mark.parametrize(
        ("address", "field"),
        [
            ({"node": "Line 1"}, "address"),
            ({"node": "ns=2;x=4"}, "address"),
            ({}, "address"),
            ({"node": "i=1", "deadband": -1}, "address"),
            ({"node": "i=1", "scale": 0}, "address"),
            ({"node": "i=1", "register": 4}, "address"),
        ],
    )
    def test_what_cannot_be_used_is_said_at_the_field(self, address: dict[str, object], field: str) -> None:
        with pytest.raises(InvalidInput) as caught:
            check_address("opc_ua", json.dumps(address), ValueType.FLOAT)
        assert caught.value.field == field

    @pytest.mark.parametrize("node", ["i=2258", "ns=2;s=a b;c=d", "ns=1;g=" + "0" * 36, "ns=3;b=QUJD"])
    def test_each_kind_of_node_id_of_part_6_is_taken(self, node: str) -> None:
        check_address("opc_ua", json.dumps({"node": node}), ValueType.INTEGER)

    def test_only_floats_are_scaled(self) -> None:
        with pytest.raises(InvalidInput):
            check_address("opc_ua", json.dumps({"node": "i=1", "scale": 2}), ValueType.INTEGER)

    @pytest.mark.parametrize(
        ("config", "field"),
        [
            ({"endpoint": "http://x"}, "endpoint"),
            ({"endpoint": "opc.tcp://u:p@x"}, "endpoint"),
            ({"endpoint": "opc.tcp://x", "security": "Basic128"}, "security"),
            ({"endpoint": "opc.tcp://x", "security": "Basic256Sha256"}, "mode"),
            ({"endpoint": "opc.tcp://x", "mode": "Sign"}, "mode"),
            ({"endpoint": "opc.tcp://x", "trusted": "ab"}, "trusted"),
            ({"endpoint": "opc.tcp://x", "password": "p"}, "password"),
            ({"endpoint": "opc.tcp://x", "history": 1}, "history"),
        ],
    )
    def test_settings_name_the_field(self, config: dict[str, object], field: str) -> None:
        with pytest.raises(InvalidInput) as caught:
            parse_settings("opc_ua", config)
        assert caught.value.field == field

    def test_the_usual_port_is_filled_in(self) -> None:
        found = parse_settings("opc_ua", {"endpoint": " opc.tcp://plc-2/line "})
        assert settings_to_plain(found)["endpoint"] == "opc.tcp://plc-2:4840/line"


class TestValues:
    def test_times_are_exact_to_the_microsecond(self) -> None:
        for ts_us in (0, 1, 1_795_490_161_313_445, 253_402_300_799_999_999):
            assert to_us(to_moment(ts_us)) == ts_us

    @pytest.mark.parametrize(
        ("value", "kind", "expected", "quality"),
        [
            (71.3, ValueType.FLOAT, 71.3, q.GOOD),
            (7, ValueType.FLOAT, 7.0, q.GOOD),
            (float("nan"), ValueType.FLOAT, None, q.BAD_NO_DATA),
            (True, ValueType.BOOLEAN, True, q.GOOD),
            ((1 << 63) - 1, ValueType.INTEGER, (1 << 63) - 1, q.GOOD),
            (1 << 63, ValueType.INTEGER, None, q.BAD_OUT_OF_RANGE),
            (1.5, ValueType.INTEGER, None, q.BAD_CONFIGURATION),
            ("text", ValueType.FLOAT, None, q.BAD_CONFIGURATION),
            ([1.0, 2.0], ValueType.FLOAT, None, q.BAD_CONFIGURATION),
            (None, ValueType.FLOAT, None, q.BAD_NO_DATA),
        ],
    )
    def test_a_value_of_the_wrong_kind_is_bad_never_zero(
        self, value: object, kind: ValueType, expected: object, quality: int
    ) -> None:
        variant = ua.DataValue(None if value is None else ua.Variant(value))
        bits, found = to_sample(variant, OpcUaAddress("i=1"), kind)
        assert found == quality
        assert expected is None or from_bits(bits, kind) == expected

    @pytest.mark.parametrize("code", [0x80310000, 0x40900000, 0x00960000, 0x80AB0400])
    def test_the_upper_half_of_a_status_code_is_the_quality(self, code: int) -> None:
        value = ua.DataValue(ua.Variant(1.0), StatusCode=ua.StatusCode(ua.UInt32(code)))
        assert to_sample(value, OpcUaAddress("i=1"), ValueType.FLOAT)[1] == code >> 16

    @pytest.mark.parametrize(
        ("code", "dropped"), [(0, False), (0x480, True), (0x40900480, True), (0x400, False)]
    )
    def test_an_overflow_is_seen_beside_any_quality(self, code: int, dropped: bool) -> None:
        value = ua.DataValue(ua.Variant(1.0), StatusCode=ua.StatusCode(ua.UInt32(code)))
        assert has_overflowed(value) is dropped

    def test_the_zero_of_the_standard_is_no_time(self) -> None:
        """1601-01-01 (IEC 62541-6, 5.2.2.5; from memory)."""
        zero = ua.DataValue(ua.Variant(1.0), SourceTimestamp=cast(ua.DateTime, ua.get_win_epoch()))
        assert source_us(zero) is None
        assert source_us(ua.DataValue(ua.Variant(1.0))) is None

    def test_scaled_there_and_back(self) -> None:
        place = OpcUaAddress("i=1", scale=0.1, offset=-40)
        assert place.to_engineering(713) == 31.3
        assert to_variant(31.3, place, ua.VariantType.Int16).Value == 713
        with pytest.raises(ValueError, match="does not fit"):
            to_variant(1e6, place, ua.VariantType.Int16)


@ON_ONE_LOOP
class TestFollowing:
    async def test_each_change_comes_with_the_time_of_its_source(
        self, server: OpcUaStandIn, login: Login
    ) -> None:
        tag = node_tag("temperature_1")
        async with connected(login) as driver:
            await driver.follow([tag])
            await driver.hear()
            start = datetime.now(UTC)
            moments = [start + timedelta(milliseconds=10 * i) for i in range(20)]
            for i, moment in enumerate(moments):
                await server.set_values(1, {"temperature_1": 20 + i}, moment)
            heard = await hear_some(driver)
        times = [t for one in heard for t in one.ts_us.tolist()]
        values = [from_bits(b, ValueType.FLOAT) for one in heard for b in one.bits.tolist()]
        assert times == [to_us(moment) for moment in moments]
        assert values == [20.0 + i for i in range(20)]

    async def test_a_deadband_is_kept_by_the_server(self, server: OpcUaStandIn, login: Login) -> None:
        await server.set_values(1, {"temperature_1": 20})
        async with connected(login) as driver:
            await driver.follow([node_tag("temperature_1", deadband=1.0)])
            await driver.hear()
            for value in (20.5, 20.9, 22.0, 22.9, 25.0):
                await server.set_values(1, {"temperature_1": value})
            heard = await hear_some(driver)
        assert [from_bits(b, ValueType.FLOAT) for one in heard for b in one.bits.tolist()] == [22.0, 25.0]

    async def test_a_node_that_is_not_there_is_bad_and_stops_no_other(
        self, server: OpcUaStandIn, login: Login
    ) -> None:
        good, missing = node_tag("temperature_1", tag_id=1), node_tag("nothing", tag_id=2)
        odd = a_tag("odd", tag_id=3, address="{}")
        async with connected(login) as driver:
            reading = await driver.read([good, missing, odd])
            assert not q.is_bad(reading.quality)[0]
            assert q.is_bad(reading.quality)[1:].all()
            await driver.follow([good, missing, odd])
            heard = await hear_some(driver)
        qualities = {int(i): int(c) for h in heard for i, c in zip(h.tag_ids, h.quality, strict=True)}
        assert qualities == {1: q.GOOD, 2: 0x8034, 3: q.BAD_CONFIGURATION}, "BadNodeIdUnknown"

    async def test_tags_come_and_go_over_one_subscription(self, server: OpcUaStandIn, login: Login) -> None:
        one, two = node_tag("temperature_1", tag_id=1), node_tag("temperature_2", tag_id=2)
        async with connected(login) as driver:
            await driver.follow([one])
            await driver.follow([two])
            await hear_some(driver, 0.5)
            await server.set_values(1, {"temperature_1": 5, "temperature_2": 6})
            heard = await hear_some(driver, 0.5)
        assert {int(i) for h in heard for i in h.tag_ids} == {2}

    async def test_it_lives_while_nothing_changes_and_says_when_the_server_goes(self, tmp_path: Path) -> None:
        lone = OpcUaStandIn(find_free_port())
        await lone.start()
        login = Login.of({"endpoint": lone.endpoint}, "", Identity(tmp_path))
        async with connected(login) as driver:
            await driver.follow([node_tag("temperature_1")])
            for _ in range(4):
                await driver.hear()
            await lone.stop()
            with pytest.raises(SourceUnreachable):
                await asyncio.wait_for(hear_for_ever(driver), 6)
            with pytest.raises(SourceUnreachable):
                await driver.read([node_tag("temperature_1")])

    async def test_a_source_far_ahead_is_not_believed(self, login: Login, server: OpcUaStandIn) -> None:
        """More than 10 minutes: the time of receipt, and Uncertain."""
        async with connected(login) as driver:
            await driver.follow([node_tag("temperature_2")])
            await driver.hear()
            await server.set_values(1, {"temperature_2": 45}, datetime.now(UTC) + timedelta(minutes=11))
            await server.set_values(1, {"temperature_2": 46}, datetime.now(UTC) + timedelta(minutes=9))
            heard = await hear_some(driver)
        now_us = to_us(datetime.now(UTC))
        far, near = (pair for h in heard for pair in zip(h.ts_us.tolist(), h.quality.tolist(), strict=True))
        assert abs(far[0] - now_us) < 5 * SECOND
        assert far[1] == q.UNCERTAIN
        assert near[0] - now_us > 500 * SECOND
        assert near[1] == q.GOOD

    async def test_a_number_is_written_in_the_type_of_its_node(
        self, server: OpcUaStandIn, login: Login
    ) -> None:
        async with connected(login) as driver:
            await driver.write(node_tag(TOLD, ValueType.INTEGER), 17)
            assert await server.told(1) == 17
            with pytest.raises(SourceRefused, match="does not fit"):
                await driver.write(node_tag(TOLD, ValueType.INTEGER), 2**40)
            with pytest.raises(SourceRefused, match=r"may not be written|BadUserAccessDenied|BadNotWritable"):
                await driver.write(node_tag("temperature_1"), 1.0)


async def hear_for_ever(driver: OpcUaDriver) -> None:
    while True:
        await driver.hear()


@ON_ONE_LOOP
class TestPast:
    async def test_all_of_it_comes_over_many_continuation_points(
        self, server: OpcUaStandIn, login: Login
    ) -> None:
        start = datetime.now(UTC) - timedelta(minutes=10)
        for i in range(100):
            await server.set_values(1, {"temperature_1": i}, start + timedelta(seconds=i))
        tag = node_tag("temperature_1", scale=2.0)
        window = Window(to_us(start + timedelta(seconds=20)), to_us(start + timedelta(seconds=59)))
        async with connected(login) as driver:
            past = await driver.read_past(tag, window)
        assert past is not None
        assert past.values.tolist() == [2.0 * i for i in range(20, 60)], "7 in each answer, both ends in"
        assert past.ts_us.tolist() == [to_us(start + timedelta(seconds=i)) for i in range(20, 60)]

    async def test_a_node_without_a_past_says_so(self, login: Login) -> None:
        async with connected(login) as driver:
            assert await driver.read_past(node_tag(TOLD, ValueType.INTEGER), Window(0, SECOND)) is None


@ON_ONE_LOOP
class TestFinding:
    async def test_a_server_tells_what_it_offers(self, login: Login, server: OpcUaStandIn) -> None:
        found = await discover(server.endpoint, 4, login.identity)
        (offer,) = found["offers"]
        assert (offer["security"], offer["mode"]) == ("None", "None")
        assert "anonymous" in offer["sign_in"]

    async def test_the_address_space_is_a_tree(self, login: Login) -> None:
        lines = (await browse(login, ""))["nodes"]
        line = next(one for one in lines if one["name"] == "Line 1")
        assert not line["variable"]
        signals = (await browse(login, line["node"]))["nodes"]
        kinds = {one["node"].rpartition(".")[2]: one["value_type"] for one in signals if one["variable"]}
        assert kinds["temperature_1"] == "float"
        assert kinds["lot"] == "integer"
        with pytest.raises(InvalidInput):
            await browse(login, "nonsense")
        with pytest.raises(SourceError):
            await browse(login, "ns=2;s=nothing")


@pytest_asyncio.fixture(scope="module", loop_scope="module")
async def guarded(tmp_path_factory: pytest.TempPathFactory) -> AsyncIterator[OpcUaStandIn]:
    own = Identity(tmp_path_factory.mktemp("server"), SERVER_URI)
    own.ensure()
    found = OpcUaStandIn(
        find_free_port(), guard=Guard(own.key_file, own.certificate_file, {"recorder": "durum"})
    )
    await found.start()
    await found.set_values(1, {"temperature_1": 21.5})
    yield found
    await found.stop()


@ON_ONE_LOOP
class TestSecurity:
    """Basic256Sha256, signed and encrypted, with a user."""

    def login(self, server: OpcUaStandIn, folder: Path, password: str = "durum", **fields: object) -> Login:
        trusted = thumbprint(server.certificate)
        config = {
            "endpoint": server.endpoint, "security": "Basic256Sha256", "mode": "SignAndEncrypt",
            "trusted": trusted, "user": "recorder", **fields,
        }  # fmt: skip
        return Login.of(config, password, Identity(folder / "own"))

    @pytest.mark.parametrize("mode", ["Sign", "SignAndEncrypt"])
    async def test_signed_and_encrypted(self, guarded: OpcUaStandIn, tmp_path: Path, mode: str) -> None:
        async with connected(self.login(guarded, tmp_path, mode=mode)) as driver:
            reading = await driver.read([node_tag("temperature_1")])
        assert from_bits(int(reading.bits[0]), ValueType.FLOAT) == 21.5

    async def test_the_key_is_for_nobody_else_and_the_certificate_stays(
        self, guarded: OpcUaStandIn, tmp_path: Path
    ) -> None:
        login = self.login(guarded, tmp_path)
        before = login.identity.ensure()
        assert login.identity.ensure() == before
        assert login.identity.key_file.stat().st_mode & 0o077 == 0

    @pytest.mark.parametrize(
        ("fields", "password", "reason"),
        [
            ({}, "semolina", "password is wrong"),
            ({"user": "somebody"}, "durum", "does not know this user"),
            ({"user": ""}, "", r"password|sign in"),
            ({"trusted": ""}, "durum", r"not trusted yet: ([0-9A-F]{2}:){31}"),
            ({"trusted": "ab" * 32}, "durum", "another certificate"),
            ({"security": "Aes256Sha256RsaPss"}, "durum", "offers no Aes256Sha256RsaPss"),
            ({"security": "None", "mode": "None"}, "durum", "nobody in without security"),
        ],
    )
    async def test_each_refusal_has_its_plain_reason(
        self, guarded: OpcUaStandIn, tmp_path: Path, fields: dict[str, object], password: str, reason: str
    ) -> None:
        driver = OpcUaDriver(self.login(guarded, tmp_path, password, **fields))
        with pytest.raises(SourceError, match=reason):
            await driver.connect()
        await driver.close()

    @pytest.mark.parametrize(
        ("raised", "kind"),
        [
            (ua.StatusCode(ua.UInt32(ua.StatusCodes.BadSessionIdInvalid)), SourceUnreachable),
            (ua.StatusCode(ua.UInt32(ua.StatusCodes.BadNodeIdUnknown)), SourceRefused),
            (AttributeError("no attribute 'Value'"), SourceUnreachable),
            (TimeoutError(), SourceUnreachable),
            (SourceRefused("as it was"), SourceRefused),
        ],
    )
    async def test_what_passes_is_told_from_what_is_refused(
        self,
        guarded: OpcUaStandIn,
        tmp_path: Path,
        raised: ua.StatusCode | Exception,
        kind: type[SourceError],
    ) -> None:
        with pytest.raises(SourceError) as caught:
            async with plain_reasons(self.login(guarded, tmp_path)):
                if isinstance(raised, ua.StatusCode):
                    raised.check()
                else:
                    raise raised
        assert type(caught.value) is kind

    async def test_the_password_is_in_no_text(self, guarded: OpcUaStandIn, tmp_path: Path) -> None:
        assert "durum" not in repr(self.login(guarded, tmp_path))
