"""The people of the demo: made once, told at each start, and never beside others."""

from __future__ import annotations

from pathlib import Path

import pytest

from cronaca.core.access import Permission
from cronaca.core.errors import NotSignedIn
from cronaca.core.people import ADMINISTRATOR, ROLES, SessionLimits
from cronaca.db import Store
from cronaca.demo.people import PEOPLE, seed_people
from cronaca.plant.people import accounts
from cronaca.plant.people.accounts import AccountSpec
from cronaca.services.people import Guests, Passwords, ProgramTokens, SignIns
from cronaca.services.people.signing_in import From, actor_of
from tests.support.checks import now_us


def test_they_are_made_once_and_told_at_each_start(store: Store, tmp_path: Path) -> None:
    file = tmp_path / "demo-people.json"
    made = seed_people(store, file, now_us)
    assert made is not None and list(made.passwords) == list(PEOPLE)
    assert seed_people(store, file, now_us) == made
    other = tmp_path / "damaged.json"
    other.write_text("{")
    assert seed_people(store, other, now_us) is None, "it starts without telling them"
    assert file.stat().st_mode & 0o777 == 0o600
    assert Guests(store).find().guest_view
    signs = SignIns(store, Passwords(), now_us, SessionLimits())
    for name, password in made.passwords.items():
        found = signs.find(signs.sign_in(name, password, From("127.0.0.1")))
        assert found is not None
        assert (found.name, found.permissions, found.must_change) == (name, ROLES[name].permissions, False)
        assert (Permission.MANAGE_PEOPLE in actor_of(found).permissions) == (name == ADMINISTRATOR)
    with pytest.raises(NotSignedIn):
        signs.sign_in("operator", made.passwords["engineer"], From("127.0.0.1"))
    program = ProgramTokens(store, now_us).find(made.token, "127.0.0.1")
    assert program is not None
    assert Permission.CONFIGURE in program.permissions and Permission.MANAGE_PEOPLE not in program.permissions


def test_no_known_password_comes_beside_accounts_that_are_there(store: Store, tmp_path: Path) -> None:
    with store.transaction() as tx:
        accounts.insert_account(
            tx, AccountSpec("Marta", role=ADMINISTRATOR), "-", now_us(), must_change=False
        )
    assert seed_people(store, tmp_path / "demo-people.json", now_us) is None
    with store.snapshot() as tx:
        assert [account.spec.name for account, _ in accounts.list_accounts(tx)] == ["Marta"]
    assert not Guests(store).find().guest_view
