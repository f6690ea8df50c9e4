"""Several kinds of housekeeping as one: a failure of one keeps none of the others from being done."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from typing import Final

from cronaca.core.ports import Housekeeping

_log: Final = logging.getLogger(__name__)


class Houses:
    """A core.ports.Housekeeping made of others."""

    def __init__(self, parts: Sequence[Housekeeping]) -> None:
        self._parts = tuple(parts)

    def run_all(self) -> None:
        """Does what is due in each; then raises what failed first."""
        first: Exception | None = None
        for part in self._parts:
            try:
                part.run_all()
            except Exception as exc:  # noqa: BLE001 - raised when the others are done; each is in the log
                _log.warning("%s fails: %s", type(part).__name__, exc)
                first = first or exc
        if first is not None:
            raise first
