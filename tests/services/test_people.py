"""People while they are not there, and at the machine."""

from __future__ import annotations

from functools import partial

import pytest
from argon2 import PasswordHasher

from cronaca.core.access import BEFORE_ACCOUNTS, EVERYTHING, Actor, Permission
from cronaca.core.errors import InvalidInput, NotSignedIn, StoreUnavailable, TooManyAttempts
from cronaca.core.model import MINUTE, SECOND
from cronaca.core.people import Failures, held_back_us
from cronaca.core.people.guessing import LONGEST_WAIT_US
from cronaca.db import Store
from cronaca.logbook import actions
from cronaca.plant.changes import By
from cronaca.plant.people.accounts import AccountSpec
from cronaca.services.people import Passwords, People, SignIns, recalled
from cronaca.services.people.rights import rights_of
from cronaca.services.people.signing_in import From, actor_of
from cronaca.views import sheets
from cronaca.views.sheets import SheetContent
from tests.support.checks import now_us

WORD, OTHER_WORD = "violet anchor staple ribbon", "granite pepper window swan"
HERE = From("127.0.0.1")


@pytest.fixture
def passwords() -> Passwords:
    return Passwords(partial(PasswordHasher, time_cost=1, memory_cost=8, parallelism=1)())


@pytest.fixture
def people(store: Store, passwords: Passwords) -> People:
    return People(store, passwords)


def who() -> Actor:
    return Actor("Marta", EVERYTHING)


def test_work_goes_by_the_rights_that_its_person_has_now(store: Store, people: People) -> None:
    may = rights_of(store)
    assert may("Operator", Permission.CONFIGURE), "without accounts everybody may do everything"
    permitted = who().permitted(Permission.MANAGE_PEOPLE)
    uid = people.add(permitted, AccountSpec("jonas", role="engineer"), WORD)
    assert may("jonas", Permission.CONFIGURE) and may("Jonas", Permission.VIEW)
    assert not may("jonas", Permission.MANAGE_PEOPLE)
    people.change(permitted, uid, AccountSpec("jonas", role="viewer"), 1)
    assert not may("jonas", Permission.CONFIGURE) and may("jonas", Permission.EXPORT)
    people.change(permitted, uid, AccountSpec("jonas", role="viewer", enabled=False), 2)
    assert not may("jonas", Permission.VIEW)
    people.remove(permitted, uid)
    people.add(permitted, AccountSpec("anna", role="viewer"), WORD)
    assert not may("jonas", Permission.VIEW), "nobody has this name any more"
    assert may("Operator", Permission.CONFIGURE), "what was begun without accounts is the administrators'"


def test_private_sheets_go_with_the_account_and_with_nobody_who_gets_its_name(
    store: Store, people: People
) -> None:
    def seen_by(name: str) -> list[str]:
        with store.snapshot() as tx:
            return [sheet.name for sheet in sheets.list_sheets(tx, name)]

    def save(name: str, sheet: str) -> None:
        with store.transaction() as tx:
            sheets.add_sheet(tx, SheetContent(sheet, "v=1", own=True), By(name, now_us()))

    save(BEFORE_ACCOUNTS, "Of before")
    people.add_first(AccountSpec("marta"), WORD, people.first_code)
    assert (seen_by("marta"), seen_by(BEFORE_ACCOUNTS)) == (["Of before"], [])
    permitted = who().permitted(Permission.MANAGE_PEOPLE)
    uid = people.add(permitted, AccountSpec("jonas", role="viewer"), WORD)
    save("jonas", "Mine")
    people.change(permitted, uid, AccountSpec("jonas reuter", role="viewer"), 1)
    assert (seen_by("jonas reuter"), seen_by("jonas"), seen_by("marta")) == (["Mine"], [], ["Of before"])
    people.remove(permitted, uid)
    people.add(permitted, AccountSpec("jonas reuter", role="viewer"), WORD)
    assert seen_by("jonas reuter") == []


def test_a_password_is_reset_at_the_machine_and_that_is_on_record(
    store: Store, people: People, passwords: Passwords
) -> None:
    people.add(who().permitted(Permission.MANAGE_PEOPLE), AccountSpec("jonas"), WORD)
    signs = SignIns(store, passwords, now_us)
    token = signs.sign_in("jonas", WORD, HERE)
    assert signs.find(token) is not None
    with pytest.raises(InvalidInput) as refused:
        people.reset_at_machine("nobody", OTHER_WORD, "root at plant")
    assert refused.value.field == "name"
    people.reset_at_machine("jonas", OTHER_WORD, "root at plant")
    assert SignIns(store, passwords, now_us).find(token) is None
    with pytest.raises(NotSignedIn):
        signs.sign_in("jonas", WORD, HERE)
    again = signs.find(signs.sign_in("jonas", OTHER_WORD, HERE))
    assert again is not None and not again.must_change
    with store.snapshot() as tx:
        done = actions.list_actions(tx)
    assert ("root at plant", "password", "changed", "jonas") in [
        (one.person, one.kind, one.action, one.name) for one in done
    ]


