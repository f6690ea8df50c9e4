"""Tags as they are set up, and how they are found. How they are changed: tag_changes.py."""

from __future__ import annotations

import json
from collections.abc import Collection, Sequence
from dataclasses import dataclass, fields
from itertools import pairwise
from typing import Final

from cronaca.core.errors import NotFound
from cronaca.core.model import Tag, ValueType
from cronaca.core.search import MOST_WORDS, search_words
from cronaca.core.setup import TagSpec
from cronaca.db.transaction import Row, Transaction

_SPEC_FIELDS: Final = tuple(field.name for field in fields(TagSpec))
_COLUMNS: Final = (
    "t.tag_id, t.uid, t.revision, t.name, s.uid, t.address, t.description, t.value_type, t.unit, "
    "t.range_low, t.range_high, t.decimals, t.stepped, t.equipment, t.scan_us, t.colour, t.states"
)
_FROM: Final = "FROM tag t JOIN source s ON s.source_id = t.source_id"
_HAS_WORDS: Final = " AND ".join(f"INSTR({{told}}, %(word_{place})s)" for place in range(MOST_WORDS))
_FIRST: Final = " + ".join(
    f"{2 ** (MOST_WORDS - place)} * (INSTR({{told}}, %(pair_{place})s) > 0)"
    for place in range(MOST_WORDS - 1)
)
"""Which of the words stand beside each other as they were typed, the first ones above all: Line 2 comes
before a Zone 2 of Line 1."""
_WHERE: Final = f"""
WHERE t.removed_us IS NULL
    AND (({_HAS_WORDS.format(told="CONCAT_WS(' ', t.name, t.description, t.equipment, t.unit)")})
        OR INSTR(t.address, %(text)s))
    AND (%(source)s = '' OR s.uid = %(source)s)
    AND (%(value_type)s = 0 OR t.value_type = %(value_type)s)
    AND (%(equipment)s = '' OR t.equipment = %(equipment)s
        OR LEFT(t.equipment, CHAR_LENGTH(%(equipment)s) + 1) = CONCAT(%(equipment)s, '/'))
    AND (%(recorded)s = 2 OR %(recorded)s =
        EXISTS (SELECT 1 FROM logger_member m WHERE m.tag_id = t.tag_id))
"""
_ORDER: Final = "ORDER BY NATURAL_SORT_KEY(t.name), t.name"
_BEST_FIRST: Final = f"ORDER BY {_FIRST.format(told='t.name')} DESC, NATURAL_SORT_KEY(t.name), t.name"
_NEWEST: Final = (
    f"SELECT {_COLUMNS} {_FROM} {_WHERE} ORDER BY t.tag_id DESC LIMIT %(limit)s OFFSET %(offset)s"
)
_SEARCH: Final = f"SELECT {_COLUMNS} {_FROM} {_WHERE} {_BEST_FIRST} LIMIT %(limit)s OFFSET %(offset)s"
_COUNT: Final = f"SELECT COUNT(*) {_FROM} {_WHERE}"
_UIDS: Final = f"SELECT t.uid {_FROM} {_WHERE} {_ORDER}"
_BY_UIDS: Final = f"SELECT {_COLUMNS} {_FROM} WHERE t.removed_us IS NULL AND t.uid IN %(uids)s"
_ALL: Final = f"SELECT {_COLUMNS} {_FROM} WHERE t.removed_us IS NULL {_ORDER}"
_EQUIPMENT: Final = """
SELECT equipment, COUNT(*) FROM tag WHERE removed_us IS NULL GROUP BY equipment
ORDER BY NATURAL_SORT_KEY(equipment), equipment
"""
_TAG_COLUMNS: Final = (
    "tag_id, uid, name, description, value_type, unit, range_low, range_high, decimals, stepped, "
    "equipment, source_id, address, scan_us, colour, states"
)
_INSERT: Final = """
INSERT INTO tag (uid, name, description, value_type, unit, range_low, range_high, decimals, stepped,
    equipment, source_id, address, scan_us, colour, states)
VALUES (%(uid)s, %(name)s, %(description)s, %(value_type)s, %(unit)s, %(range_low)s, %(range_high)s,
    %(decimals)s, %(stepped)s, %(equipment)s, %(source_id)s, %(address)s, %(scan_us)s, %(colour)s,
    %(states)s)
"""
_LIST: Final = f"SELECT {_TAG_COLUMNS} FROM tag WHERE removed_us IS NULL ORDER BY tag_id"
_BY_WORDS: Final = f"""
FROM tag WHERE removed_us IS NULL
    AND {_HAS_WORDS.format(told="CONCAT_WS(' ', name, description, equipment, unit)")}
"""
_BY_TEXT: Final = f"""
SELECT {_TAG_COLUMNS} {_BY_WORDS}
ORDER BY {_FIRST.format(told="name")} DESC,
    tag_id NOT IN (SELECT tag_id FROM logger_member), NATURAL_SORT_KEY(name), name
LIMIT %(limit)s OFFSET %(offset)s
"""
_COUNT_BY_TEXT: Final = f"SELECT COUNT(*) {_BY_WORDS}"
_TAGS_BY_UIDS: Final = f"SELECT {_TAG_COLUMNS} FROM tag WHERE uid IN %(uids)s"
_BY_NUMBERS: Final = f"SELECT {_TAG_COLUMNS} FROM tag WHERE tag_id IN %(numbers)s"
_NAMES: Final = "SELECT tag_id, name FROM tag WHERE tag_id IN %(tag_ids)s"
_SOURCE_IDS: Final = "SELECT tag_id, source_id FROM tag WHERE tag_id IN %(tag_ids)s"
_IS_STEPPED: Final = "SELECT stepped OR value_type <> 1 FROM tag WHERE tag_id = %(tag_id)s"


