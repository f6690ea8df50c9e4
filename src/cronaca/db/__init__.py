"""MariaDB through plain SQL: the only part that speaks to the database."""

from cronaca.db.address import Address, parse_url
from cronaca.db.pool import Store

__all__ = ["Address", "Store", "parse_url"]
