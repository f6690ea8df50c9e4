"""Who acts, and what one may do."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from cronaca.core.errors import NotPermitted, NotSignedIn, PasswordChangeNeeded


class Permission(StrEnum):
    """What a person may be allowed to do. The names travel in the API and stay what they are."""

    VIEW = "view"
    """See recorded values, figures and the set-up."""
    SAVE_VIEWS = "save_views"
    """Save sheets."""
    EXPORT = "export"
    """Have files of samples made in the background."""
    ANNOTATE = "annotate"
    """Write notes, mark runs."""
    MANAGE_REPORTS = "manage_reports"
    """Set up reports, and have them made."""
    WRITE_VALUES = "write_values"
    """Write values to the plant."""
    CONTROL_LOGGERS = "control_loggers"
    """Have a logger record now."""
    CORRECT_HISTORY = "correct_history"
    """Insert, replace and delete recorded samples."""
    CONFIGURE = "configure"
    """Change the set-up, and ask devices for it."""
    MANAGE_PEOPLE = "manage_people"
    """Add, change and remove accounts."""


@dataclass(frozen=True, slots=True)
class Actor:
    """A person (or a program that acts for one) with what they may do. `account` and `session`: by uid, where
    they are signed in; `must_change`: nothing, before their password was changed; `program`: the name of the
    token with which a program acts for them; `is_guest`: nobody is signed in, and guests may look."""

    name: str
    permissions: frozenset[Permission]
    account: str = ""
    session: str = ""
    must_change: bool = False
    program: str = ""
    is_guest: bool = False

    def permitted(self, permission: Permission) -> Permitted:
        """Leave to do something; raises NotPermitted, and NotSignedIn for a guest."""
        if self.must_change:
            raise PasswordChangeNeeded
        if permission not in self.permissions:
            if self.is_guest:
                raise NotSignedIn(
                    f"It needs the permission '{permission.value}', which guests do not have. Sign in."
                )
            raise NotPermitted(self.name, permission.value)
        return Permitted(self, permission)


@dataclass(frozen=True, slots=True)
class Permitted:
    """A person who may do what is about to be done; made by `Actor.permitted`, which has checked it."""

    actor: Actor
    permission: Permission


EVERYTHING = frozenset(Permission)
GUEST = Actor("Guest", frozenset({Permission.VIEW}), is_guest=True)
"""Who looks without signing in, where that is allowed."""
BEFORE_ACCOUNTS = "Operator"
"""The name under which everybody acted before there were accounts: it stands in older records."""
