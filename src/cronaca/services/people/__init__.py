"""Accounts, sign-in, and who is signed in."""

from cronaca.services.people.accounts import People
from cronaca.services.people.passwords import Passwords
from cronaca.services.people.signing_in import SignIns

__all__ = ["Passwords", "People", "SignIns"]
