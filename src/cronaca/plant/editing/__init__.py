"""Changes of the set-up by people: checked, whole or not at all, with who and when; one module a kind."""

from cronaca.plant.editing.changes import By, Change, list_changes

__all__ = ["By", "Change", "list_changes"]
