"""Roles: what people may do, bundled under the names that a plant uses."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from cronaca.core.access import EVERYTHING, Permission
from cronaca.core.errors import InvalidInput


@dataclass(frozen=True, slots=True)
class Role:
    """A role by its name in the API."""

    name: str
    permissions: frozenset[Permission]


_VIEWER: Final = frozenset({Permission.VIEW, Permission.SAVE_VIEWS, Permission.EXPORT})
_OPERATOR: Final = _VIEWER | {Permission.ANNOTATE, Permission.OPERATE}
_ENGINEER: Final = _OPERATOR | {
    Permission.MANAGE_REPORTS, Permission.CORRECT_HISTORY, Permission.CONFIGURE,
}  # fmt: skip
ADMINISTRATOR: Final = "administrator"
ROLES: Final = {
    role.name: role
    for role in (
        Role("viewer", _VIEWER), Role("operator", _OPERATOR), Role("engineer", _ENGINEER),
        Role(ADMINISTRATOR, EVERYTHING),
    )
}  # fmt: skip
"""By name, from the fewest permissions to all."""


def role_of(name: str) -> Role:
    """The role of a name; raises InvalidInput."""
    if name not in ROLES:
        raise InvalidInput(
            "role", "role-unknown", "{name!r} is not a role", "Use one of: {known}.",
            name=name, known=", ".join(ROLES),
        )  # fmt: skip
    return ROLES[name]
