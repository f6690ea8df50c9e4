"""A class from equipment that is there: what the pieces share becomes its patterns, the rest their own."""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final

from cronaca.core.equipment.classes import ClassSpec, EquipmentSpec, Join, Member, Pattern, Settings, Slot
from cronaca.core.equipment.expand import PARTS, Expanded, expand, number_in
from cronaca.core.errors import InvalidInput
from cronaca.core.setup.document import Document

MOST_TREND: Final = 8
Tags = Mapping[str, Mapping[str, str]]
"""Uids of tags by piece and member."""


@dataclass(frozen=True, slots=True)
class Gathered:
    """A class, and its pieces as they are: written back they change nothing. `pieces` by name."""

    spec: ClassSpec
    equipment: dict[str, EquipmentSpec]


def gather(name: str, tags: Tags, present: Document) -> Gathered:
    """The class of these pieces of equipment; raises InvalidInput when there is none."""
    if not tags or not any(tags.values()):
        raise InvalidInput(
            "equipment", "equipment-no-tags", "it has no tags", "Choose equipment that has some."
        )
    return _Gathering(name, tags, present).run()


class _Gathering:
    def __init__(self, name: str, tags: Tags, present: Document) -> None:
        self._name = name
        self._tags = tags
        self._present = present
        self._protocols = {source["uid"]: source["protocol"] for source in present["sources"]}
        self._docs = {tag["uid"]: tag for tag in present["tags"]}
        self._keys = list(dict.fromkeys(key for own in tags.values() for key in own))
        self._member_of = {uid: (owner, key) for owner, own in tags.items() for key, uid in own.items()}
        self._slots: dict[str, str] = {}
        """Of members, the name of their slot."""
        self._sources: dict[str, dict[str, str]] = {owner: {} for owner in tags}
        self._objects: dict[str, dict[str, dict[str, str]]] = {
            owner: {"tags": dict(own), "loggers": {}, "runs": {}} for owner, own in tags.items()
        }

    def run(self) -> Gathered:
        slots = self._find_slots()
        members = tuple(self._member(key) for key in self._keys)
        spec = ClassSpec(
            self._name, members, slots, loggers=self._patterns("loggers"), runs=self._patterns("runs"),
            joins=self._joins(),
        ).checked()  # fmt: skip
        spec = replace(spec, loggers=self._shared("loggers", spec), runs=self._shared("runs", spec))
        numbers = [m.key for m in members if m.settings["value_type"] == "float" and self._own_slot(m, slots)]
        spec = replace(spec, trend=tuple(numbers[:MOST_TREND]))
        return Gathered(spec, {owner: self._spec_of(owner, spec) for owner in self._tags})

    def _own_slot(self, member: Member, slots: Sequence[Slot]) -> bool:
        return any(slot.name == member.slot and slot.source is None for slot in slots)

    def _find_slots(self) -> tuple[Slot, ...]:
        """Members that are read from the same sources, piece by piece, share a slot."""
        groups: dict[tuple[str, ...], list[str]] = {}
        for key in self._keys:
            read = tuple(self._docs[own[key]]["source"] if key in own else "" for own in self._tags.values())
            groups.setdefault(self._like(read, groups), []).append(key)
        sources = {source["uid"]: source["name"] for source in self._present["sources"]}
        slots, own_slots = [], 0
        for read, keys in groups.items():
            known = {entry for entry in read if entry}
            if len(known) == 1 and len(self._tags) > 1:
                slot = Slot(sources[next(iter(known))], next(iter(known)))
            else:
                own_slots += 1
                slot = Slot(self._slot_name(keys, own_slots, len(groups)))
                for owner, source in zip(self._tags, read, strict=True):
                    self._sources[owner][slot.name] = source or next(iter(known))
            slots.append(slot)
            self._slots.update(dict.fromkeys(keys, slot.name))
        return tuple(slots)

    def _slot_name(self, keys: Iterable[str], place: int, of: int) -> str:
        docs = [self._docs[own[key]] for key in keys for own in self._tags.values() if key in own]
        if of > 1 and all(doc["value_type"] == "boolean" for doc in docs):
            return "contacts" if "contacts" not in self._slots.values() else f"contacts {place}"
        return "device" if "device" not in self._slots.values() else f"device {place}"

    def _like(self, read: tuple[str, ...], groups: Iterable[tuple[str, ...]]) -> tuple[str, ...]:
        """A group whose sources these are where the member is there at all."""
        for other in groups:
            if all("" in (a, b) or a == b for a, b in zip(read, other, strict=True)) and "" not in other:
                return other
        return read

    def _member(self, key: str) -> Member:
        docs = {owner: self._docs[own[key]] for owner, own in self._tags.items() if key in own}
        names = [name for name in next(iter(docs.values())) if name not in ("uid", "source", "address")]
        settings = {
            name: _common([self._pattern(doc[name], owner) for owner, doc in docs.items()]) for name in names
        }
        by_protocol: dict[str, dict[str, Settings]] = {}
        for owner, doc in docs.items():
            by_protocol.setdefault(self._protocols[doc["source"]], {})[owner] = doc["address"]
        addresses = {protocol: self._address(places) for protocol, places in by_protocol.items()}
        return Member(key, self._slots[key], settings, addresses)

    def _address(self, places: Mapping[str, Settings]) -> Settings:
        """The pattern that most places follow: where they differ by the number of the piece, with it."""
        plain = [self._pattern(place, owner) for owner, place in places.items()]
        if all(element == plain[0] for element in plain):
            return _dict(plain[0])
        numbered = [self._pattern(place, owner, everywhere=True) for owner, place in places.items()]
        return _dict(_common(numbered if all(element == numbered[0] for element in numbered) else plain))

    def _pattern(self, value: Any, owner: str, *, everywhere: bool = False) -> Any:  # noqa: ANN401 - any JSON
        """The value with the piece's name, its number and its tags put in braces."""
        if isinstance(value, str):
            return self._text(value, owner, everywhere=everywhere)
        if isinstance(value, list | tuple):
            return [self._pattern(element, owner, everywhere=everywhere) for element in value]
        if isinstance(value, dict):
            return {
                self._text(name, owner, everywhere=False): self._pattern(
                    element, owner, everywhere=everywhere
                )
                for name, element in value.items()
            }
        return value

    def _text(self, text: str, owner: str, *, everywhere: bool) -> str:
        holder = self._member_of.get(text)
        if holder is not None and holder[0] == owner:
            return f"{{tag:{holder[1]}}}"
        text = text.replace(owner, "{name}")
        number = number_in(owner)
        if number is None:
            return text
        stem = re.escape(owner[: owner.rfind(str(number))].strip())
        if stem:
            text = re.sub(rf"(?i)({stem}[ _.-]?){number}(?!\d)", r"\1{number}", text)
        return re.sub(rf"(?<![\d{{]){number}(?!\d)", "{number}", text) if everywhere else text

    def _patterns(self, part: str) -> tuple[Pattern, ...]:
        """Objects that are of one piece alone become patterns, alike by what they are called."""
        by_uid: dict[str, dict[str, Settings]] = {}
        for item in self._present.get(part, []):
            holders = {self._member_of[uid][0] for uid in _uids_in(item) if uid in self._member_of}
            if len(holders) != 1 or any(uid in self._docs for uid in _uids_in(item) - self._member_of.keys()):
                continue
            owner = next(iter(holders))
            key = item["name"].replace(owner, "").strip(" -_:") or item["name"]
            by_uid.setdefault(key, {})[owner] = item
            self._objects[owner][part][key] = item["uid"]
        patterns = []
        for key, docs in by_uid.items():
            names = [name for name in next(iter(docs.values())) if name != "uid"]
            shared = {
                name: _common([self._pattern(doc[name], owner) for owner, doc in docs.items()])
                for name in names
            }
            patterns.append(Pattern(key, shared))
        return tuple(patterns)

    def _shared(self, part: str, of: ClassSpec) -> tuple[Pattern, ...]:
        """Without those that would give a piece what it does not have: these objects stay what they are, for
        a class that is gathered changes nothing."""
        kept, loggers = [], part == "loggers"
        for pattern in of.loggers if loggers else of.runs:
            alone = replace(of, loggers=(pattern,) if loggers else (), runs=() if loggers else (pattern,))
            lacking = [name for name in self._tags if pattern.key not in self._objects[name][part]]
            if any(self._expanded(name, alone).parts[part] for name in lacking):
                for name in self._tags:
                    self._objects[name][part].pop(pattern.key, None)
            else:
                kept.append(pattern)
        return tuple(kept)

    def _expanded(self, name: str, of: ClassSpec) -> Expanded:
        own = self._tags[name]
        without = tuple(key for key in self._keys if key not in own)
        return self._expand(of, EquipmentSpec(name, "", self._sources[name], without=without))

    def _expand(self, of: ClassSpec, spec: EquipmentSpec) -> Expanded:
        return expand(of, "00000000-0000-0000-0000-000000000000", spec, self._protocols)

    def _joins(self) -> tuple[Join, ...]:
        """Loggers that record members of several pieces."""
        joins = []
        for logger in self._present.get("loggers", []):
            mine = [uid for uid in logger["tags"] if uid in self._member_of]
            if len({self._member_of[uid][0] for uid in mine}) < 2:
                continue
            keys = tuple(dict.fromkeys(self._member_of[uid][1] for uid in mine))
            rules = {self._member_of[uid][1]: rule for uid, rule in logger.get("overrides", {}).items()
                     if uid in self._member_of}  # fmt: skip
            joins.append(Join(logger["uid"], keys, rules))
        return tuple(joins)

    def _spec_of(self, name: str, of: ClassSpec) -> EquipmentSpec:
        """The piece; what it has otherwise than its class says is its own."""
        own = self._tags[name]
        spec = EquipmentSpec(
            name, "", self._sources[name], objects=self._objects[name],
            without=tuple(key for key in self._keys if key not in own),
        )  # fmt: skip
        address = {
            key: {"address": self._docs[uid]["address"]}
            for key, uid in own.items()
            if self._protocols[self._docs[uid]["source"]] not in _protocols_of(of, key)
        }
        made = self._expand(of, spec)
        settings: dict[str, dict[str, Settings]] = {"tags": address} if address else {}
        for part in PARTS:
            here = {item["uid"]: item for item in self._present.get(part, [])}
            keys = {uid: key for key, uid in self._objects[name][part].items()}
            for item in made.parts[part]:
                there = here.get(item["uid"])
                differs = {} if there is None else {n: there[n] for n in item if item[n] != there[n]}
                if differs:
                    settings.setdefault(part, {}).setdefault(keys[item["uid"]], {}).update(differs)
        return replace(spec, overrides=settings)


def _protocols_of(of: ClassSpec, key: str) -> set[str]:
    member = of.member(key)
    return set() if member is None else set(member.addresses)


def _dict(value: Any) -> Settings:  # noqa: ANN401 - any JSON
    return dict(value)


def _common(values: Sequence[Any]) -> Any:  # noqa: ANN401 - any JSON
    """The value that most have; of equally many the first."""
    texts = Counter(json.dumps(value, sort_keys=True) for value in values)
    first = max(texts.items(), key=lambda pair: pair[1])[0]
    return next(value for value in values if json.dumps(value, sort_keys=True) == first)


def _uids_in(value: Any) -> set[str]:  # noqa: ANN401 - any JSON
    """Every text in it that could be a uid, as value or as name."""
    if isinstance(value, str):
        return {value} if len(value) == 36 else set()
    if isinstance(value, dict):
        return {
            uid
            for name, element in value.items()
            if name != "uid"
            for uid in _uids_in(name) | _uids_in(element)
        }
    if isinstance(value, list | tuple):
        return {uid for element in value for uid in _uids_in(element)}
    return set()