def test_another_way_of_writing_a_name_is_no_way_around_the_wait(
    store: Store, people: People, passwords: Passwords
) -> None:
    people.add(who().permitted(Permission.MANAGE_PEOPLE), AccountSpec("jonas"), WORD)
    signs = SignIns(store, passwords, now_us)
    for name in ("jonas", "JONAS", "jonás", "jönas", " jonas "):
        with pytest.raises(NotSignedIn):
            signs.sign_in(name, "wrong", HERE)
    with pytest.raises(TooManyAttempts):
        signs.sign_in("jonàs", WORD, HERE)


def test_a_password_that_is_changed_meanwhile_opens_nothing(
    store: Store, people: People, passwords: Passwords, monkeypatch: pytest.MonkeyPatch
) -> None:
    permitted = who().permitted(Permission.MANAGE_PEOPLE)
    uid = people.add(permitted, AccountSpec("jonas"), WORD)
    signs, fits = SignIns(store, passwords, now_us), passwords.fits

    def slow(password: str, kept: str | None) -> bool:
        found = fits(password, kept)
        people.reset_password(permitted, uid, OTHER_WORD)
        return found

    monkeypatch.setattr(passwords, "fits", slow)
    with pytest.raises(NotSignedIn):
        signs.sign_in("jonas", WORD, HERE)


def test_who_has_a_session_does_not_guess_at_its_password(
    store: Store, people: People, passwords: Passwords
) -> None:
    people.add(who().permitted(Permission.MANAGE_PEOPLE), AccountSpec("jonas"), WORD)
    signs = SignIns(store, passwords, now_us)
    found = signs.find(signs.sign_in("jonas", WORD, HERE))
    assert found is not None
    for new in ("weak", WORD, "weak", "weak", "weak", "weak"):
        with pytest.raises(InvalidInput) as refused:
            people.change_own_password(actor_of(found), WORD, new)
        assert refused.value.field == "new", "one who knows it may look for a new one as long as they like"
    for _ in range(5):
        with pytest.raises(InvalidInput):
            people.change_own_password(actor_of(found), "wrong", OTHER_WORD)
    with pytest.raises(TooManyAttempts):
        people.change_own_password(actor_of(found), WORD, OTHER_WORD)


def test_two_servers_share_sessions(store: Store, people: People, passwords: Passwords) -> None:
    people.add(who().permitted(Permission.MANAGE_PEOPLE), AccountSpec("jonas"), WORD)
    one, two = (SignIns(store, passwords, now_us) for _ in range(2))
    token = one.sign_in("jonas", WORD, HERE)
    found = two.find(token)
    assert found is not None and found.name == "jonas"
    one.sign_out(token)
    assert one.find(token) is None
    two.forget(token)
    assert two.find(token) is None


def test_while_the_database_is_away_who_is_signed_in_stays_so_for_a_while(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    clock = [1000.0]
    monkeypatch.setattr("cronaca.services.people.recalled.time.monotonic", lambda: clock[0])
    known: recalled.Recalled[str] = recalled.Recalled()

    def away() -> str:
        raise StoreUnavailable("127.0.0.1:1", "nobody answers")

    assert known.find("token", lambda: "jonas") == "jonas"
    clock[0] += recalled.AWAY_S - 1
    assert known.find("token", away) == "jonas"
    with pytest.raises(StoreUnavailable):
        known.find("another", away)
    clock[0] += 2
    with pytest.raises(StoreUnavailable):
        known.find("token", away)


@pytest.mark.parametrize(
    ("here", "wait_us"),
    [(4, 0), (5, 15 * SECOND), (6, 30 * SECOND), (8, 2 * MINUTE), (40, LONGEST_WAIT_US)],
)
def test_each_wrong_password_makes_the_next_wait_longer(here: int, wait_us: int) -> None:
    now = 1_000 * MINUTE
    failures = Failures([now] * here, [], is_known=True)
    assert held_back_us(failures, now) == wait_us
    assert held_back_us(failures, now + wait_us) == 0


def test_guesses_from_everywhere_wait_but_not_where_the_owner_is_known() -> None:
    now = 1_000 * MINUTE
    times = [now - 50 * SECOND + i * SECOND for i in range(10)]
    assert held_back_us(Failures([], times, is_known=False), now) == 10 * SECOND
    assert held_back_us(Failures([], times, is_known=True), now) == 0
    assert held_back_us(Failures([], times[:9], is_known=False), now) == 0
