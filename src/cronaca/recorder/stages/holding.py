"""What holds a logger off: its inhibit tag, its schedule, the tag that says whether it is wanted."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from zoneinfo import ZoneInfo

from cronaca.core import quality as q
from cronaca.core.logger_rules.schedule import is_within
from cronaca.core.loggers import Logger
from cronaca.core.model import GapReason, Tag
from cronaca.core.setup.whole import Setup
from cronaca.recorder.live import LiveTable


@dataclass(frozen=True, slots=True)
class Hold:
    """Why a logger does not record though it is switched on."""

    gap: GapReason
    state: str
    why: str
    text: str


class Holding:
    """Which loggers are held off, and why."""

    def __init__(self, live: LiveTable) -> None:
        self._live = live
        self._zone = ZoneInfo("UTC")
        self._tags: Mapping[int, Tag] = {}
        self._held: dict[int, Hold] = {}

    def follow(self, setup: Setup, at_work: Iterable[int]) -> None:
        """Goes over to a set-up."""
        self._zone = ZoneInfo(setup.zone)
        self._tags = {tag.tag_id: tag for tag in setup.tags}
        here = set(at_work)
        self._held = {number: hold for number, hold in self._held.items() if number in here}

    def look(self, loggers: Iterable[Logger], now_us: int) -> list[tuple[int, Hold | None]]:
        """The loggers that are held off from now on, or are no longer (None)."""
        result = []
        for logger in loggers:
            before = self._held.get(logger.logger_id)
            hold = self._hold(logger, before, now_us)
            if hold == before:
                continue
            if hold is None:
                del self._held[logger.logger_id]
            else:
                self._held[logger.logger_id] = hold
            result.append((logger.logger_id, hold))
        return result

    def of(self, logger_id: int) -> Hold | None:
        """What holds a logger off."""
        return self._held.get(logger_id)

    def __contains__(self, logger_id: int) -> bool:
        return logger_id in self._held

    def _hold(self, logger: Logger, before: Hold | None, now_us: int) -> Hold | None:
        """Only a usable value holds off, or lets go: a failed source must do neither."""
        if self._says(logger.inhibit_tag, now_us):
            text = f"{self._name(logger.inhibit_tag)} inhibits it."
            return Hold(GapReason.LOGGER_INHIBITED, "inhibited", "inhibit tag", text)
        spans, tag_id = logger.when.spans, logger.when.tag
        if spans and not is_within(spans, self._zone, now_us):
            return Hold(GapReason.LOGGER_PAUSED, "paused", "schedule", "It is outside its schedule.")
        if tag_id is None:
            return None
        hold = self._says(tag_id, now_us)
        if hold is None:
            return before if before is not None and before.why == "tag" else None
        text = f"{self._name(tag_id)} disables it at present."
        return None if hold else Hold(GapReason.LOGGER_PAUSED, "paused", "tag", text)

    def members_off(self, logger: Logger, before: frozenset[int], now_us: int) -> frozenset[int]:
        """The members that tags of their own hold off, where `before` were. Only a usable value holds off, or
        lets go."""
        members = set()
        for member, tag_id in logger.inhibits:
            says = self._says(tag_id, now_us)
            if says or (says is None and member in before):
                members.add(member)
        return frozenset(members)

    def _says(self, tag_id: int | None, now_us: int) -> bool | None:
        """Whether a tag is not zero; None where it has no usable value."""
        if tag_id is None or tag_id not in self._live.slots:
            return None
        reading = self._live.at(self._live.slots_of([tag_id]), now_us)
        return None if bool(q.is_bad(reading.quality)[0]) else bool(reading.bits[0] != 0)

    def _name(self, tag_id: int | None) -> str:
        tag = self._tags.get(tag_id or 0)
        return tag.name if tag else "A tag"
