"""Work in the background, until it is stopped: the journal becomes segments, what is over is summed up and
reported, what is too old goes."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from typing import Final

from cronaca.core.errors import StoreError, StoreUnavailable
from cronaca.core.ports import Background, Compaction, Housekeeping, ReportMaker, SummaryBuilder

PERIOD_S: Final = 20.0
SLICE_S: Final = 5.0
"""Summing up pauses this often for the journal."""
RETENTION_S: Final = 3600.0
SAY_S: Final = 10.0
"""So often it says that it is at work."""
Work = Callable[[], object]
_log = logging.getLogger(__name__)


def run_loop(
    compaction: Compaction,
    builder: SummaryBuilder,
    retention: Housekeeping,
    reports: ReportMaker,
    stop: threading.Event,
    period_s: float = PERIOD_S,
    background: Background | None = None,
    beat: Callable[[], None] = lambda: None,
) -> None:
    """Works off what waits, then pauses; a database that is away is waited for. What fails otherwise is said
    in the health of the plant, tried again, and keeps nothing else of the work from being done."""
    parts = _Parts(compaction, builder, retention, reports, stop, beat)
    say = _Saying(background)
    while not stop.is_set():
        more = parts.run()
        say.say(parts.failures)
        _pause(stop, 0 if more else period_s, say, parts)


def _pause(stop: threading.Event, seconds: float, say: _Saying, parts: _Parts) -> None:
    until = time.monotonic() + seconds
    while not stop.wait(min(SAY_S, max(until - time.monotonic(), 0))) and time.monotonic() < until:
        parts.beat()
        say.say(parts.failures)


class _Parts:
    """The kinds of work, each with its own failure."""

    def __init__(
        self, compaction: Compaction, builder: SummaryBuilder, retention: Housekeeping, reports: ReportMaker,
        stop: threading.Event, beat: Callable[[], None],
    ) -> None:  # fmt: skip
        self.beat = beat
        self._compaction = compaction
        self._builder = builder
        self._retention = retention
        self._reports = reports
        self._stop = stop
        self._keep_house_at = time.monotonic() + RETENTION_S
        self.failures: dict[str, str] = {}

    def run(self) -> int:
        """Does what waits; returns whether summing up has more to do at once."""
        self._try("compaction", self._compact)
        self._try("reports", lambda: self._reports.make_due(self.beat))
        more = self._try("summaries", lambda: self._builder.build_some(SLICE_S, self._stop.is_set))
        at_once = isinstance(more, int) and not self.failures
        if "summaries" not in self.failures and self._builder.problem:
            self.failures["summaries"] = self._builder.problem
        if time.monotonic() >= self._keep_house_at:
            self._keep_house_at = time.monotonic() + RETENTION_S
            self._try("retention", self._retention.run_all)
        return more if isinstance(more, int) and at_once else 0

    def _compact(self) -> None:
        while self._compaction.compact_step() and not self._stop.is_set():
            self.beat()

    def _try(self, what: str, work: Work) -> object:
        self.beat()
        try:
            result = work()
        except StoreUnavailable as exc:
            _log.warning("The %s waits: %s", what, exc)
            return 0
        except Exception as exc:  # noqa: BLE001 - said in health with its cause, and tried again
            _log.error("The %s fails", what, exc_info=exc)
            self.failures[what] = f"The work on {what} failed: {type(exc).__name__}: {exc}"
            return 0
        self.failures.pop(what, None)
        return result


class _Saying:
    """Puts on record how the work goes, when it changes and now and then."""

    def __init__(self, background: Background | None) -> None:
        self._background = background
        self._said = ""
        self._again_at = 0.0

    def say(self, failures: dict[str, str]) -> None:
        detail = " ".join(failures.values())
        if self._background is None or (detail == self._said and time.monotonic() < self._again_at):
            return
        try:
            self._background.say(failing=bool(failures), detail=detail)
        except StoreError as exc:
            _log.debug("It cannot be said how the work goes: %s", exc)
            return
        self._said, self._again_at = detail, time.monotonic() + SAY_S
