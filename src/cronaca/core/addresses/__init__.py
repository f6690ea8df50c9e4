"""Places of values in sources: one module a protocol."""

from cronaca.core.addresses.protocols import (
    ADDRESS_FIELDS,
    PROTOCOLS,
    check_address,
    check_config,
    is_writable,
)

__all__ = ["ADDRESS_FIELDS", "PROTOCOLS", "check_address", "check_config", "is_writable"]
