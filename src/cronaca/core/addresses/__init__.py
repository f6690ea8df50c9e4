"""Where values lie in sources, and what is needed to reach a source: one module per protocol."""

from cronaca.core.addresses.protocols import (
    ADDRESS_FIELDS,
    PROTOCOLS,
    check_address,
    is_writable,
)
from cronaca.core.addresses.settings import (
    NO_SETTINGS,
    SourceSettings,
    load_settings,
    parse_settings,
    settings_to_plain,
)

__all__ = [
    "ADDRESS_FIELDS",
    "NO_SETTINGS",
    "PROTOCOLS",
    "SourceSettings",
    "check_address",
    "is_writable",
    "load_settings",
    "parse_settings",
    "settings_to_plain",
]
