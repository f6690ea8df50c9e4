"""The Modbus driver: few requests, right values, honest qualities; over the real protocol."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.addresses.modbus import DataType, Table
from cronaca.core.bits import from_bits
from cronaca.core.errors import InvalidInput, SourceUnreachable
from cronaca.core.model import Tag, ValueType
from cronaca.demo.plant import SIGNALS
from cronaca.demo.stand_in import ModbusStandIn
from cronaca.recorder.drivers.modbus import ModbusAddress, ModbusDriver, parse_address
from cronaca.recorder.drivers.modbus.blocks import MOST_BITS, MOST_REGISTERS, WIDEST_HOLE, plan_blocks
from tests.support import raw_device
from tests.support.builders import a_tag
from tests.support.raw_device import RawDevice


def register(address: int, data_type: DataType = DataType.FLOAT32) -> ModbusAddress:
    return ModbusAddress(Table.INPUT_REGISTER, address, data_type)


class TestBlocks:
    def test_neighbours_are_read_in_one_request(self) -> None:
        (block,) = plan_blocks([register(2 * i) for i in range(10)])
        assert (block.start, block.count, block.members) == (0, 20, tuple(range(10)))

    def test_a_small_hole_is_read_along_a_wide_one_is_not(self) -> None:
        near, far = register(2 + WIDEST_HOLE), register(3 + WIDEST_HOLE)
        assert len(plan_blocks([register(0), near])) == 1
        assert len(plan_blocks([register(0), far])) == 2

    def test_tables_are_never_mixed(self) -> None:
        coil = ModbusAddress(Table.COIL, 0, DataType.BOOL)
        contact = ModbusAddress(Table.DISCRETE_INPUT, 0, DataType.BOOL)
        assert len(plan_blocks([coil, contact, register(0)])) == 3

    def test_the_demo_line_takes_few_requests(self) -> None:
        addresses = [ModbusAddress(Table(s.table), s.address, DataType(s.data_type)) for s in SIGNALS]
        assert len(plan_blocks(addresses)) == 5

    @given(st.lists(st.tuples(st.integers(0, 3000), st.sampled_from(list(DataType)[1:])), max_size=80))
    def test_every_value_is_whole_inside_its_block_within_the_limits(
        self, wanted: list[tuple[int, DataType]]
    ) -> None:
        addresses = [register(*pair) for pair in wanted]
        blocks = plan_blocks(addresses)
        assert sorted(i for block in blocks for i in block.members) == list(range(len(addresses)))
        for block in blocks:
            assert block.count <= MOST_REGISTERS
            for i in block.members:
                assert block.start <= addresses[i].address
                assert addresses[i].end <= block.start + block.count

    def test_bits_have_a_limit_of_their_own(self) -> None:
        bits = [ModbusAddress(Table.COIL, i, DataType.BOOL) for i in range(MOST_BITS + 1)]
        assert [block.count for block in plan_blocks(bits)] == [MOST_BITS, 1]


class TestAddress:
    @pytest.mark.parametrize(
        ("data_type", "words", "value"),
        [
            # IEEE 754 and two's complement, by hand: 1.0 is 0x3F800000, -2 is 0xFFFE.
            (DataType.FLOAT32, [0x3F80, 0x0000], 1.0),
            (DataType.INT16, [0xFFFE], -2),
            (DataType.UINT16, [0xFFFE], 65_534),
            (DataType.INT32, [0xFFFF, 0xFFFF], -1),
            (DataType.UINT32, [0x0001, 0x0000], 65_536),
            (DataType.INT64, [0x7FFF, 0xFFFF, 0xFFFF, 0xFFFF], 2**63 - 1),
            (DataType.FLOAT64, [0x3FF8, 0, 0, 0], 1.5),
        ],
    )
    def test_registers_become_values(self, data_type: DataType, words: list[int], value: float) -> None:
        assert register(0, data_type).decode(words) == value

    def test_low_word_first_is_turned_round(self) -> None:
        address = ModbusAddress(Table.INPUT_REGISTER, 0, DataType.FLOAT32, low_word_first=True)
        assert address.decode([0x0000, 0x3F80]) == 1.0

    def test_a_scaled_value_has_no_stray_digits(self) -> None:
        address = ModbusAddress(Table.INPUT_REGISTER, 0, DataType.INT16, scale=0.1)
        assert address.decode([713]) == 71.3

    def test_an_address_comes_back_from_its_json(self) -> None:
        address = ModbusAddress(Table.HOLDING_REGISTER, 7, DataType.INT16, 0.1, -4.0, True)
        assert parse_address(address.to_json(), ValueType.FLOAT) == address

    @pytest.mark.parametrize(
        "fields",
        [
            {},
            {"table": "moon", "address": 0, "data_type": "int16"},
            {"table": "input_register", "address": 65_535, "data_type": "float32"},
            {"table": "input_register", "address": -1, "data_type": "int16"},
            {"table": "coil", "address": 0, "data_type": "int16"},
            {"table": "input_register", "address": 0, "data_type": "int16", "scale": 0.1},
        ],
    )
    def test_an_unusable_address_is_refused_with_a_remedy(self, fields: dict[str, object]) -> None:
        with pytest.raises(InvalidInput) as refused:
            parse_address(json.dumps(fields), ValueType.INTEGER)
        assert refused.value.field == "address"
        assert refused.value.remedy

    @pytest.mark.parametrize("config", ['{"port": 502}', '{"host": "x", "port": 0}'])
    def test_an_unusable_source_is_refused(self, config: str) -> None:
        with pytest.raises(InvalidInput):
            ModbusDriver(config)


def demo_tags() -> list[Tag]:
    return [
        a_tag(
            signal.key,
            signal.value_type,
            tag_id=i,
            address=ModbusAddress(Table(signal.table), signal.address, DataType(signal.data_type),
                                  signal.scale).to_json(),
        )
        for i, signal in enumerate(SIGNALS, 1)
    ]  # fmt: skip


@pytest.fixture
async def device() -> AsyncIterator[ModbusStandIn]:
    stand_in = ModbusStandIn()
    await stand_in.start()
    yield stand_in
    await stand_in.stop()


def driver_for(device: ModbusStandIn, timeout_s: float = 1.0) -> ModbusDriver:
    return ModbusDriver(json.dumps({"host": "127.0.0.1", "port": device.port, "timeout_s": timeout_s}))


class TestOverTheWire:
    async def test_every_signal_of_the_line_arrives_as_it_was_set(self, device: ModbusStandIn) -> None:
        wanted = {
            signal.key: float(i % 2 if signal.value_type.discrete else i + 1)
            for i, signal in enumerate(SIGNALS)
        }
        await device.set_values(wanted)
        tags, driver = demo_tags(), driver_for(device)
        await driver.connect()
        reading = await driver.read(tags)
        await driver.close()
        found = {t.name: from_bits(int(b), t.value_type) for t, b in zip(tags, reading.bits, strict=True)}
        assert found == pytest.approx(wanted)
        assert (reading.quality == q.GOOD).all()

    async def test_a_refused_address_is_bad_and_spoils_no_neighbour(self, device: ModbusStandIn) -> None:
        await device.set_values({"energy": 42})
        good = a_tag("good", ValueType.INTEGER, tag_id=1, address=register(304, DataType.UINT32).to_json())
        missing = a_tag("missing", tag_id=2, address=register(399, DataType.FLOAT32).to_json())
        near = a_tag("near", tag_id=3, address=register(390).to_json())
        driver = driver_for(device)
        await driver.connect()
        first = await driver.read([good, missing, near])
        second = await driver.read([good, missing, near])
        await driver.close()
        assert first.quality.tolist()[1] == q.BAD_CONFIGURATION
        assert second.quality.tolist() == [q.GOOD, q.BAD_CONFIGURATION, q.GOOD]
        assert second.bits[0] == 42

    async def test_what_is_no_number_is_bad(self, device: ModbusStandIn) -> None:
        await device.set_values({"vacuum": float("nan"), "head_pressure": float("inf")})
        driver = driver_for(device)
        await driver.connect()
        reading = await driver.read(
            [a_tag("v", address=register(4).to_json()), a_tag("p", address=register(2).to_json())]
        )
        await driver.close()
        assert reading.quality.tolist() == [q.BAD_NO_DATA, q.BAD_NO_DATA]

    async def test_an_unsigned_integer_beyond_int64_is_out_of_range(self, device: ModbusStandIn) -> None:
        await device.set_values({"lot": 2**32 - 1, "product": 2**32 - 1})
        tag = a_tag("huge", ValueType.INTEGER, address=register(300, DataType.UINT64).to_json())
        driver = driver_for(device)
        await driver.connect()
        reading = await driver.read([tag])
        await driver.close()
        assert reading.quality.tolist() == [q.BAD_OUT_OF_RANGE]

    async def test_a_float_in_an_integer_tag_is_a_configuration_error(self, device: ModbusStandIn) -> None:
        driver = driver_for(device)
        await driver.connect()
        reading = await driver.read([a_tag("x", ValueType.INTEGER, address=register(0).to_json())])
        await driver.close()
        assert reading.quality.tolist() == [q.BAD_CONFIGURATION]

    async def test_a_device_that_is_gone_is_unreachable(self, device: ModbusStandIn) -> None:
        driver = driver_for(device, timeout_s=0.3)
        await driver.connect()
        await device.stop()
        with pytest.raises(SourceUnreachable):
            for _ in range(3):
                await driver.read([a_tag("x", address=register(0).to_json())])
        await driver.close()
        with pytest.raises(SourceUnreachable, match="no connection"):
            await driver.connect()

    async def test_a_silent_device_is_given_up_after_the_timeout(self) -> None:
        async def silent(_: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            await asyncio.sleep(5)
            writer.close()

        server = await asyncio.start_server(silent, "127.0.0.1", 0)
        port = server.sockets[0].getsockname()[1]
        driver = ModbusDriver(json.dumps({"host": "127.0.0.1", "port": port, "timeout_s": 1}))
        await driver.connect()
        with pytest.raises(SourceUnreachable, match=r"no answer .* in 1 s"):
            await driver.read([a_tag("x", address=register(0).to_json())])
        await driver.close()
        server.close()

    async def test_a_wrong_unit_is_said_though_the_connection_stands(self, device: ModbusStandIn) -> None:
        right = driver_for(device)
        await right.connect()
        await right.check_answers()
        await right.close()
        wrong = ModbusDriver(
            json.dumps({"host": "127.0.0.1", "port": device.port, "unit": 99, "timeout_s": 0.5})
        )
        await wrong.connect()
        with pytest.raises(SourceUnreachable, match="unit 99 does not answer"):
            await wrong.check_answers()
        await wrong.close()

    @pytest.mark.parametrize(("code", "answers"), [(1, True), (2, True), (6, True), (4, False), (11, False)])
    async def test_an_exception_is_an_answer_unless_a_gateway_says_that_nobody_is_there(
        self, code: int, *, answers: bool
    ) -> None:
        there = RawDevice(raw_device.exception(code))
        driver = ModbusDriver(json.dumps({"host": "127.0.0.1", "port": there.port, "unit": 3}))
        await driver.connect()
        if answers:
            await driver.check_answers()
        else:
            with pytest.raises(SourceUnreachable, match="unit 3 does not answer"):
                await driver.check_answers()
        await driver.close()
        there.close()
