"""Rules in words, for people."""

from __future__ import annotations

from typing import Any, Final

from cronaca.core.loggers import Mode, OnChange, OnTrigger, Periodic
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Keeps, RuleKind, RuleSpec

_KEPT: Final = {
    Keeps.VALUE: "",
    Keeps.MEAN: "mean, ",
    Keeps.LOW: "lowest, ",
    Keeps.HIGH: "highest, ",
}
_UNITS: Final = ((DAY, "d"), (HOUR, "h"), (MINUTE, "min"), (SECOND, "s"), (1_000, "ms"))


def duration_text(value_us: int) -> str:
    """A duration in its largest whole unit, for instance 90 s, 2 min."""
    for width, unit in _UNITS:
        if value_us >= width and value_us % width == 0:
            return f"{value_us // width} {unit}"
    return f"{value_us / SECOND:g} s"


def mode_text(mode: Mode[Any], tag: object = None) -> str:
    """When a logger of this mode records: all of its members, or one that may have a rule of its own."""
    if isinstance(mode, OnChange):
        return rule_text(mode.rule_of(tag))
    if isinstance(mode, Periodic):
        return _periodic_text(mode)
    return "records at its trigger" if isinstance(mode, OnTrigger) else "full detail around its trigger"


def _periodic_text(mode: Periodic[Any]) -> str:
    if not mode.interval_us:
        return "on demand"
    late = f", {duration_text(mode.phase_us)} later" if mode.phase_us else ""
    return f"{_KEPT[mode.keeps]}every {duration_text(mode.interval_us)}{late}"


def rule_text(rule: RuleSpec) -> str:
    """An on-change rule."""
    width = f"{rule.width:g}{' % of range' if rule.of_range else ''}"
    if rule.kind is RuleKind.LINE:
        parts = [f"straight lines within {width}"]
    else:
        parts = [f"on change by more than {width}" if rule.width else "on every change"]
    if rule.rate_limit_us:
        parts.append(f"at most one in {duration_text(rule.rate_limit_us)}")
    if rule.keep_extremes:
        parts.append("extremes kept")
    if rule.longest_silence_us:
        parts.append(f"at least every {duration_text(rule.longest_silence_us)}")
    return ", ".join(parts)
