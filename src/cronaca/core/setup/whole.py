"""The whole set-up, as the recorder knows it."""

from __future__ import annotations

from dataclasses import dataclass

from cronaca.core.loggers import Logger
from cronaca.core.model import RunRule, SourceSetup, Tag


@dataclass(frozen=True, slots=True)
class Setup:
    """All that the recorder needs to know to run."""

    sources: tuple[SourceSetup, ...]
    tags: tuple[Tag, ...]
    loggers: tuple[Logger, ...]
    zone: str = "UTC"
    """The plant's, as an IANA name."""
    runs: tuple[RunRule, ...] = ()
    shift_starts: tuple[int, ...] = ()
    """Minutes of the local day at which the plant's shifts begin; none: there are no shifts."""
