"""Places of values in sources: one module a protocol."""

from cronaca.core.addresses.protocols import PROTOCOLS, check_address, check_config, is_writable

__all__ = ["PROTOCOLS", "check_address", "check_config", "is_writable"]
