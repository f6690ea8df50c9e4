"""Numbered SQL migrations with a checksum table."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from importlib import resources
from typing import Final

from cronaca.core.errors import SchemaMismatch
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction

_TABLE: Final = """
CREATE TABLE IF NOT EXISTS schema_migration (
    number   INT          NOT NULL PRIMARY KEY,
    name     VARCHAR(200) NOT NULL,
    checksum CHAR(64)     NOT NULL,
    applied  DATETIME(6)  NOT NULL DEFAULT CURRENT_TIMESTAMP(6)
) ENGINE = InnoDB
"""
_LIST: Final = "SELECT number, name, checksum FROM schema_migration ORDER BY number"
_ADD: Final = (
    "INSERT INTO schema_migration (number, name, checksum) VALUES (%(number)s, %(name)s, %(checksum)s)"
)


@dataclass(frozen=True, slots=True)
class Migration:
    """One numbered step of the schema."""

    number: int
    name: str
    sql: str

    @property
    def checksum(self) -> str:
        """SHA-256 of the text, in hex."""
        return hashlib.sha256(self.sql.encode()).hexdigest()

    def statements(self) -> list[str]:
        """The single statements; migrations hold no semicolon inside one, save in no literal."""
        return [s.strip() for s in self.sql.split(";") if s.strip()]


def shipped_migrations() -> list[Migration]:
    """The migrations of this program, in order."""
    folder = resources.files("cronaca.db").joinpath("migrations")
    files = sorted(f.name for f in folder.iterdir() if f.name.endswith(".sql"))
    return [Migration(int(n[:4]), n, folder.joinpath(n).read_text("utf-8")) for n in files]


def migrate(store: Store, migrations: list[Migration] | None = None) -> list[str]:
    """Brings the database up to this program; returns the names of the steps taken.

    Raises SchemaMismatch when the database is newer than the program, or a step was altered.
    """
    steps = shipped_migrations() if migrations is None else migrations
    with store.transaction() as tx:
        tx.execute(_TABLE)
    taken = []
    for step in steps[_applied(store, steps) :]:
        with store.transaction() as tx:
            _apply(tx, step)
        taken.append(step.name)
    return taken


def check_schema(store: Store) -> None:
    """Raises SchemaMismatch unless the database is exactly at this program's last migration."""
    steps = shipped_migrations()
    with store.transaction() as tx:
        tx.execute(_TABLE)
    if _applied(store, steps) < len(steps):
        raise SchemaMismatch("The database is older than this program. Run `./cronaca migrate`.")


def _applied(store: Store, steps: list[Migration]) -> int:
    with store.snapshot() as tx:
        done = tx.fetch(_LIST)
    if len(done) > len(steps):
        newest = done[-1][1]
        raise SchemaMismatch(
            f"The database has migration {newest}, which this program does not know: "
            "it was written by a newer Cronaca. Start that version, or restore an older back-up."
        )
    for (number, name, checksum), step in zip(done, steps, strict=False):
        if (number, checksum) != (step.number, step.checksum):
            raise SchemaMismatch(
                f"Migration {name} was altered after it was applied. "
                "Restore the file as it was; put changes into a new migration."
            )
    return len(done)


def _apply(tx: Transaction, step: Migration) -> None:
    """MariaDB commits at each CREATE; a step that broke off is finished by hand, as the error says."""
    for statement in step.statements():
        tx.execute(statement)
    tx.execute(_ADD, number=step.number, name=step.name, checksum=step.checksum)
