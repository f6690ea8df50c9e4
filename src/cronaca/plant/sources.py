"""Sources as they are set up: read, added, changed, removed."""

from __future__ import annotations

import json
import uuid
from dataclasses import dataclass
from typing import Final

from cronaca.core.addresses import load_settings, settings_to_plain
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.model import SourceSetup
from cronaca.core.setup import SourceSpec
from cronaca.core.setup.specs import secret_belongs
from cronaca.db.transaction import Row, Transaction
from cronaca.plant import tag_changes
from cronaca.plant.changes import By, Log, check_revision

_COLUMNS: Final = "s.source_id, s.uid, s.revision, s.name, s.protocol, s.config, s.enabled"
_ROWS: Final = f"""
SELECT {_COLUMNS}, (SELECT COUNT(*) FROM tag t WHERE t.source_id = s.source_id AND t.removed_us IS NULL),
    (SELECT COUNT(*) FROM source_secret x WHERE x.source_id = s.source_id)
FROM source s WHERE s.removed_us IS NULL ORDER BY NATURAL_SORT_KEY(s.name), s.name
"""
_FIND: Final = f"""
SELECT {_COLUMNS}, 0, (SELECT COUNT(*) FROM source_secret x WHERE x.source_id = s.source_id)
FROM source s WHERE s.uid = %(uid)s AND s.removed_us IS NULL
"""
_NAMED: Final = "SELECT uid FROM source WHERE live_name = %(name)s"
_ADD: Final = """
INSERT INTO source (uid, name, protocol, config, enabled)
VALUES (%(uid)s, %(name)s, %(protocol)s, %(config)s, %(enabled)s)
"""
_CHANGE: Final = """
UPDATE source SET name = %(name)s, config = %(config)s, enabled = %(enabled)s, revision = revision + 1
WHERE uid = %(uid)s
"""
_REMOVE: Final = "UPDATE source SET removed_us = %(now_us)s, revision = revision + 1 WHERE uid = %(uid)s"
_REVIVE: Final = "UPDATE source SET removed_us = NULL, revision = revision + 1 WHERE uid = %(uid)s"
_INSERT: Final = """
INSERT INTO source (uid, name, protocol, config, enabled)
VALUES (%(uid)s, %(name)s, %(protocol)s, %(config)s, TRUE)
"""
_SET_CONFIG: Final = "UPDATE source SET config = %(config)s WHERE uid = %(uid)s"
_LIST: Final = """
SELECT source_id, uid, name, protocol, config, enabled FROM source WHERE removed_us IS NULL ORDER BY source_id
"""
_PUT_CREDENTIAL: Final = """
INSERT INTO source_secret (source_id, secret) SELECT source_id, %(secret)s FROM source WHERE uid = %(uid)s
ON DUPLICATE KEY UPDATE secret = VALUES(secret)
"""
_DROP_CREDENTIAL: Final = """
DELETE s FROM source_secret s JOIN source USING (source_id) WHERE source.uid = %(uid)s
"""
_LONGEST_CREDENTIAL: Final = 500
_TAGS_OF: Final = """
SELECT t.uid FROM tag t JOIN source s ON s.source_id = t.source_id
WHERE s.uid = %(uid)s AND t.removed_us IS NULL
"""


@dataclass(frozen=True, slots=True)
class SourceRow:
    """A source as it is set up."""

    source_id: int
    uid: str
    revision: int
    spec: SourceSpec
    tags: int
    has_secret: bool


def list_sources(tx: Transaction) -> list[SourceSetup]:
    """All sources as the recorder takes them, without passwords."""
    rows = tx.fetch(_LIST)
    return [
        SourceSetup(number, uid, name, kind, config, bool(on)) for number, uid, name, kind, config, on in rows
    ]


def insert_source(tx: Transaction, uid: str, name: str, protocol: str, config: dict[str, object]) -> int:
    """Adds an enabled source as it is, without a record of the change; returns its number."""
    return tx.insert(_INSERT, uid=uid, name=name, protocol=protocol, config=json.dumps(config))


def set_config(tx: Transaction, uid: str, config: dict[str, object]) -> None:
    """Changes where a source is found."""
    tx.execute(_SET_CONFIG, uid=uid, config=json.dumps(config))


