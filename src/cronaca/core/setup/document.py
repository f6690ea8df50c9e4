"""The set-up as one readable document, and what differs between two of them.

`{"format": "cronaca-setup", "version": 1, "plant": {...}, "sources": [...], "tags": [...], "archives": [...],
"loggers": [...], "runs": [...], "classes": [...], "equipment": [...]}`; every part may be left out. Objects
carry their uid; they name each other by uid.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Final

from cronaca.core.errors import InvalidInput
from cronaca.core.loggers import own_fields

FORMAT: Final = "cronaca-setup"
VERSION: Final = 1
KINDS: Final = {
    "sources": "source", "tags": "tag", "archives": "archive", "loggers": "logger", "runs": "run",
    "classes": "equipment_class", "equipment": "equipment",
}  # fmt: skip
"""Parts of a document in the order in which they need each other, and what each is made of."""
Plain = dict[str, Any]
Document = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Difference:
    """One object that a document adds or changes, and its fields that differ: name, before, after."""

    kind: str
    uid: str
    name: str
    action: str
    changes: tuple[tuple[str, Any, Any], ...]


def checked_document(document: object) -> Document:
    """The same; raises InvalidInput that names the place when its form cannot be used."""
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise InvalidInput(
            "format",
            "not-set-up-cronaca",
            "this is not a set-up of Cronaca",
            'Give a file with "format": "{format}".',
            format=FORMAT,
        )
    if document.get("version") != VERSION:
        raise InvalidInput(
            "version",
            "not-known-here",
            "{get!r} is not known here",
            "This program reads version {version}.",
            get=document.get("version"),
            version=VERSION,
        )
    for name in document:
        if name not in ("format", "version", "plant", *KINDS):
            raise InvalidInput(name, "set-up-no-such", "a set-up has no such part", "Leave it out.")
    for part in KINDS:
        _check_part(part, document.get(part, []))
    return document


def _check_part(part: str, objects: object) -> None:
    if not isinstance(objects, list):
        raise InvalidInput(part, "not-list", "it is not a list", "Give a list of objects.")
    seen: set[str] = set()
    for i, item in enumerate(objects):
        place = f"{part}[{i}]"
        if not isinstance(item, dict):
            raise InvalidInput(place, "not-object", "it is not an object", "Give an object with its fields.")
        for needed in ("uid", "name"):
            if not isinstance(item.get(needed), str):
                raise InvalidInput(f"{place}.{needed}", "document-missing", "it is missing", "Give a text.")
        if item["uid"] in seen:
            raise InvalidInput(
                f"{place}.uid", "document-twice", "it is there twice", "Leave one of the objects out."
            )
        seen.add(item["uid"])


def differences(before: Document, after: Document) -> list[Difference]:
    """What `after` adds to `before` or changes in it; what it leaves out stays as it is."""
    result = []
    if "plant" in after and after["plant"] != before.get("plant"):
        changes = _changes(before.get("plant") or {}, after["plant"])
        result.append(Difference("plant", "", str(after["plant"].get("name", "")), "changed", changes))
    for part, kind in KINDS.items():
        known = {item["uid"]: item for item in before.get(part, [])}
        for item in after.get(part, []):
            old = known.get(item["uid"])
            if old is None:
                result.append(Difference(kind, item["uid"], item["name"], "added", ()))
            elif changes := _changes(old, item):
                result.append(Difference(kind, item["uid"], item["name"], "changed", changes))
    return result


def _changes(before: Plain, after: Plain) -> tuple[tuple[str, Any, Any], ...]:
    return tuple(
        (name, before.get(name), value) for name, value in after.items() if value != before.get(name)
    )


def matched(document: Document, present: Document) -> Document:
    """The document with the uids of this set-up: what is not here by uid but by name is that object."""
    renamed: dict[str, str] = {}
    for part in KINDS:
        here = {item["uid"] for item in present.get(part, [])}
        by_name = {item["name"].casefold(): item["uid"] for item in present.get(part, [])}
        for item in document.get(part, []):
            known = by_name.get(item["name"].casefold())
            if item["uid"] not in here and known is not None:
                renamed[item["uid"]] = known
    return {name: _renamed(value, renamed) for name, value in document.items()}


def as_named_now(part: str, plain: Mapping[str, Any]) -> dict[str, Any]:
    """An object with the names that its fields have now: rules for runs of older versions said `facts`."""
    older = {"facts": "attributes"} if part == "runs" else {}
    return {older.get(name, name): value for name, value in plain.items()}


def completed(document: Document, present: Document) -> Document:
    """The document with what it leaves out of an object that is here: that stays as it is. Of a logger only
    the fields of its mode count; older versions wrote those of all modes."""
    whole = dict(document)
    for part in KINDS:
        if part in document:
            known = {item["uid"]: item for item in present.get(part, [])}
            given = [as_named_now(part, item) for item in document[part]]
            whole[part] = [{**known.get(item["uid"], {}), **item} for item in given]
    if "loggers" in whole:
        whole["loggers"] = [own_fields(logger) for logger in whole["loggers"]]
    return whole


def _renamed(value: Any, renamed: Mapping[str, str]) -> Any:  # noqa: ANN401 - any JSON
    """Every uid in it replaced, as value or as name."""
    if isinstance(value, str):
        return renamed.get(value, value)
    if isinstance(value, list):
        return [_renamed(element, renamed) for element in value]
    if isinstance(value, dict):
        return {renamed.get(name, name): _renamed(element, renamed) for name, element in value.items()}
    return value


def only(document: Document, parts: Iterable[str]) -> Document:
    """Some parts of a document."""
    kept = {"format", "version", *parts}
    return {name: value for name, value in document.items() if name in kept}
