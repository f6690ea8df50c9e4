"""Roles: what people may do, bundled under the names that a plant uses."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from cronaca.core.access import EVERYTHING, Permission


@dataclass(frozen=True, slots=True)
class Role:
    """A role by its name in the API."""

    name: str
    permissions: frozenset[Permission]


_VIEWER: Final = frozenset({Permission.VIEW, Permission.SAVE_VIEWS, Permission.EXPORT})
_OPERATOR: Final = _VIEWER | {
    Permission.ANNOTATE, Permission.WRITE_VALUES, Permission.CONTROL_LOGGERS,
}  # fmt: skip
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
