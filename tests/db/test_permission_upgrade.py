"""A permission that has become two: tokens of before may do what they could."""

from __future__ import annotations

from pathlib import Path

import cronaca.db
from cronaca.core.access import Permission
from cronaca.db import Store
from cronaca.plant.people import accounts, program_tokens
from cronaca.plant.people.accounts import AccountSpec
from cronaca.plant.people.program_tokens import TokenSpec
from tests.support.builders import NOW


def test_a_token_that_could_operate_may_write_values_and_control_loggers(store: Store) -> None:
    with store.transaction() as tx:
        accounts.insert_account(tx, AccountSpec("jonas", role="operator"), "-", NOW, must_change=False)
        account = accounts.find_by_name(tx, "jonas")
        assert account is not None
        for token in ("of before", "other"):
            spec = TokenSpec(token, frozenset({Permission.VIEW}), NOW)
            program_tokens.add_token(tx, token, account.account_id, spec, NOW)
        tx.execute("UPDATE program_token SET permissions = 'operate,view' WHERE name = 'of before'")
    migration = Path(cronaca.db.__file__).parent / "migrations" / "0037_own_roles.sql"
    *_, renamed, _ = migration.read_text().split(";")
    with store.transaction() as tx:
        tx.execute(renamed)
        before, other = (program_tokens.find_program(tx, token) for token in ("of before", "other"))
    assert before is not None and other is not None
    both = {Permission.WRITE_VALUES, Permission.CONTROL_LOGGERS}
    assert before.spec.permissions == {Permission.VIEW, *both}
    assert other.spec.permissions == {Permission.VIEW}
