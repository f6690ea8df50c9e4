"""Figures of tags over stretches of time, side by side: intervals, the same shift on other days, runs."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cronaca.api.schemas import MicrosOut, Model, Uid
from cronaca.api.schemas.figures import ConfigurationIn, FigureIn, WindowIn
from cronaca.api.schemas.statistics import NormIn, StatRowOut
from cronaca.services.statistics.stretches import MOST_STRETCHES


class StretchRowIn(Model):
    """A figure of a tag."""

    name: Annotated[str, Field(max_length=200)]
    tag: Uid
    figure: FigureIn


class StretchesIn(Model):
    """Figures in rows, stretches in columns."""

    rows: list[StretchRowIn] = Field(min_length=1, max_length=240)
    window: WindowIn
    per: Literal["auto", "hour", "shift", "day"] = "auto"
    """Into what the window is cut; `auto`: at most 24 stretches of a round length."""
    shift: Annotated[str, Field(max_length=100)] = ""
    """Only the stretches of this shift, day after day."""
    runs: list[Uid] = Field([], max_length=MOST_STRETCHES)
    """These runs, instead of stretches of the window; one that lasts ends now."""
    norm: NormIn = NormIn()
    """`fleet`: learnt for each row from its own stretches."""
    configuration: ConfigurationIn = ConfigurationIn()


class StretchColumnOut(Model):
    """A stretch; `name`: of its shift or run, where it is one. `cut`: the window holds only a part of it, or
    it still lasts."""

    name: str
    start_us: MicrosOut
    end_us: MicrosOut
    cut: bool


class StretchesOut(Model):
    """The table, all of it computed until one moment."""

    now_us: MicrosOut
    columns: list[StretchColumnOut]
    rows: list[StatRowOut]
