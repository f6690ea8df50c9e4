"""MariaDB through plain SQL: the only part that speaks to the database."""

from cronaca.store.address import Address, parse_url
from cronaca.store.pool import Store

__all__ = ["Address", "Store", "parse_url"]
