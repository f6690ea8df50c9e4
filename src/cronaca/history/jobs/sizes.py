"""What history takes on disk, by tag."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from cronaca.db.transaction import Transaction

_BY_TAG: Final = """
SELECT t.name, a.name, SUM(m.sample_count), SUM(m.bytes), SUM(m.segments), MIN(m.first_us), MAX(m.last_us),
    COALESCE((SELECT SUM(LENGTH(r.shape) + LENGTH(r.figures)) FROM rollup r
        WHERE r.archive_id = m.archive_id AND r.tag_id = m.tag_id), 0)
FROM history_month m JOIN tag t ON t.tag_id = m.tag_id JOIN archive a ON a.archive_id = m.archive_id
GROUP BY m.archive_id, m.tag_id ORDER BY SUM(m.bytes) DESC, t.name
"""
_OF_TAGS: Final = "SELECT COALESCE(SUM(sample_count), 0) FROM history_month WHERE tag_id IN %(tag_ids)s"
_ON_DISK: Final = """
SELECT COALESCE(SUM(data_length + index_length), 0) FROM information_schema.tables
WHERE table_schema = DATABASE() AND table_name IN ('segment', 'rollup', 'summary_hour', 'summary_day',
    'history_month')
"""


@dataclass(frozen=True, slots=True)
class TagSize:
    """The history of a tag in an archive: samples, bytes of segments and of rollups."""

    tag: str
    archive: str
    samples: int
    bytes: int
    segments: int
    first_us: int | None
    last_us: int | None
    rollup_bytes: int

    @property
    def bytes_per_sample(self) -> float | None:
        """Of segments and rollups together; None without samples."""
        return (self.bytes + self.rollup_bytes) / self.samples if self.samples else None


def list_sizes(tx: Transaction) -> list[TagSize]:
    """All histories, the largest first."""
    return [
        TagSize(tag, archive, int(n), int(size), int(segments), first, last, int(rollup))
        for tag, archive, n, size, segments, first, last, rollup in tx.fetch(_BY_TAG)
    ]


def count_samples(tx: Transaction, tag_ids: list[int]) -> int:
    """How many samples of these tags are in segments, of all archives."""
    row = tx.fetch_one(_OF_TAGS, tag_ids=tag_ids) if tag_ids else None
    return 0 if row is None else int(row[0])


def size_on_disk(tx: Transaction) -> int:
    """What all history tables take by the database's own account, in bytes."""
    row = tx.fetch_one(_ON_DISK)
    return int(row[0]) if row else 0