@dataclass(frozen=True, slots=True)
class TagRow:
    """A tag as it is set up."""

    tag_id: int
    uid: str
    revision: int
    spec: TagSpec


@dataclass(frozen=True, slots=True)
class TagFilter:
    """Which tags: the words of a text, each somewhere in name, description, equipment or unit, or the text as
    it is in the address; `equipment` with all below it."""

    text: str = ""
    source: str = ""
    value_type: ValueType | None = None
    equipment: str = ""
    recorded: bool | None = None

    def params(self) -> dict[str, object]:
        """For the queries."""
        return {
            **_words(self.text), "text": self.text, "source": self.source,
            "value_type": int(self.value_type or 0), "equipment": self.equipment,
            "recorded": 2 if self.recorded is None else int(self.recorded),
        }  # fmt: skip


def list_tags(tx: Transaction) -> list[Tag]:
    """All tags."""
    return [_tag(row) for row in tx.fetch(_LIST)]


def insert_tag(tx: Transaction, tag: Tag) -> int:
    """Adds a tag without a record of the change (its `tag_id` is not looked at); returns its number."""
    columns = {name: getattr(tag, name) for name in Tag.__slots__ if name != "tag_id"}
    return tx.insert(_INSERT, **{**columns, "value_type": int(tag.value_type)})


def search_by_text(tx: Transaction, text: str, limit: int, offset: int) -> tuple[int, list[Tag]]:
    """How many tags hold each word of the text in name, description, equipment or unit, and one page of them:
    those with the words beside each other first, of these those that are recorded, each by name with numbers
    in their order (Unit 2 before Unit 10)."""
    words = _words(text)
    row = tx.fetch_one(_COUNT_BY_TEXT, **words)
    rows = tx.fetch(_BY_TEXT, **words, limit=limit, offset=offset)
    return (int(row[0]) if row else 0), [_tag(r) for r in rows]


