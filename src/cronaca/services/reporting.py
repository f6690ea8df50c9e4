"""An account for reporting tools that can read the documented views and nothing else."""

from __future__ import annotations

from typing import Final

from cronaca.core.errors import InvalidInput
from cronaca.db.transaction import Transaction

VIEWS: Final = ("report_tags", "report_hours", "report_days", "report_gaps")
_CREATE: Final = "CREATE OR REPLACE USER %(name)s@%(host)s IDENTIFIED BY %(password)s"
_LONGEST: Final = 80


def create_account(tx: Transaction, name: str, password: str, host: str = "%") -> None:
    """Makes the account, or makes it anew; raises InvalidInput for a name that cannot be one."""
    if not name or len(name) > _LONGEST or not name.replace("_", "").isalnum():
        raise InvalidInput(
            "name", "cannot-account", "{name!r} cannot be an account", "Use letters, digits and _.", name=name
        )
    if len(password) < 12:
        raise InvalidInput(
            "password", "shorter-characters", "it is shorter than 12 characters", "Give a longer one."
        )
    tx.execute(_CREATE, name=name, host=host, password=password)
    for view in VIEWS:
        tx.execute(f"GRANT SELECT ON {view} TO %(name)s@%(host)s", name=name, host=host)
