"""How quality and the line between samples are treated: the aggregate configuration of OPC UA (IEC 62541)
Part 13, section 4.2.1, and whether a tag's values are held or lie on a slope (Part 11's Stepped)."""

from __future__ import annotations

from dataclasses import dataclass

from cronaca.core.errors import InvalidInput


@dataclass(frozen=True, slots=True)
class Configuration:
    """`percent_bad`: from this share of Bad on a result is Bad; `percent_good`: from this share of Good on
    it is Good; in between Uncertain. `sloped_extrapolation` continues the line of the last two usable
    values past the end of data instead of holding the last one. `stepped` holds values between samples."""

    treat_uncertain_as_bad: bool = True
    percent_bad: int = 100
    percent_good: int = 100
    sloped_extrapolation: bool = False
    stepped: bool = False

    @classmethod
    def parse(
        cls,
        *,
        treat_uncertain_as_bad: bool = True,
        percent_bad: int = 100,
        percent_good: int = 100,
        sloped_extrapolation: bool = False,
        stepped: bool = False,
    ) -> Configuration:
        """A configuration from outside; raises InvalidInput for percentages the standard rejects."""
        for field, value in (("percent_bad", percent_bad), ("percent_good", percent_good)):
            if not 0 <= value <= 100:
                raise InvalidInput(
                    field,
                    "configuration-not-percentage",
                    "{value} is not a percentage",
                    "Give a whole number from 0 to 100.",
                    value=value,
                )
        if percent_good < 100 - percent_bad:
            raise InvalidInput(
                "percent_good",
                "with-good-bad-result",
                "with {percent_good} % Good and {percent_bad} % Bad a result could be both",
                "Give at least {value}: 100 minus the percentage of Bad.",
                percent_good=percent_good,
                percent_bad=percent_bad,
                value=100 - percent_bad,
            )
        return cls(treat_uncertain_as_bad, percent_bad, percent_good, sloped_extrapolation, stepped)
