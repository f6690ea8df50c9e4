"""Tables of tags from elsewhere over the wire: their columns, and which of ours they are."""

from __future__ import annotations

from pydantic import Field

from cronaca.api.schemas import Model


class FromColumnModel(Model):
    """Where a field of tags comes from: a column of the file, or one value for all lines."""

    column: str = Field("", max_length=200)
    value: str = Field("", max_length=500)
    words: dict[str, str] = Field(default_factory=dict, max_length=200)
    """What words of the column become; others stay as they are, or are known."""


class FileColumnOut(Model):
    """A column of a file."""

    name: str
    examples: list[str]
    words: list[str]
    """All different values; none where they are many."""


class ColumnsOut(Model):
    """The columns of a file, and which of our fields they are."""

    is_ours: bool
    """It has our own columns: no mapping is needed."""
    columns: list[FileColumnOut]
    fields: list[str]
    needed: list[str]
    known_words: dict[str, dict[str, str]]
    """By field: words that are understood without being told."""
    mapping: dict[str, FromColumnModel]
    is_kept: bool
    """The mapping is that of the last file with these columns; else it is guessed by their names."""