def list_rows(tx: Transaction) -> list[SourceRow]:
    """All sources by name, with the number of their tags."""
    return [_row(row) for row in tx.fetch(_ROWS)]


def get_source(tx: Transaction, uid: str, field: str = "source") -> SourceRow:
    """One source; raises NotFound."""
    row = tx.fetch_one(_FIND, uid=uid)
    if row is None:
        raise NotFound("source", uid, field=field)
    return _row(row)


def add_source(tx: Transaction, spec: SourceSpec, by: By, uid: str = "") -> str:
    """Adds a source; returns its uid. Raises InvalidInput."""
    spec = spec.checked()
    log = Log(tx, "source", by)
    _check_free(tx, spec.name, "")
    uid = uid or str(uuid.uuid4())
    tx.insert(_ADD, uid=uid, **_columns(spec), protocol=spec.protocol)
    log.note(uid, None, spec.to_plain())
    log.write()
    return uid


def change_source(tx: Transaction, uid: str, spec: SourceSpec, by: By, seen: int | None = None) -> None:
    """Changes a source; its protocol stays. Raises InvalidInput, NotFound, EditConflict."""
    spec = spec.checked()
    log = Log(tx, "source", by)
    row = get_source(tx, uid)
    check_revision(tx, "source", uid, row.spec.name, has=row.revision, seen=seen)
    if spec.protocol != row.spec.protocol:
        raise InvalidInput(
            "protocol", "source-keeps-protocol", "a source keeps its protocol", "Add another source."
        )
    _check_free(tx, spec.name, uid)
    if not secret_belongs(spec.settings, row.spec.settings):
        # Whoever changes it (a person, a set-up file, a restored change) has not given the password for this.
        put_secret(tx, uid, "")
    tx.execute(_CHANGE, uid=uid, **_columns(spec))
    log.note(uid, row.spec.to_plain(), spec.to_plain())
    log.write()


def put_secret(tx: Transaction, uid: str, secret: str) -> None:
    """The password for the user of a source; an empty one is forgotten. Belongs into the transaction of a
    change: that tells the recorder. Raises InvalidInput."""
    if len(secret) > _LONGEST_CREDENTIAL:
        raise InvalidInput(
            "secret",
            "too-long",
            "it is too long",
            "Give at most {longest_credential} letters.",
            longest_credential=_LONGEST_CREDENTIAL,
        )
    tx.execute(_PUT_CREDENTIAL if secret else _DROP_CREDENTIAL, uid=uid, secret=secret)


def remove_source(tx: Transaction, uid: str, by: By, seen: int | None = None) -> None:
    """Removes a source with its tags; their history stays. Raises NotFound, EditConflict."""
    log = Log(tx, "source", by)
    row = get_source(tx, uid)
    check_revision(tx, "source", uid, row.spec.name, has=row.revision, seen=seen)
    tag_changes.remove_tags(tx, [tag_id for (tag_id,) in tx.fetch(_TAGS_OF, uid=uid)], by)
    put_secret(tx, uid, "")
    tx.execute(_REMOVE, uid=uid, now_us=by.created_us)
    log.note(uid, row.spec.to_plain(), None)
    log.write()


def revive_source(tx: Transaction, uid: str, name: str) -> None:
    """A removed source is there again, without the tags it had. Raises InvalidInput when its name was given
    away."""
    _check_free(tx, name, uid)
    tx.execute(_REVIVE, uid=uid)


def _check_free(tx: Transaction, name: str, own_uid: str) -> None:
    row = tx.fetch_one(_NAMED, name=name)
    if row is not None and row[0] != own_uid:
        raise InvalidInput(
            "name", "source-name-taken", "there is a source {name!r}", "Take another name.", name=name
        )


def _columns(spec: SourceSpec) -> dict[str, object]:
    return {
        "name": spec.name,
        "config": json.dumps(settings_to_plain(spec.settings)),
        "enabled": spec.enabled,
    }


def _row(row: Row) -> SourceRow:
    number, uid, revision, name, protocol, config, enabled, tags, secrets = row
    return SourceRow(
        number,
        uid,
        revision,
        SourceSpec(name, protocol, load_settings(protocol, json.loads(config)), bool(enabled)),
        int(tags),
        bool(secrets),
    )
