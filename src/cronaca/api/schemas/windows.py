"""Windows of time as they are asked for and understood."""

from __future__ import annotations

from cronaca.api.schemas import Micros, Model
from cronaca.core.windows import Unit, Which


class WindowMeaning(Model):
    """What a window means, beyond where it lies now: one of a length (until `ago_us` before now), a start
    (until an end, or now), a unit of the calendar (of the last ones `count`), a weekday until now."""

    last_us: Micros | None
    ago_us: Micros
    start_us: Micros | None
    end_us: Micros | None
    unit: Unit | None
    which: Which
    weekday: int | None
    count: int


class NamedWindow(Model):
    """A window as it lies now; `goes_on`: it ends with the clock; `changes_us`: when its beginning, or the
    end of a past one, will be another."""

    start_us: Micros
    end_us: Micros
    goes_on: bool
    changes_us: Micros | None
    meaning: WindowMeaning
    text: str
    """How it was understood, with the plant's clock."""
