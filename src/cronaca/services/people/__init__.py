"""Accounts, sign-in, and who is signed in."""

from cronaca.services.people.accounts import People
from cronaca.services.people.guests import Guests, Whoever
from cronaca.services.people.passwords import Passwords
from cronaca.services.people.roles import OwnRoles
from cronaca.services.people.signing_in import SignIns
from cronaca.services.people.tokens import ProgramTokens

__all__ = ["Guests", "OwnRoles", "Passwords", "People", "ProgramTokens", "SignIns", "Whoever"]
