"""What an import of tags would do, before anything is written."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from enum import StrEnum
from typing import Any

from cronaca.core.errors import InvalidInput
from cronaca.core.setup.specs import TagSpec

_NAMES = tuple(field.name for field in fields(TagSpec))


class OnClash(StrEnum):
    """What becomes of a line whose name belongs to a tag that it does not mean by its uid."""

    KEEP = "keep"
    """The tag stays as it is, the line is passed over."""
    REPLACE = "replace"
    """The tag becomes what the line says."""
    PREFIX = "prefix"
    """The line becomes a new tag under another name."""


@dataclass(frozen=True, slots=True)
class Line:
    """One line of a file: its number there, the uid it names (or none), its spec, or why it has none."""

    number: int
    uid: str
    spec: TagSpec | None
    refused: InvalidInput | None = None


@dataclass(frozen=True, slots=True)
class FieldChange:
    """One attribute of a tag that an import would change."""

    name: str
    field: str
    before: Any
    after: Any


@dataclass(frozen=True, slots=True)
class Refusal:
    """A line that cannot be used."""

    line: int
    field: str
    problem: str
    remedy: str


@dataclass(frozen=True, slots=True)
class Plan:
    """What an import would do. `clashes` are lines that name a tag which is there already."""

    new: tuple[TagSpec, ...]
    changed: Mapping[str, TagSpec]
    changes: tuple[FieldChange, ...]
    unchanged: int
    kept: int
    clashes: tuple[tuple[int, str], ...]
    refused: tuple[Refusal, ...]


def plan_import(
    lines: Iterable[Line],
    present: Mapping[str, TagSpec],
    protocols: Mapping[str, str],
    *,
    on_clash: OnClash = OnClash.KEEP,
    prefix: str = "",
) -> Plan:
    """The plan for lines of a file against the tags that are there, by uid; `protocols` of sources by uid."""
    return _Planning(present, protocols, on_clash, prefix).run(lines)


class _Planning:
    def __init__(
        self, present: Mapping[str, TagSpec], protocols: Mapping[str, str], on_clash: OnClash, prefix: str
    ) -> None:
        self._present = present
        self._protocols = protocols
        self._on_clash = on_clash
        self._prefix = prefix
        self._named = {spec.name.casefold(): uid for uid, spec in present.items()}
        self._new: dict[int, TagSpec] = {}
        self._changed: dict[str, tuple[int, TagSpec]] = {}
        self._unchanged = self._kept = 0
        self._clashes: list[tuple[int, str]] = []
        self._refused: list[Refusal] = []

    def run(self, lines: Iterable[Line]) -> Plan:
        for line in lines:
            if line.spec is None:
                self._refuse(line.number, line.refused)
                continue
            try:
                self._take(line, self._checked(line.spec))
            except InvalidInput as exc:
                self._refuse(line.number, exc)
        self._refuse_names_given_twice()
        changed = {uid: spec for uid, (_, spec) in self._changed.items()}
        changes = [
            difference
            for uid, spec in changed.items()
            for difference in differences(self._present[uid], spec)
        ]
        return Plan(
            tuple(self._new.values()), changed, tuple(changes), self._unchanged, self._kept,
            tuple(self._clashes), tuple(sorted(self._refused, key=lambda change: change.line)),
        )  # fmt: skip

    def _checked(self, spec: TagSpec) -> TagSpec:
        if spec.source not in self._protocols:
            raise InvalidInput("source", "no-such-source", "there is no such source", "Add the source first.")
        return spec.checked(self._protocols[spec.source])

    def _take(self, line: Line, spec: TagSpec) -> None:
        uid = line.uid if line.uid in self._present else ""
        if not uid and spec.name.casefold() in self._named:
            self._clashes.append((line.number, spec.name))
            if self._on_clash is OnClash.KEEP:
                self._kept += 1
                return
            if self._on_clash is OnClash.REPLACE:
                uid = self._named[spec.name.casefold()]
            else:
                spec = replace(spec, name=self._prefix + spec.name)
        if not uid:
            self._new[line.number] = spec
        elif uid in self._changed:
            raise InvalidInput(
                "uid",
                "line-means-same-tag",
                "line {changed} means the same tag",
                "Leave one out.",
                changed=self._changed[uid][0],
            )
        elif spec == self._present[uid]:
            self._unchanged += 1
        else:
            self._changed[uid] = line.number, spec

    def _refuse(self, number: int, exc: InvalidInput | None) -> None:
        if exc is not None:
            self._refused.append(Refusal(number, exc.field, exc.problem, exc.remedy))

    def _refuse_names_given_twice(self) -> None:
        """Names after the import have to differ, among the lines and from all that stays."""
        taken = {spec.name.casefold(): 0 for uid, spec in self._present.items() if uid not in self._changed}
        named = [(line, spec, uid) for uid, (line, spec) in self._changed.items()]
        named += [(line, spec, "") for line, spec in self._new.items()]
        for line, spec, uid in sorted(named, key=lambda entry: entry[0]):
            key = spec.name.casefold()
            if key not in taken:
                taken[key] = line
                continue
            other = f"line {taken[key]} has" if taken[key] else "a tag that stays has"
            problem = f"{other} the name {spec.name!r}"
            self._refused.append(Refusal(line, "name", problem, "Give another name."))
            if uid:
                del self._changed[uid]
            else:
                del self._new[line]


def differences(before: TagSpec, after: TagSpec) -> list[FieldChange]:
    """Field by field, what another spec changes."""
    result: Sequence[tuple[str, Any, Any]] = [
        (name, getattr(before, name), getattr(after, name)) for name in _NAMES
    ]
    return [FieldChange(before.name, name, a, b) for name, a, b in result if a != b]
