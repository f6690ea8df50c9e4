"""Rules in words, for people."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Final

from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Keeps, LoggerMode, RuleKind, RuleSpec

if TYPE_CHECKING:
    from cronaca.core.loggers import LoggerSpec

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


def when_text(logger: LoggerSpec[Any], rule: RuleSpec) -> str:
    """When a logger records a member that has this rule."""
    if logger.mode is LoggerMode.PERIODIC:
        if not logger.interval_us:
            return "on demand"
        late = f", {duration_text(logger.phase_us)} later" if logger.phase_us else ""
        return f"{_KEPT[logger.keeps]}every {duration_text(logger.interval_us)}{late}"
    if logger.mode is LoggerMode.AROUND:
        return "full detail around its trigger"
    return "records at its trigger" if logger.mode is LoggerMode.ON_TRIGGER else rule_text(rule)


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
