"""From a rule as it is set up to the object that decides for one tag."""

from __future__ import annotations

import math

from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules.rules import (
    ChangeRule,
    ChangeSettings,
    Rule,
    SwingingDoorRule,
    SwingingDoorSettings,
)
from cronaca.core.model import RuleKind, RuleSpec, Tag, ValueType


def rule_for(spec: RuleSpec, tag: Tag) -> Rule:
    """The rule at work on a tag; raises InvalidInput where it has no meaning for the tag."""
    width = spec.width
    if spec.of_range and width:
        span = tag.range_high - tag.range_low
        if not span > 0 or tag.value_type not in (ValueType.FLOAT, ValueType.INTEGER):
            raise InvalidInput(
                "width",
                "no-range-take",
                "{tag} has no range to take % of",
                "Give it in the tag's unit.",
                tag=tag.name,
            )
        width = width / 100 * span
    if spec.kind is RuleKind.LINE:
        if tag.stepped or tag.value_type is not ValueType.FLOAT:
            raise InvalidInput(
                "rule",
                "no-straight-lines-between",
                "{tag} has no straight lines between its samples",
                "Record it on change.",
                tag=tag.name,
            )
        return SwingingDoorRule(SwingingDoorSettings(width, spec.longest_silence_us).checked())
    settings = ChangeSettings(
        deadband=0.0 if tag.value_type.discrete else width,
        rate_limit_us=spec.rate_limit_us,
        keep_extremes=spec.keep_extremes,
        stamp_kept=spec.stamp_kept,
        longest_silence_us=spec.longest_silence_us,
        # Between the samples of a stepped tag the value stands: there is no line that could lie.
        bridge=tag.value_type is ValueType.FLOAT and not tag.stepped,
    )
    return ChangeRule(settings.checked())


def check_rule_spec(spec: RuleSpec) -> RuleSpec:
    """The same; raises InvalidInput that names the field, whatever the tags are."""
    if not spec.width >= 0 or math.isinf(spec.width):
        raise InvalidInput(
            "width", "not-width", "{width} is not a width", "Give 0 or more.", width=spec.width
        )
    if spec.of_range and spec.width > 100:
        raise InvalidInput(
            "width", "more-whole-range", "it is more than the whole range", "Give at most 100 %."
        )
    if spec.kind is RuleKind.LINE:
        if spec.rate_limit_us or spec.keep_extremes or spec.stamp_kept:
            raise InvalidInput(
                "rate_limit", "straight-line-none", "a straight line has none", "Leave it out."
            )
        SwingingDoorSettings(spec.width, spec.longest_silence_us).checked()
        return spec
    ChangeSettings(
        spec.width, spec.rate_limit_us, spec.keep_extremes, spec.stamp_kept, spec.longest_silence_us
    ).checked()
    return spec
