"""The protocols by the names that the set-up keeps."""

from typing import Final

MODBUS: Final = "modbus_tcp"
GENERATOR: Final = "generator"
INTERNAL: Final = "internal"
OPC_UA: Final = "opc_ua"
CALCULATED: Final = "calculated"
SYSTEM: Final = "system"
