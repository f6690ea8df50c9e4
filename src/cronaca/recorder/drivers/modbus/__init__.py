"""Modbus TCP: addresses, request planning, driver."""

from cronaca.core.addresses.modbus import ModbusAddress, parse_address
from cronaca.recorder.drivers.modbus.driver import ModbusDriver

__all__ = ["ModbusAddress", "ModbusDriver", "parse_address"]
