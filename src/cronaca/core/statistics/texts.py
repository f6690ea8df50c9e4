"""A figure and its options in one line, as sheets, reports and addresses hold it: `Percentile 95`,
`Median samples`, `Integral hour`, `TimeInState 2`. A name alone stands for the usual options."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any, Final

from cronaca.core.errors import InvalidInput
from cronaca.core.statistics.spec import OF_ONE_STATE, Base, StatSpec, Weight

_OPTION_TYPES: Final[Mapping[str, Callable[[Any], Any]]] = {
    "percent": float, "weight": Weight, "base": Base, "state": int,
}  # fmt: skip
_NAMES: Final = "Use percent, weight (samples or time), base (second, minute or hour) or state."
_OPTIONS: Final = "Write the name and then percent, state, samples or time, second, minute or hour."


def read_figure(text: str) -> StatSpec:
    """The figure that a text names; whether there is one of that name is not looked at. Raises InvalidInput
    (field `stat`) for an option that it does not know."""
    name, *words = text.split() or [""]
    spec = StatSpec(name)
    for word in words:
        spec = _with_option(spec, word, text)
    return spec


def write_figure(spec: StatSpec) -> str:
    """The shortest text that `read_figure` reads as the same figure; options that a text cannot hold (a
    histogram's, those of figures of two tags) are left out."""
    words = [spec.name]
    if spec.name == "Percentile":
        words.append(f"{spec.percent:g}")
    if spec.state is not None and spec.name in OF_ONE_STATE:
        words.append(str(spec.state))
    if spec.weight is not Weight.TIME:
        words.append(spec.weight.value)
    if spec.base is not None:
        words.append(spec.base.value)
    return " ".join(words)


def _with_option(spec: StatSpec, word: str, text: str) -> StatSpec:
    if word in list(Weight):
        return replace(spec, weight=Weight(word))
    if word in list(Base):
        return replace(spec, base=Base(word))
    try:
        if spec.name == "Percentile":
            return replace(spec, percent=float(word))
        if spec.name in OF_ONE_STATE:
            return replace(spec, state=int(word))
    except ValueError as exc:
        raise InvalidInput(
            "stat", "stat-not-number", "{word!r} in {text!r} is not a number", _OPTIONS, word=word, text=text
        ) from exc
    raise InvalidInput(
        "stat",
        "not-option",
        "{word!r} in {text!r} is not an option of {spec}",
        _OPTIONS,
        word=word,
        text=text,
        spec=spec.name,
    )


def with_options(spec: StatSpec, options: Mapping[str, object]) -> StatSpec:
    """The same figure with options by their names (percent, weight, base, state), as class files hold them.
    Raises InvalidInput (field `parameters`)."""
    try:
        for name, value in options.items():
            read = _OPTION_TYPES.get(name)
            if read is None:
                raise InvalidInput(
                    "parameters",
                    "not-option-statistic",
                    "{name!r} is not an option of a statistic",
                    _NAMES,
                    name=name,
                )
            spec = replace(spec, **{name: read(value)})
    except (TypeError, ValueError) as exc:
        raise InvalidInput(
            "parameters", "parameters-cannot", "{name} cannot be {value!r}", _NAMES, name=name, value=value
        ) from exc
    return spec
