"""From a class and a piece of equipment to its tags, loggers and rules for runs."""

from __future__ import annotations

import re
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Final

from cronaca.core.equipment.classes import LIMITS, ClassSpec, EquipmentSpec, Member, Pattern, Settings
from cronaca.core.errors import InvalidInput
from cronaca.core.loggers import own_fields

PARTS: Final = ("tags", "loggers", "runs")
_TAG: Final = re.compile(r"\{tag:([^{}]+)\}")
_WORD: Final = re.compile(r"\{([A-Za-z_]\w*)([+-]\d+)?\}")
_NUMBERS: Final = re.compile(r"\d+")


@dataclass(frozen=True, slots=True)
class Expanded:
    """Objects of a piece as in a set-up file, by part; and by shared logger what joins it: uid and own rule
    of each tag."""

    parts: dict[str, list[Settings]]
    joins: dict[str, dict[str, Settings | None]]


class _Missing(Exception):
    """A member that the piece does not have."""


def uid_in(equipment_uid: str, spec: EquipmentSpec, part: str, key: str) -> str:
    """The uid of a piece's object: the one that was there before, or one that follows from piece and key."""
    known = spec.objects.get(part, {}).get(key)
    return known or str(uuid.uuid5(uuid.UUID(equipment_uid), f"{part}/{key}"))


def number_in(name: str) -> int | None:
    """The last number in a name."""
    numbers = _NUMBERS.findall(name)
    return int(numbers[-1]) if numbers else None


def expand(of: ClassSpec, equipment_uid: str, spec: EquipmentSpec, protocols: Mapping[str, str]) -> Expanded:
    """All objects of the piece; `protocols` of sources by uid. Raises InvalidInput that names the piece."""
    try:
        return _Filling(of, equipment_uid, spec, protocols).made()
    except InvalidInput as exc:
        raise exc.of(spec.name) from exc


class _Filling:
    def __init__(
        self, of: ClassSpec, equipment_uid: str, spec: EquipmentSpec, protocols: Mapping[str, str]
    ) -> None:
        self._of = of
        self._uid = equipment_uid
        self._spec = spec
        self._protocols = protocols
        self._words: dict[str, int | str] = {"name": spec.name, **of.parameters, **spec.parameters}
        number = number_in(spec.name)
        if number is not None:
            self._words["number"] = number
        self._members = [member for member in of.members if member.key not in spec.without]
        self._tags = {member.key: uid_in(equipment_uid, spec, "tags", member.key) for member in self._members}
        self._known = {member.key for member in of.members}

    def made(self) -> Expanded:
        tags = [self._tag(member) for member in self._members]
        joins: dict[str, dict[str, Settings | None]] = {}
        for join in self._of.joins:
            here = joins.setdefault(join.logger, {})
            here.update({self._tags[k]: join.overrides.get(k) for k in join.members if k in self._tags})
        parts = {
            "tags": tags,
            "loggers": self._objects("loggers", self._of.loggers),
            "runs": self._objects("runs", self._of.runs),
        }
        return Expanded(parts, joins)

    def _tag(self, member: Member) -> Settings:
        own = self._own("tags", member.key)
        slot = next(slot for slot in self._of.slots if slot.name == member.slot)
        source = own.get("source") or slot.source or self._spec.sources.get(member.slot, "")
        settings = {**self._filled(member.settings), "source": source}
        if "address" not in own:
            settings["address"] = self._filled(self._place(member, source))
        return {"uid": self._tags[member.key], **settings, **own}

    def _place(self, member: Member, source: str) -> Settings:
        protocol = self._protocols.get(source)
        if protocol is None:
            raise InvalidInput(
                "sources",
                "source-not",
                "the source of {slot} is not there",
                "Name another.",
                slot=member.slot,
            )
        if protocol not in member.addresses:
            raise InvalidInput(
                "addresses",
                "no-address-source",
                "{member} has no address for a source by {protocol}",
                "Add one to the class, or take another source.",
                member=member.key,
                protocol=protocol,
            )
        return member.addresses[protocol]

    def _objects(self, part: str, patterns: tuple[Pattern, ...]) -> list[Settings]:
        objects = []
        for pattern in patterns:
            try:
                settings = self._filled(pattern.settings)
            except _Missing:
                continue  # what hangs on a member that this piece lacks is not made for it
            uid = uid_in(self._uid, self._spec, part, pattern.key)
            plain = {"uid": uid, **settings, **self._own(part, pattern.key)}
            objects.append(own_fields(plain) if part == "loggers" else plain)
        return objects

    def _own(self, part: str, key: str) -> Settings:
        own = self._spec.overrides.get(part, {}).get(key, {})
        return {name: value for name, value in own.items() if name != LIMITS}

    def _filled(self, value: Any) -> Any:  # noqa: ANN401 - any JSON
        if isinstance(value, str):
            return self._text(value)
        if isinstance(value, list):
            return [self._filled(element) for element in value if not self._lacks(element)]
        if isinstance(value, dict):
            return {
                self._text(name): self._filled(element)
                for name, element in value.items()
                if not self._lacks(name)
            }
        return value

    def _lacks(self, value: object) -> bool:
        """It stands for a tag that this piece does not have: in a list it is left out."""
        match = _TAG.fullmatch(value) if isinstance(value, str) else None
        return match is not None and match[1] in self._known and match[1] not in self._tags

    def _text(self, text: str) -> Any:  # noqa: ANN401 - a text or a whole number
        whole = _WORD.fullmatch(text)
        if whole is not None:
            return self._word(whole)
        return _WORD.sub(lambda match: str(self._word(match)), _TAG.sub(self._tag_uid, text))

    def _tag_uid(self, match: re.Match[str]) -> str:
        key = match[1]
        if key in self._tags:
            return self._tags[key]
        if key in self._known:
            raise _Missing
        raise InvalidInput(
            "members",
            "members-no-member",
            "there is no member {key!r}",
            "Add it, or change the pattern.",
            key=key,
        )

    def _word(self, match: re.Match[str]) -> int | str:
        word, plus = match[1], match[2]
        if word == "number" and "number" not in self._words:
            raise InvalidInput(
                "name", "holds-no-number", "it holds no number", "Give a name with a number, like Line 5."
            )
        if word not in self._words:
            raise InvalidInput(
                "parameters",
                "not-known",
                "{{word}} is not known",
                "Add the parameter to the class.",
                word=word,
            )
        value = self._words[word]
        if plus is None:
            return value
        if not isinstance(value, int):
            raise InvalidInput(
                "parameters",
                "parameters-is",
                "{word} is {value!r}",
                "Give a whole number.",
                word=word,
                value=value,
            )
        return value + int(plus)
