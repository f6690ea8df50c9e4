"""From a rule as it is set up to the object that decides for one tag."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules.rules import (
    ChangeRule,
    ChangeSettings,
    Rule,
    SwingingDoorRule,
    SwingingDoorSettings,
)
from cronaca.core.model import RuleKind, RuleWish, Tag, ValueType


def rule_for(wish: RuleWish, tag: Tag) -> Rule:
    """The rule at work on a tag; raises InvalidInput where it has no meaning for the tag."""
    width = wish.width
    if wish.of_range and width:
        span = tag.range_high - tag.range_low
        if not span > 0 or tag.value_type not in (ValueType.FLOAT, ValueType.INTEGER):
            raise InvalidInput("width", f"{tag.name} has no range to take % of", "Give it in the tag's unit.")
        width = width / 100 * span
    if wish.kind is RuleKind.LINE:
        if tag.stepped or tag.value_type is not ValueType.FLOAT:
            raise InvalidInput(
                "rule", f"{tag.name} has no straight lines between its samples", "Record it on change."
            )
        return SwingingDoorRule(SwingingDoorSettings(width, wish.longest_silence_us).checked())
    facts = ChangeSettings(
        deadband=0.0 if tag.value_type.discrete else width,
        rate_limit_us=wish.rate_limit_us,
        keep_extremes=wish.keep_extremes,
        stamp_kept=wish.stamp_kept,
        longest_silence_us=wish.longest_silence_us,
        # Between the samples of a stepped tag the value stands: there is no line that could lie.
        bridge=tag.value_type is ValueType.FLOAT and not tag.stepped,
    )
    return ChangeRule(facts.checked())


def check_wish(wish: RuleWish) -> RuleWish:
    """The same; raises InvalidInput that names the field, whatever the tags are."""
    if not wish.width >= 0 or math.isinf(wish.width):
        raise InvalidInput("width", f"{wish.width} is no width", "Give 0 or more.")
    if wish.of_range and wish.width > 100:
        raise InvalidInput("width", "it is more than the whole range", "Give at most 100 %.")
    if wish.kind is RuleKind.LINE:
        if wish.rate_limit_us or wish.keep_extremes or wish.stamp_kept:
            raise InvalidInput("rate_limit", "a straight line has none", "Leave it out.")
        SwingingDoorSettings(wish.width, wish.longest_silence_us).checked()
        return wish
    ChangeSettings(
        wish.width, wish.rate_limit_us, wish.keep_extremes, wish.stamp_kept, wish.longest_silence_us
    ).checked()
    return wish


def wish_to_facts(wish: RuleWish) -> dict[str, Any]:
    """The form in which the set-up keeps a rule: what differs from the default."""
    plain = asdict(RuleWish())
    return {name: value for name, value in asdict(wish).items() if value != plain[name]}


def wish_from_facts(facts: Mapping[str, Any]) -> RuleWish:
    """A rule from the form in which the set-up keeps it."""
    return RuleWish(**{**facts, "kind": RuleKind(facts.get("kind", RuleKind.CHANGE))})