def _words(text: str) -> dict[str, str]:
    words = search_words(text)
    pairs = [f"{one} {two}" if two else "" for one, two in pairwise(words)]
    return {
        **{f"word_{place}": word for place, word in enumerate(words)},
        **{f"pair_{place}": pair for place, pair in enumerate(pairs)},
    }


def find_tags(tx: Transaction, uids: list[str]) -> dict[str, Tag]:
    """The tags of these uids that exist."""
    if not uids:
        return {}
    return {tag.uid: tag for tag in (_tag(row) for row in tx.fetch(_TAGS_BY_UIDS, uids=uids))}


def get_by_numbers(tx: Transaction, numbers: Collection[int]) -> list[Tag]:
    """The tags of these numbers, removed ones too."""
    return [_tag(row) for row in tx.fetch(_BY_NUMBERS, numbers=sorted(numbers))] if numbers else []


def list_names(tx: Transaction, tag_ids: Sequence[int]) -> dict[int, str]:
    """The name of each tag, by number."""
    rows = tx.fetch(_NAMES, tag_ids=sorted(set(tag_ids))) if tag_ids else []
    return {int(tag_id): name for tag_id, name in rows}


def list_source_ids(tx: Transaction, tag_ids: Sequence[int]) -> dict[int, int]:
    """The source of each tag, by number."""
    rows = tx.fetch(_SOURCE_IDS, tag_ids=sorted(set(tag_ids))) if tag_ids else []
    return {int(tag_id): int(source_id) for tag_id, source_id in rows}


def is_stepped(tx: Transaction, tag_id: int) -> bool:
    """Whether a tag's line holds its values until the next one."""
    row = tx.fetch_one(_IS_STEPPED, tag_id=tag_id)
    return row is not None and bool(row[0])


def _tag(row: Row) -> Tag:
    columns = dict(zip(Tag.__slots__, row, strict=True))
    return Tag(
        **{**columns, "value_type": ValueType(columns["value_type"]), "stepped": bool(columns["stepped"])}
    )


def search_tags(
    tx: Transaction, chosen: TagFilter, limit: int, offset: int, *, newest: bool = False
) -> tuple[int, list[TagRow]]:
    """How many tags match, and one page of them: those with the words beside each other first, by name; or
    those first that were added last."""
    row = tx.fetch_one(_COUNT, **chosen.params())
    rows = tx.fetch(_NEWEST if newest else _SEARCH, **chosen.params(), limit=limit, offset=offset)
    return (int(row[0]) if row else 0), [_row(row) for row in rows]


def list_uids(tx: Transaction, chosen: TagFilter) -> list[str]:
    """The uids of all tags that match, by name."""
    return [uid for (uid,) in tx.fetch(_UIDS, **chosen.params())]


def list_rows(tx: Transaction) -> list[TagRow]:
    """All tags by name."""
    return [_row(row) for row in tx.fetch(_ALL)]


def list_equipment(tx: Transaction) -> list[tuple[str, int]]:
    """Each equipment that tags belong to, and how many."""
    return [(name, int(count)) for name, count in tx.fetch(_EQUIPMENT)]


def get_rows(tx: Transaction, uids: Sequence[str], field: str = "tag") -> list[TagRow]:
    """These tags, in order; raises NotFound."""
    by_uid = {row[1]: _row(row) for row in tx.fetch(_BY_UIDS, uids=list(uids))} if uids else {}
    for uid in uids:
        if uid not in by_uid:
            raise NotFound("tag", uid, field=field)
    return [by_uid[uid] for uid in uids]


def _row(row: Row) -> TagRow:
    columns = dict(zip(_SPEC_FIELDS, row[3:], strict=True))
    columns |= {"value_type": ValueType(columns["value_type"]), "stepped": bool(columns["stepped"])}
    # The order of a place's columns says nothing: what is compared is written one way.
    columns["address"] = json.dumps(json.loads(columns["address"]), sort_keys=True)
    return TagRow(row[0], row[1], row[2], TagSpec(**columns))
