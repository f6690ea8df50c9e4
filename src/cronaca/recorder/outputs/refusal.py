"""Finds what of a flush the database refuses, so that the rest of it can be stored."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final, NamedTuple

import msgspec

from cronaca.core import quality as q
from cronaca.core.codec import Batch
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import StoreRejected
from cronaca.core.model import Gap, GapReason, Series
from cronaca.core.outputs import Record
from cronaca.core.ports import Flush, LiveValues
from cronaca.recorder.outputs.quarantine import Refused

_MOST_VALUES: Final = 10_000
"""Values of one part that are written out in the quarantine."""
_SAMPLES: Final = "samples"
_PRESENT: Final = "present values"
Probe = Callable[[Flush], None]
"""Raises StoreRejected (or any error of our own code) when the flush cannot be stored."""


class Part(NamedTuple):
    """The smallest thing of a flush that can be left out by itself."""

    what: str
    item: Any


@dataclass(frozen=True, slots=True)
class Repaired:
    """What of a flush can be stored, with gaps for the rest; and the rest."""

    flush: Flush
    refused: tuple[Refused, ...]


class RefusedWhole(Exception):
    """Even a flush with nothing in it is refused: that is not the flush's fault."""

    def __init__(self) -> None:
        super().__init__("the database refuses even an empty flush")


def repair(flush: Flush, probe: Probe) -> Repaired:
    """Takes the refused parts out of a flush. Raises RefusedWhole when nothing at all can be stored, and what
    else the probe raises (the database went away meanwhile)."""
    reasons: dict[int, str] = {}

    def accepts(parts: Sequence[Part]) -> bool:
        reason = _why_refused(lambda: probe(_assembled(flush, parts)))
        if reason and len(parts) == 1:
            reasons[id(parts[0])] = reason
        return not reason

    if not accepts([]):
        raise RefusedWhole
    parts = _parts_of(flush)
    guilty = _find_refused(parts, accepts)
    left_out = {id(part) for part in guilty}
    good = [part for part in parts if id(part) not in left_out]
    refused: list[Refused] = []
    gaps: list[Gap] = []
    for part in guilty:
        reason = reasons.get(id(part), "It is refused together with the rest of its flush.")
        mended, values = _mend_record(flush, part, probe) if part.what == Record.kind else (None, [])
        if mended is not None:
            good.append(Part(Record.kind, mended))
            refused += values
            continue
        refused.append(_refused(flush, part, reason))
        gaps += _gap_of(part, reason)
    repaired = _assembled(flush, good)
    return Repaired(replace(repaired, outputs=(*repaired.outputs, *gaps)), tuple(refused))


def _why_refused(work: Callable[[], None]) -> str:
    """Why something cannot be stored, or nothing. A fault of our own code while it is stored counts as a
    refusal: the same flush would meet it again for ever."""
    try:
        work()
    except StoreRejected as exc:
        return str(exc)
    except (ValueError, TypeError, KeyError, ArithmeticError, LookupError, AttributeError) as exc:
        return f"{type(exc).__name__}: {exc}"
    return ""


def _find_refused(parts: Sequence[Part], accepts: Callable[[Sequence[Part]], bool]) -> list[Part]:
    """The parts that are refused, by halves: about log2(n) probes for each."""
    if not parts or accepts(parts):
        return []
    if len(parts) == 1:
        return list(parts)
    middle = len(parts) // 2
    left, right = parts[:middle], parts[middle:]
    refused = [*_find_refused(left, accepts), *_find_refused(right, accepts)]
    return refused or list(right)  # each half is taken, both are not: one of them has to go


def _parts_of(flush: Flush) -> list[Part]:
    return [
        *(Part(_SAMPLES, pair) for pair in flush.batch.series.items()),
        *(Part(output.kind, output) for output in flush.outputs),
        *([Part(_PRESENT, flush.live)] if len(flush.live.tag_ids) else []),
    ]


def _assembled(flush: Flush, parts: Sequence[Part]) -> Flush:
    """A flush with these parts alone."""
    of: dict[str, list[Any]] = {}
    for part in parts:
        of.setdefault(part.what, []).append(part.item)
    live = of.pop(_PRESENT, [])
    return replace(
        flush, batch=Batch(dict(of.pop(_SAMPLES, []))), live=live[0] if live else LiveValues.none(),
        outputs=tuple(output for outputs in of.values() for output in outputs),
    )  # fmt: skip


def _mend_record(flush: Flush, part: Part, probe: Probe) -> tuple[Record | None, list[Refused]]:
    """The record with the values made Bad that are refused; None when it is not a matter of its values."""
    record: Record = part.item
    alone = _assembled(flush, [])

    def with_values(kept: Sequence[Part]) -> Record:
        chosen = {output.item for output in kept}
        quality = tuple(
            code if i in chosen or code >= q.BAD else q.BAD_OUT_OF_RANGE
            for i, code in enumerate(record.quality)
        )
        bits = tuple(b if code < q.BAD else 0 for b, code in zip(record.bits, quality, strict=True))
        return replace(record, bits=bits, quality=quality)

    def why(kept: Sequence[Part]) -> str:
        return _why_refused(lambda: probe(replace(alone, outputs=(with_values(kept),))))

    values = [Part("value", i) for i in range(len(record.tag_ids))]
    if why([]):
        return None, []
    guilty = _find_refused(values, lambda kept: not why(kept))
    left_out = {entry.item for entry in guilty}
    mended = with_values([value for value in values if value.item not in left_out])
    if why([value for value in values if value.item not in left_out]):
        return None, []
    refused = [
        Refused(
            "value of a record", (record.tag_ids[entry.item],), why([entry]), flush.epoch, flush.seq,
            {"logger_id": record.logger_id, "ts_us": record.ts_us, "bits": record.bits[entry.item],
             "quality": record.quality[entry.item]},
        )
        for entry in guilty
    ]  # fmt: skip
    return mended, refused


def _refused(flush: Flush, part: Part, reason: str) -> Refused:
    if part.what == _SAMPLES:
        tag_ids, content = (part.item[0].tag_id,), _samples_content(part.item)
    elif part.what == _PRESENT:
        tag_ids, content = tuple(part.item.tag_ids.tolist()), _live_content(part.item)
    else:
        tag_ids, content = part.item.tag_ids, msgspec.to_builtins(part.item)
    return Refused(part.what, tag_ids, reason, flush.epoch, flush.seq, content)


def _gap_of(part: Part, reason: str) -> list[Gap]:
    """Samples that are not stored leave a gap of their own history."""
    if part.what != _SAMPLES:
        return []
    key: HistoryKey
    series: Series
    key, series = part.item
    detail = f"{len(series)} samples could not be stored: {reason}"
    times = series.ts_us
    return [Gap(int(times.min()), int(times.max()) + 1, GapReason.NOT_STORABLE, detail[:500], (key,))]


def _samples_content(item: tuple[HistoryKey, Series]) -> dict[str, Any]:
    key, series = item
    columns = zip(series.ts_us.tolist(), series.values.tolist(), series.quality.tolist(), strict=True)
    rows = [[ts, value if value == value else None, code] for ts, value, code in columns]  # noqa: PLR0124
    return {"history": list(key), "value_type": series.value_type.name, "samples": rows[:_MOST_VALUES]}


def _live_content(live: LiveValues) -> dict[str, Any]:
    rows = zip(live.tag_ids.tolist(), live.ts_us.tolist(), live.bits.tolist(), live.quality.tolist(),
               strict=True)  # fmt: skip
    return {"values": [list(row) for row in rows][:_MOST_VALUES]}
