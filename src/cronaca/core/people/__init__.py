"""People: their roles, how long a sign-in holds, and when guesses are held back."""

from cronaca.core.people.guessing import Failures, held_back_us
from cronaca.core.people.roles import ADMINISTRATOR, ROLES, Role
from cronaca.core.people.sessions import SessionLimits, SessionTimes

__all__ = [
    "ADMINISTRATOR", "ROLES", "Failures", "Role", "SessionLimits", "SessionTimes", "held_back_us",
]  # fmt: skip
