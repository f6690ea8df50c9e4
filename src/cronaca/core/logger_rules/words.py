"""Rules in words, for people."""

from __future__ import annotations

from typing import Final

from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Keeps, LoggerMode, RuleKind, RuleWish

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


def when_text(
    mode: LoggerMode, interval_us: int, phase_us: int, rule: RuleWish, keeps: Keeps = Keeps.VALUE
) -> str:
    """When a logger records."""
    if mode is LoggerMode.PERIODIC:
        late = f", {duration_text(phase_us)} later" if phase_us else ""
        return f"{_KEPT[keeps]}every {duration_text(interval_us)}{late}"
    if mode is LoggerMode.AROUND:
        return "full detail around its trigger"
    return "records at its trigger" if mode is LoggerMode.ON_TRIGGER else rule_text(rule)


def rule_text(rule: RuleWish) -> str:
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
